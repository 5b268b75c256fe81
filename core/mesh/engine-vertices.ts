import { hashPair } from "../base/pair-set";
import { cornerNormals } from "./normals";
import type { Mesh } from "./mesh";
import { faceCount } from "./mesh";

/**
 * Vertices as an engine counts them: corners share one only where place, normal, UV and material are the same.
 * It is asked with every click that changes shading, so corners are told apart by open addressing, without keys.
 * @returns what the places alone come to, and the count with all that splits them
 */
export function engineVertices(mesh: Mesh): { places: number; split: number } {
  const normals = mesh.normals ?? cornerNormals(mesh);
  const { uvs, corners, faceStarts, faceMaterials } = mesh;
  // Normals that differ by less than a thousandth are one.
  const shading = new Int16Array(normals.length);
  for (let i = 0; i < shading.length; i++)
    shading[i] = Math.round(1000 * normals[i]);
  const size = 1 << Math.max(4, Math.ceil(Math.log2(corners.length * 1.5 + 1)));
  const mask = size - 1;
  /** The first corner of each engine vertex, by hash; −1 for none. */
  const table = new Int32Array(size).fill(-1);
  const material = new Uint32Array(corners.length);
  const seen = new Uint8Array(mesh.positions.length / 3);
  let places = 0;
  let split = 0;
  for (let f = 0; f < faceCount(mesh); f++)
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++) {
      if (!seen[corners[c]]) places += seen[corners[c]] = 1;
      material[c] = faceMaterials?.[f] ?? 0;
      let slot =
        hashPair(
          corners[c],
          hashPair(
            (shading[3 * c] << 16) ^ shading[3 * c + 1],
            (shading[3 * c + 2] << 16) ^ material[c],
          ),
        ) & mask;
      for (; table[slot] >= 0; slot = (slot + 1) & mask) {
        const d = table[slot];
        if (
          corners[d] === corners[c] &&
          material[d] === material[c] &&
          shading[3 * d] === shading[3 * c] &&
          shading[3 * d + 1] === shading[3 * c + 1] &&
          shading[3 * d + 2] === shading[3 * c + 2] &&
          (!uvs ||
            (uvs[2 * d] === uvs[2 * c] && uvs[2 * d + 1] === uvs[2 * c + 1]))
        )
          break;
      }
      if (table[slot] >= 0) continue;
      table[slot] = c;
      split++;
    }
  return { places, split };
}
