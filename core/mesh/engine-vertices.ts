import { cornerNormals } from "./normals";
import type { Mesh } from "./mesh";
import { faceCount } from "./mesh";

/**
 * Vertices as an engine counts them: corners share one only where place, normal, UV and material are the same.
 * @returns what the places alone come to, and the count with all that splits them
 */
export function engineVertices(mesh: Mesh): { places: number; split: number } {
  const normals = mesh.normals ?? cornerNormals(mesh);
  const { uvs, corners, faceStarts, faceMaterials } = mesh;
  const places = new Set<number>();
  const split = new Set<string>();
  for (let f = 0; f < faceCount(mesh); f++)
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++) {
      places.add(corners[c]);
      split.add(
        `${corners[c]} ${faceMaterials?.[f] ?? 0} ${unit(normals[3 * c])} ${unit(normals[3 * c + 1])} ${unit(normals[3 * c + 2])}` +
          (uvs ? ` ${uvs[2 * c]} ${uvs[2 * c + 1]}` : ""),
      );
    }
  return { places: places.size, split: split.size };
}

/** Normals that differ by less than a thousandth are one. */
const unit = (value: number) => Math.round(1000 * value);
