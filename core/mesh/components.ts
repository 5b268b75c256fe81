import type { Mesh } from "./mesh";
import { faceCount, vertexCount } from "./mesh";
import { UnionFind } from "../base/union-find";

/**
 * Faces joined through shared vertices get the same number.
 * @returns how many components there are, and faceCount numbers of them
 */
export function faceComponents(mesh: Mesh): {
  count: number;
  ofFace: Uint32Array;
} {
  const count = vertexCount(mesh);
  const joined = new UnionFind(count);
  const { corners, faceStarts } = mesh;
  for (let f = 0; f + 1 < faceStarts.length; f++) {
    const first = corners[faceStarts[f]];
    for (let c = faceStarts[f] + 1; c < faceStarts[f + 1]; c++)
      joined.join(corners[c], first);
  }
  const names = new Int32Array(count).fill(-1);
  const ofFace = new Uint32Array(faceCount(mesh));
  let pieces = 0;
  for (let f = 0; f < ofFace.length; f++) {
    const root = joined.find(corners[faceStarts[f]]);
    if (names[root] < 0) names[root] = pieces++;
    ofFace[f] = names[root];
  }
  return { count: pieces, ofFace };
}
