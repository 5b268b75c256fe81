import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";

/** A source with marked faces baked only, or counting for the game mesh again. */
export function withSourceOnly(
  mesh: Mesh,
  marks: ArrayLike<number>,
  on: boolean,
): Mesh {
  const sourceOnly =
    mesh.sourceOnly?.slice() ?? new Uint8Array(faceCount(mesh));
  for (let f = 0; f < sourceOnly.length; f++)
    if (marks[f]) sourceOnly[f] = on ? 1 : 0;
  return {
    ...mesh,
    sourceOnly: sourceOnly.some((mark) => mark) ? sourceOnly : null,
  };
}
