import type { UnwrapMesh } from "../unwrap-mesh";

/** What a seam along an edge may not cross at any price that can be avoided. */
const FORBIDDEN = 1e4;

/**
 * What a seam along each edge costs: its length, less in creases (concave ones most), less where it shows
 * little, more where it was forbidden.
 * @param ranks faceCount, 0 for what shows least … 1 for most, or null where seams need not hide
 * @param hide 0 … 1, how much hiding counts
 * @returns edgeCount, metres
 */
export function edgeCosts(
  m: UnwrapMesh,
  ranks: Float32Array | null,
  hide: number,
): Float64Array {
  const { edges, mesh, normals: n, faceOfCorner } = m;
  const p = mesh.positions;
  const costs = new Float64Array(edges.count);
  for (let e = 0; e < edges.count; e++) {
    const a = 3 * edges.vertices[2 * e];
    const b = 3 * edges.vertices[2 * e + 1];
    const length = Math.hypot(
      p[a] - p[b],
      p[a + 1] - p[b + 1],
      p[a + 2] - p[b + 2],
    );
    costs[e] = length;
    if (edges.second[e] < 0) continue;
    const f = faceOfCorner[edges.first[e]];
    const g = faceOfCorner[edges.second[e]];
    const dot =
      n[3 * f] * n[3 * g] +
      n[3 * f + 1] * n[3 * g + 1] +
      n[3 * f + 2] * n[3 * g + 2];
    const turn = Math.max(0, Math.min(1, 1 - dot));
    const crease =
      1 -
      0.75 * Math.min(1, 1.4 * turn) -
      (concave(m, e, f, g) ? 0.15 * Math.min(1, 3 * turn) : 0);
    let seen = 1;
    if (ranks) {
      const rank = (ranks[f] + ranks[g]) / 2;
      const t = Math.max(0, Math.min(1, (rank - 0.12) / 0.3));
      seen = 1 - hide * (1 - (0.12 + 0.88 * t * t * (3 - 2 * t)));
    }
    costs[e] =
      length *
      crease *
      seen *
      (m.mesh.seamOverrides?.[edges.first[e]] === 2 ? FORBIDDEN : 1);
  }
  return costs;
}

/** Whether the faces fold towards each other. */
function concave(m: UnwrapMesh, e: number, f: number, g: number): boolean {
  const { mesh, normals: n, next } = m;
  const p = mesh.positions;
  const a = 3 * mesh.corners[m.edges.first[e]];
  const opposite = 3 * mesh.corners[next[next[m.edges.second[e]]]];
  let side = 0;
  for (let k = 0; k < 3; k++)
    side += n[3 * f + k] * (p[opposite + k] - p[a + k]);
  return side > 0 && f !== g;
}
