import { mirrored } from "../../../mesh/mirror-plane";
import type { MirrorPlane } from "../../../mesh/mirror-plane";
import type { Vector } from "../../../space/vector";
import { boundsOf, diagonalOf } from "../../../space/bounds";
import { dot } from "../../../space/vector";
import { VertexGrid } from "../../../mesh/vertex-grid";
import type { UnwrapMesh } from "../unwrap-mesh";
import type { LaidIsland } from "../islands";

const PLANES: readonly Vector[] = [
  [1, 0, 0],
  [0, 0, 1],
  [0, 1, 0],
];

/** Vertices may be so far from their mirror image, as a share of the diagonal. */
const CLOSE = 1e-4;

/**
 * Seams that lie alike on both sides of a mesh whose vertices mirror each other: those of the side on which they
 * cost less, and their images.
 * @returns cornerCount, 1 for a seam, or null where the mesh is not symmetric vertex by vertex
 */
export function symmetricSeams(
  m: UnwrapMesh,
  islands: readonly LaidIsland[],
): Uint8Array | null {
  const { mesh, edges, faceOfCorner } = m;
  const plane = planeOf(m);
  if (!plane || islands.length < 2) return null;
  const label = new Int32Array(m.areas.length).fill(-1);
  islands.forEach(({ chart }, i) => {
    for (const f of chart.faces) label[f] = i;
  });
  const inner = cutsOf(m, islands);
  const byEnds = new Map<string, number>();
  const key = (a: number, b: number) => (a < b ? `${a} ${b}` : `${b} ${a}`);
  for (let e = 0; e < edges.count; e++)
    byEnds.set(key(edges.vertices[2 * e], edges.vertices[2 * e + 1]), e);
  const p = mesh.positions;
  const sides: [number[], number[], number[]] = [[], [], []];
  const costs = [0, 0];
  for (let e = 0; e < edges.count; e++) {
    if (!m.joins[e]) continue;
    const parted =
      inner.has(e) ||
      label[faceOfCorner[edges.first[e]]] !==
        label[faceOfCorner[edges.second[e]]];
    if (!parted) continue;
    const [a, b] = [edges.vertices[2 * e], edges.vertices[2 * e + 1]];
    const off =
      dot(plane.normal, [
        (p[3 * a] + p[3 * b]) / 2,
        (p[3 * a + 1] + p[3 * b + 1]) / 2,
        (p[3 * a + 2] + p[3 * b + 2]) / 2,
      ]) - plane.d;
    const mid = Math.abs(off) < plane.close;
    const side = mid ? 2 : off > 0 ? 0 : 1;
    sides[side].push(e);
    if (!mid) costs[side] += m.costs[e];
  }
  // A side without any seam would leave the other one closed.
  const chosen = !sides[0].length
    ? 1
    : !sides[1].length
      ? 0
      : costs[0] <= costs[1]
        ? 0
        : 1;
  const seams = new Uint8Array(mesh.corners.length);
  const mark = (e: number) => {
    seams[edges.first[e]] = 1;
    if (edges.second[e] >= 0) seams[edges.second[e]] = 1;
  };
  for (const e of sides[2]) mark(e);
  for (const e of sides[chosen]) {
    mark(e);
    const twin = byEnds.get(
      key(
        plane.image[edges.vertices[2 * e]],
        plane.image[edges.vertices[2 * e + 1]],
      ),
    );
    if (twin !== undefined) mark(twin);
  }
  return seams;
}

/** Edges within islands at which their layout is cut open. */
function cutsOf(m: UnwrapMesh, islands: readonly LaidIsland[]): Set<number> {
  const cuts = new Set<number>();
  for (const { chart } of islands) {
    const vertex = new Map<number, number>();
    chart.corners.forEach((c, i) => vertex.set(c, chart.vertexOfCorner[i]));
    for (const c of chart.corners) {
      const e = m.edges.ofCorner[c];
      const d = m.edges.second[e];
      if (m.edges.first[e] !== c || d < 0 || !vertex.has(d)) continue;
      if (
        vertex.get(c) !== vertex.get(m.next[d]) ||
        vertex.get(m.next[c]) !== vertex.get(d)
      )
        cuts.add(e);
    }
  }
  return cuts;
}

/** The plane in which every vertex has an image, and those images. */
function planeOf(
  m: UnwrapMesh,
): (MirrorPlane & { image: Uint32Array; close: number }) | null {
  const p = m.mesh.positions;
  const bounds = boundsOf(p);
  const close = CLOSE * diagonalOf(bounds);
  const grid = new VertexGrid(p);
  for (const normal of PLANES) {
    const d = [0, 1, 2].reduce(
      (sum, k) => sum + (normal[k] * (bounds.min[k] + bounds.max[k])) / 2,
      0,
    );
    const image = new Uint32Array(p.length / 3);
    let all = true;
    for (let v = 0; v < image.length && all; v++) {
      const at = mirrored({ normal, d }, p.subarray(3 * v, 3 * v + 3));
      const found = grid.nearest(at[0], at[1], at[2], close);
      if (found < 0) all = false;
      image[v] = found;
    }
    if (all) return { normal, d, image, close };
  }
  return null;
}
