import { buildEdges } from "../../core/mesh/edges";
import type { Mesh } from "../../core/mesh/mesh";

/** Colours of seams, alike on the model and on the sheet, so that borders that belong together are seen. */
export const SEAM_COLOURS = [
  "#8a3d2b",
  "#1f6f78",
  "#6e5e9b",
  "#4f7f3a",
  "#9a6a12",
  "#8a2f62",
  "#2f5f96",
  "#5d5a2b",
] as const;

/** For the edge that leaves each corner, which of the colours its seam has; −1 where there is none. */
export function seamColours(mesh: Mesh): Int8Array {
  const edges = buildEdges(mesh);
  const found = new Int8Array(mesh.corners.length).fill(-1);
  const { seams } = mesh;
  if (!seams) return found;
  const at = new Map<number, number[]>();
  for (let e = 0; e < edges.count; e++)
    if (seams[edges.first[e]])
      for (const v of [edges.vertices[2 * e], edges.vertices[2 * e + 1]])
        at.set(v, [...(at.get(v) ?? []), e]);
  const parent = new Int32Array(edges.count).map((_, e) => e);
  const find = (e: number): number => {
    while (parent[e] !== e) e = parent[e] = parent[parent[e]];
    return e;
  };
  // A seam goes on where just two of its edges meet.
  for (const [a, b, more] of at.values())
    if (b !== undefined && more === undefined) parent[find(a)] = find(b);
  const names = new Map<number, number>();
  for (let e = 0; e < edges.count; e++) {
    if (!seams[edges.first[e]]) continue;
    const root = find(e);
    if (!names.has(root)) names.set(root, names.size % SEAM_COLOURS.length);
    for (const c of [edges.first[e], edges.second[e]])
      if (c >= 0) found[c] = names.get(root)!;
  }
  return found;
}
