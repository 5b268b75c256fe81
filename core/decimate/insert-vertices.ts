import { dot } from "../space/vector";
import { buildEdges } from "../mesh/edges";
import type { Triangles } from "./soup";
import { cross, shape, THINNEST } from "../mesh/triangle-shape";

/** Where a vertex is wanted: over which triangle, by the weights of its second and third corner, and its place. */
export interface WantedVertex {
  triangle: number;
  u: number;
  v: number;
  point: ArrayLike<number>;
}

/** With a smaller weight than this a place is at an edge: the edge is split. */
const INSIDE = 0.18;

/**
 * Puts vertices into a mesh, two triangles each: into the middle of a triangle, or into an edge with the triangle
 * behind it. A place where that would turn a triangle over or make it much thinner is passed over, and so is one
 * beside another. Triangles keep their numbers; what is split off comes after them.
 * In one piece: every step grows the same arrays.
 * @param wanted places in the order in which they are tried
 * @param most how many are put in
 */
export function insertVertices(
  mesh: Triangles,
  wanted: readonly WantedVertex[],
  most: number,
): Triangles {
  const { triangles } = mesh;
  const faceStarts = new Uint32Array(triangles.length / 3 + 1).map(
    (_, t) => 3 * t,
  );
  const edges = buildEdges({ corners: triangles, faceStarts });
  const points = [...mesh.positions];
  const corners = [...triangles];
  /** The triangle that each new one is a piece of. */
  const from: number[] = [];
  const used = new Uint8Array(triangles.length / 3);
  const splits = (t: number, pieces: readonly Corners[]) =>
    staySound(points, triangles.subarray(3 * t, 3 * t + 3), pieces);
  for (const { triangle: t, u, v, point } of wanted) {
    if (from.length >= 2 * most) break;
    if (used[t]) continue;
    const weights = [1 - u - v, u, v];
    const least = weights.indexOf(Math.min(...weights));
    const x = points.length / 3;
    const [a, b, c] = [0, 1, 2].map(
      (k) => triangles[3 * t + ((least + k) % 3)],
    );
    points.push(point[0], point[1], point[2]);
    if (weights[least] > INSIDE) {
      const pieces: Corners[] = [
        [a, b, x],
        [b, c, x],
        [c, a, x],
      ];
      if (!splits(t, pieces)) {
        points.length -= 3;
        continue;
      }
      corners.splice(3 * t, 3, a, b, x);
      corners.push(b, c, x, c, a, x);
      from.push(t, t);
    } else {
      const corner = 3 * t + ((least + 1) % 3);
      const e = edges.ofCorner[corner];
      const other =
        edges.first[e] === corner ? edges.second[e] : edges.first[e];
      const s = (other / 3) | 0;
      const d = triangles[3 * s + ((other - 3 * s + 2) % 3)];
      if (
        edges.uses[e] !== 2 ||
        used[s] ||
        triangles[other] !== c ||
        !splits(t, [
          [a, b, x],
          [a, x, c],
        ]) ||
        !splits(s, [
          [d, c, x],
          [d, x, b],
        ])
      ) {
        points.length -= 3;
        continue;
      }
      corners.splice(3 * t, 3, a, b, x);
      corners.splice(3 * s, 3, d, c, x);
      corners.push(a, x, c, d, x, b);
      from.push(t, s);
      used[s] = 1;
    }
    used[t] = 1;
  }
  const extend = (values: Uint16Array) => {
    const longer = new Uint16Array(values.length + from.length);
    longer.set(values);
    from.forEach((t, i) => (longer[values.length + i] = values[t]));
    return longer;
  };
  return {
    positions: Float64Array.from(points),
    triangles: Uint32Array.from(corners),
    owner: extend(mesh.owner),
    material: extend(mesh.material),
    id: extend(mesh.id),
    centre: mesh.centre,
  };
}

type Corners = readonly [number, number, number];

/** Whether what a triangle is split into faces its way and is not much thinner than it is. */
function staySound(
  points: readonly number[],
  whole: ArrayLike<number>,
  pieces: readonly Corners[],
): boolean {
  const [a, b, c] = [whole[0], whole[1], whole[2]];
  const old = cross(points, a, b, c);
  const least = Math.min(THINNEST, 0.9 * shape(points, a, b, c, old));
  return pieces.every(([i, j, k]) => {
    const n = cross(points, i, j, k);
    return dot(n, old) > 0 && shape(points, i, j, k, n) > least;
  });
}
