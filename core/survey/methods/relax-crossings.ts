import type { Mesh } from "../../mesh/mesh";

/** Passes over the vertices each time. */
const PASSES = 12;

/**
 * The mesh with the vertices of some faces drawn to the middle of their neighbours, pass after pass, so that small
 * folds open (Taubin 1995 without the step back: there is nothing to keep of a fold).
 * @param marks by face: 1 where vertices may move
 * @param held vertices that stay
 */
export function relaxed(
  mesh: Mesh,
  marks: ArrayLike<number>,
  held: ReadonlySet<number>,
): Mesh {
  const { corners, faceStarts } = mesh;
  const near = new Map<number, number[]>();
  const free = new Set<number>();
  for (let f = 0; f + 1 < faceStarts.length; f++)
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++) {
      const v = corners[c];
      if (marks[f] && !held.has(v)) free.add(v);
      const next = corners[c + 1 < faceStarts[f + 1] ? c + 1 : faceStarts[f]];
      // Inner edges come once from each side.
      for (const [from, to] of [
        [v, next],
        [next, v],
      ]) {
        const list = near.get(from);
        if (list) list.push(to);
        else near.set(from, [to]);
      }
    }
  const positions = mesh.positions.slice();
  for (let pass = 0; pass < PASSES; pass++)
    for (const v of free) {
      const list = near.get(v)!;
      for (let k = 0; k < 3; k++) {
        let sum = 0;
        for (const w of list) sum += positions[3 * w + k];
        positions[3 * v + k] = sum / list.length;
      }
    }
  return { ...mesh, positions };
}
