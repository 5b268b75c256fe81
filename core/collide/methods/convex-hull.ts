import { cross } from "../../mesh/triangle-shape";
import { boundsOf } from "../../space/bounds";
import { seededRandom } from "../../base/random";

/** A closed convex triangle mesh. */
export interface ConvexMesh {
  /** 3 × vertexCount, metres. */
  positions: Float32Array;
  /** 3 × triangleCount, counter-clockwise from outside. */
  triangles: Uint32Array;
}

interface Face {
  a: number;
  b: number;
  c: number;
  nx: number;
  ny: number;
  nz: number;
  d: number;
  /** Points outside this face, and the farthest of them. */
  outside: number[];
  far: number;
  distance: number;
  alive: boolean;
}

/** No vertex lies farther outside one of the hull's faces than this share of its size. */
const BULGE = 1e-4;
/** Where it does, points are moved by so much of the size before the hull is built again, four times as much each time. */
const JOGGLE = 2e-6;
const TRIES = 4;
/** Faces with less area than this share of the squared size don't say which way they face. */
const SLIVER = 1e-4;

/**
 * Convex hull of points (Quickhull, Barber et al. 1996), always taking the point that stands out farthest; so
 * it can stop at a number of vertices with the largest gap closed first. Where points in one plane or line made it
 * less than convex, it is built again of points moved by next to nothing ("joggled input", section 6 there).
 * @param points 3 × n
 * @param limit most vertices, at least 4
 * @returns null where the points lie in a plane, a line or a point
 */
export function convexHull(
  points: ArrayLike<number>,
  limit = Infinity,
): ConvexMesh | null {
  let best = quickhull(points, points, limit);
  if (!best) return null;
  const { min, max } = boundsOf(best.positions);
  const size = Math.hypot(...max.map((high, k) => high - min[k]));
  let least = bulgeOf(best, size);
  for (let turn = 0; turn < TRIES && least > BULGE * size; turn++) {
    const random = seededRandom(turn + 1);
    const by = JOGGLE * 4 ** turn * size;
    const moved = Float64Array.from(points, (x) => x + by * (2 * random() - 1));
    const next = quickhull(moved, points, limit);
    const bulge = next ? bulgeOf(next, size) : Infinity;
    if (bulge >= least) continue;
    best = next!;
    least = bulge;
  }
  return best;
}

/** Vertices times faces that are looked at; of more only some vertices are. */
const LOOKED_AT = 4e6;

/**
 * How far a vertex lies outside a face at the most, metres.
 * @param size of the hull: faces that are slivers against it don't count
 */
export function bulgeOf(
  { positions, triangles }: ConvexMesh,
  size: number,
): number {
  let most = 0;
  const pairs = (positions.length / 3) * (triangles.length / 3);
  const stride = 3 * Math.max(1, Math.ceil(pairs / LOOKED_AT));
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = triangles.subarray(t, t + 3);
    const n = cross(positions, a, b, c);
    const length = Math.hypot(...n);
    if (length < SLIVER * size * size) continue;
    const d =
      n[0] * positions[3 * a] +
      n[1] * positions[3 * a + 1] +
      n[2] * positions[3 * a + 2];
    for (let v = 0; v < positions.length; v += stride)
      most = Math.max(
        most,
        (n[0] * positions[v] +
          n[1] * positions[v + 1] +
          n[2] * positions[v + 2] -
          d) /
          length,
      );
  }
  return most;
}

/** @param places where the vertices of the result lie; `points` decide which they are */
function quickhull(
  points: ArrayLike<number>,
  places: ArrayLike<number>,
  limit: number,
): ConvexMesh | null {
  const start = firstTetrahedron(points);
  if (!start) return null;
  const { corners, tolerance } = start;
  const faces: Face[] = [];
  const [p, q, r, s] = corners;
  for (const [a, b, c, other] of [
    [p, q, r, s],
    [p, q, s, r],
    [p, r, s, q],
    [q, r, s, p],
  ]) {
    const face = makeFace(points, a, b, c);
    faces.push(
      heightOver(points, face, other) > 0 ? makeFace(points, a, c, b) : face,
    );
  }
  for (let i = 0; i < points.length / 3; i++)
    assign(points, i, faces, tolerance);
  let vertices = 4;
  while (vertices < limit) {
    let next: Face | null = null;
    for (const face of faces)
      if (face.alive && face.distance > (next?.distance ?? 0)) next = face;
    if (!next) break;
    addPoint(points, faces, next.far, tolerance);
    vertices++;
    if (faces.length > 4096 && faces.length % 1024 === 0) compact(faces);
  }
  return toMesh(
    places,
    faces.filter((face) => face.alive),
  );
}

function firstTetrahedron(points: ArrayLike<number>) {
  const n = points.length / 3;
  if (n < 4) return null;
  let a = 0;
  let b = 0;
  let span = 0;
  for (let axis = 0; axis < 3; axis++) {
    let low = 0;
    let high = 0;
    for (let i = 1; i < n; i++) {
      if (points[3 * i + axis] < points[3 * low + axis]) low = i;
      if (points[3 * i + axis] > points[3 * high + axis]) high = i;
    }
    const size = points[3 * high + axis] - points[3 * low + axis];
    if (size > span) {
      span = size;
      a = low;
      b = high;
    }
  }
  const tolerance = span * 1e-6;
  if (!(span > 0)) return null;
  let c = -1;
  let most = tolerance * span;
  const e = [0, 1, 2].map((k) => points[3 * b + k] - points[3 * a + k]);
  for (let i = 0; i < n; i++) {
    const w = [0, 1, 2].map((k) => points[3 * i + k] - points[3 * a + k]);
    const area = Math.hypot(
      e[1] * w[2] - e[2] * w[1],
      e[2] * w[0] - e[0] * w[2],
      e[0] * w[1] - e[1] * w[0],
    );
    if (area > most) {
      most = area;
      c = i;
    }
  }
  if (c < 0) return null;
  const base = makeFace(points, a, b, c);
  let d = -1;
  let height = tolerance;
  for (let i = 0; i < n; i++) {
    const h = Math.abs(heightOver(points, base, i));
    if (h > height) {
      height = h;
      d = i;
    }
  }
  return d < 0 ? null : { corners: [a, b, c, d], tolerance };
}

function makeFace(p: ArrayLike<number>, a: number, b: number, c: number): Face {
  const u = [0, 1, 2].map((k) => p[3 * b + k] - p[3 * a + k]);
  const v = [0, 1, 2].map((k) => p[3 * c + k] - p[3 * a + k]);
  let nx = u[1] * v[2] - u[2] * v[1];
  let ny = u[2] * v[0] - u[0] * v[2];
  let nz = u[0] * v[1] - u[1] * v[0];
  const length = Math.hypot(nx, ny, nz) || 1;
  nx /= length;
  ny /= length;
  nz /= length;
  const d = nx * p[3 * a] + ny * p[3 * a + 1] + nz * p[3 * a + 2];
  return {
    a,
    b,
    c,
    nx,
    ny,
    nz,
    d,
    outside: [],
    far: -1,
    distance: 0,
    alive: true,
  };
}

const heightOver = (p: ArrayLike<number>, f: Face, i: number) =>
  f.nx * p[3 * i] + f.ny * p[3 * i + 1] + f.nz * p[3 * i + 2] - f.d;

function assign(
  points: ArrayLike<number>,
  i: number,
  faces: readonly Face[],
  tolerance: number,
): void {
  for (const face of faces) {
    if (!face.alive) continue;
    const h = heightOver(points, face, i);
    if (h <= tolerance) continue;
    face.outside.push(i);
    if (h > face.distance) {
      face.distance = h;
      face.far = i;
    }
    return;
  }
}

/** Takes away what the point sees and closes the hole with a fan to it. */
function addPoint(
  points: ArrayLike<number>,
  faces: Face[],
  point: number,
  tolerance: number,
): void {
  const seen = faces.filter(
    (face) => face.alive && heightOver(points, face, point) > tolerance * 0.01,
  );
  const edges = new Map<string, [number, number]>();
  const orphans: number[] = [];
  for (const face of seen) {
    face.alive = false;
    for (const i of face.outside) if (i !== point) orphans.push(i);
    for (const [a, b] of [
      [face.a, face.b],
      [face.b, face.c],
      [face.c, face.a],
    ]) {
      if (!edges.delete(`${b} ${a}`)) edges.set(`${a} ${b}`, [a, b]);
    }
  }
  const fan = [...edges.values()].map(([a, b]) =>
    makeFace(points, a, b, point),
  );
  faces.push(...fan);
  for (const i of orphans) assign(points, i, fan, tolerance);
}

function compact(faces: Face[]): void {
  const alive = faces.filter((face) => face.alive);
  faces.length = 0;
  for (const face of alive) faces.push(face);
}

function toMesh(points: ArrayLike<number>, faces: readonly Face[]): ConvexMesh {
  const names = new Map<number, number>();
  const positions: number[] = [];
  const triangles: number[] = [];
  for (const { a, b, c } of faces)
    for (const v of [a, b, c]) {
      let name = names.get(v);
      if (name === undefined) {
        name = names.size;
        names.set(v, name);
        positions.push(points[3 * v], points[3 * v + 1], points[3 * v + 2]);
      }
      triangles.push(name);
    }
  return {
    positions: new Float32Array(positions),
    triangles: new Uint32Array(triangles),
  };
}

/** Volume inside a closed triangle mesh, m³ (divergence theorem, about its first vertex for precision). */
export function volumeOf(
  p: ArrayLike<number>,
  triangles: ArrayLike<number>,
): number {
  if (!triangles.length) return 0;
  const o = 3 * triangles[0];
  let sum = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [
      3 * triangles[t],
      3 * triangles[t + 1],
      3 * triangles[t + 2],
    ];
    const ax = p[a] - p[o];
    const ay = p[a + 1] - p[o + 1];
    const az = p[a + 2] - p[o + 2];
    const bx = p[b] - p[o];
    const by = p[b + 1] - p[o + 1];
    const bz = p[b + 2] - p[o + 2];
    const cx = p[c] - p[o];
    const cy = p[c + 1] - p[o + 1];
    const cz = p[c + 2] - p[o + 2];
    sum +=
      ax * (by * cz - bz * cy) -
      ay * (bx * cz - bz * cx) +
      az * (bx * cy - by * cx);
  }
  return sum / 6;
}
