import earcut from "earcut";
import type { Mesh } from "./mesh";
import { faceCount, triangleCount } from "./mesh";

/** The triangles of a polygon mesh; baking, export and reduction all use this one triangulation. */
export interface Triangulation {
  /** 3 × triangleCount: corner of the mesh at each triangle corner. */
  readonly corners: Uint32Array;
  /** 3 × triangleCount: vertex of the mesh at each triangle corner. */
  readonly vertices: Uint32Array;
  /** triangleCount: face of the mesh each triangle came from. */
  readonly faces: Uint32Array;
}

/**
 * Splits every face into triangles, always in the same way: quads along the diagonal that gives the flatter,
 * not folded pair (the shorter one where both serve), larger faces by ear clipping in their best-fit plane.
 */
export function triangulate(mesh: Mesh): Triangulation {
  const total = triangleCount(mesh);
  const corners = new Uint32Array(3 * total);
  const faces = new Uint32Array(total);
  let at = 0;
  const put = (f: number, a: number, b: number, c: number) => {
    faces[at / 3] = f;
    corners[at++] = a;
    corners[at++] = b;
    corners[at++] = c;
  };
  for (let f = 0; f < faceCount(mesh); f++) {
    const s = mesh.faceStarts[f];
    const n = mesh.faceStarts[f + 1] - s;
    if (n === 3) put(f, s, s + 1, s + 2);
    else if (n === 4) {
      if (splitsAtFirst(mesh, s)) {
        put(f, s, s + 1, s + 2);
        put(f, s, s + 2, s + 3);
      } else {
        put(f, s, s + 1, s + 3);
        put(f, s + 1, s + 2, s + 3);
      }
    } else for (const [a, b, c] of clipEars(mesh, f)) put(f, a, b, c);
  }
  const vertices = new Uint32Array(corners.length);
  for (let i = 0; i < corners.length; i++)
    vertices[i] = mesh.corners[corners[i]];
  return { corners, vertices, faces };
}

/** Whether the quad that starts at corner s is cut from its first to its third corner. */
function splitsAtFirst(mesh: Mesh, s: number): boolean {
  const p = mesh.positions;
  const [a, b, c, d] = [0, 1, 2, 3].map((k) => 3 * mesh.corners[s + k]);
  const first = foldOf(p, a, b, c, d);
  const second = foldOf(p, b, c, d, a);
  if (first < 0 !== second < 0) return first > second;
  // A corner on the line between its neighbours: one of the two ways makes a triangle without area of it.
  const least = [thinnest(p, a, b, c, d), thinnest(p, b, c, d, a)];
  if (Math.min(...least) < NO_AREA && Math.max(...least) > NO_AREA)
    return least[0] > least[1];
  return distance2(p, a, c) <= distance2(p, b, d);
}

/** A triangle has no area where that is below this share of the square of its longest edge. */
const NO_AREA = 1e-6;

/** Twice the area over the squared longest edge of the thinner one of (a,b,c) and (a,c,d). */
function thinnest(
  p: Float32Array,
  a: number,
  b: number,
  c: number,
  d: number,
): number {
  const across = distance2(p, a, c);
  const share = (v: number, x: number, w: number) =>
    Math.hypot(...cross(p, v, x, w)) /
    (Math.max(across, distance2(p, v, x), distance2(p, x, w)) || 1);
  return Math.min(share(a, b, c), share(c, d, a));
}

/** Dot product of the normals of (a,b,c) and (a,c,d): negative where cutting a–c folds the quad. */
function foldOf(
  p: Float32Array,
  a: number,
  b: number,
  c: number,
  d: number,
): number {
  const n = cross(p, a, b, c);
  const m = cross(p, a, c, d);
  return n[0] * m[0] + n[1] * m[1] + n[2] * m[2];
}

function cross(p: Float32Array, a: number, b: number, c: number) {
  const ux = p[b] - p[a];
  const uy = p[b + 1] - p[a + 1];
  const uz = p[b + 2] - p[a + 2];
  const vx = p[c] - p[a];
  const vy = p[c + 1] - p[a + 1];
  const vz = p[c + 2] - p[a + 2];
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx] as const;
}

const distance2 = (p: Float32Array, a: number, b: number) =>
  (p[a] - p[b]) ** 2 + (p[a + 1] - p[b + 1]) ** 2 + (p[a + 2] - p[b + 2]) ** 2;

/** Ear clipping in the plane of the Newell normal; a fan where the outline gives no ears. */
function clipEars(mesh: Mesh, f: number): [number, number, number][] {
  const s = mesh.faceStarts[f];
  const n = mesh.faceStarts[f + 1] - s;
  const p = mesh.positions;
  const normal = [0, 0, 0];
  for (let k = 0; k < n; k++) {
    const a = 3 * mesh.corners[s + k];
    const b = 3 * mesh.corners[s + ((k + 1) % n)];
    for (let axis = 0; axis < 3; axis++) {
      const u = (axis + 1) % 3;
      const v = (axis + 2) % 3;
      normal[axis] += (p[a + u] - p[b + u]) * (p[a + v] + p[b + v]);
    }
  }
  const drop = [0, 1, 2].reduce((best, axis) =>
    Math.abs(normal[axis]) > Math.abs(normal[best]) ? axis : best,
  );
  const flat: number[] = [];
  for (let k = 0; k < n; k++) {
    const a = 3 * mesh.corners[s + k];
    const u = p[a + ((drop + 1) % 3)];
    const v = p[a + ((drop + 2) % 3)];
    if (normal[drop] >= 0) flat.push(u, v);
    else flat.push(v, u);
  }
  const ears = earcut(flat);
  const found: [number, number, number][] = [];
  if (ears.length === 3 * (n - 2))
    for (let i = 0; i < ears.length; i += 3)
      found.push(orient(s + ears[i], s + ears[i + 1], s + ears[i + 2]));
  else for (let k = 1; k + 1 < n; k++) found.push([s, s + k, s + k + 1]);
  return found;
}

/** Corners of an ear in the order of its face: any cyclic rise of indices is one. */
function orient(a: number, b: number, c: number): [number, number, number] {
  const rising = (a < b && b < c) || (b < c && c < a) || (c < a && a < b);
  return rising ? [a, b, c] : [a, c, b];
}
