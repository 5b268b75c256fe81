import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { cornerNormals, faceNormals } from "../../mesh/normals";
import type { Named } from "./finding";
import type { MeshAnalysis } from "../../mesh/mesh-analysis";

/** A face disagrees where its stored normals, on average, stand off its own by more than this. */
const MOST = Math.cos((80 * Math.PI) / 180);

/** Faces whose stored normals disagree with their geometry. */
export function findStoredNormals({ mesh }: MeshAnalysis): Named {
  const { normals } = mesh;
  if (!normals) return { count: 0 };
  const own = faceNormals(mesh);
  const faces: number[] = [];
  for (let f = 0; f < faceCount(mesh); f++) {
    const s = mesh.faceStarts[f];
    const e = mesh.faceStarts[f + 1];
    const flat = own[3 * f] || own[3 * f + 1] || own[3 * f + 2];
    let sum = 0;
    for (let c = s; c < e; c++)
      for (let k = 0; k < 3; k++) sum += normals[3 * c + k] * own[3 * f + k];
    if (flat && sum < MOST * (e - s)) faces.push(f);
  }
  return { count: faces.length, faces };
}

/** Gives the faces whose normals disagree new ones from the geometry, smooth with their neighbours. */
export function renewNormals(
  mesh: Mesh,
  look: MeshAnalysis,
): { mesh: Mesh; renewed: number } {
  const { faces = [] } = findStoredNormals(look);
  if (!faces.length || !mesh.normals) return { mesh, renewed: 0 };
  const fresh = cornerNormals(mesh);
  const normals = mesh.normals.slice();
  for (const f of faces)
    normals.set(
      fresh.subarray(3 * mesh.faceStarts[f], 3 * mesh.faceStarts[f + 1]),
      3 * mesh.faceStarts[f],
    );
  return { mesh: { ...mesh, normals }, renewed: faces.length };
}
