import type { Mesh } from "./mesh";
import { faceCount } from "./mesh";
import { createMesh } from "./change-faces";

/** Some faces of a mesh as a mesh of the same vertices, without attributes. */
export interface FacesRound {
  mesh: Mesh;
  /** The mesh's own number of each corner and of each face. */
  oldCorner: Uint32Array;
  oldFace: Uint32Array;
}

/**
 * The faces that have a corner at a marked vertex: what is asked about few places need not look at the whole mesh.
 * @param marked vertexCount, 0 where nothing is asked
 */
export function facesRound(mesh: Mesh, marked: Uint8Array): FacesRound {
  const { corners, faceStarts, positions } = mesh;
  const faces: number[] = [];
  let count = 0;
  for (let f = 0; f < faceCount(mesh); f++)
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++)
      if (marked[corners[c]]) {
        faces.push(f);
        count += faceStarts[f + 1] - faceStarts[f];
        break;
      }
  const starts = new Uint32Array(faces.length + 1);
  const oldCorner = new Uint32Array(count);
  let at = 0;
  faces.forEach((f, i) => {
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++) oldCorner[at++] = c;
    starts[i + 1] = at;
  });
  return {
    mesh: createMesh({
      positions,
      faceStarts: starts,
      corners: oldCorner.map((c) => corners[c]),
    }),
    oldCorner,
    oldFace: Uint32Array.from(faces),
  };
}
