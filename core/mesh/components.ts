import type { Mesh } from "./mesh";
import { faceCount, vertexCount } from "./mesh";

/** Faces joined through shared vertices get the same number. */
export function faceComponents(mesh: Mesh): {
  count: number;
  ofFace: Uint32Array;
} {
  const parent = new Uint32Array(vertexCount(mesh)).map((_, v) => v);
  const find = (v: number) => {
    while (parent[v] !== v) {
      parent[v] = parent[parent[v]];
      v = parent[v];
    }
    return v;
  };
  const { corners, faceStarts } = mesh;
  for (let f = 0; f + 1 < faceStarts.length; f++) {
    const root = find(corners[faceStarts[f]]);
    for (let c = faceStarts[f] + 1; c < faceStarts[f + 1]; c++)
      parent[find(corners[c])] = root;
  }
  const names = new Int32Array(parent.length).fill(-1);
  const ofFace = new Uint32Array(faceCount(mesh));
  let count = 0;
  for (let f = 0; f < ofFace.length; f++) {
    const root = find(corners[faceStarts[f]]);
    if (names[root] < 0) names[root] = count++;
    ofFace[f] = names[root];
  }
  return { count, ofFace };
}
