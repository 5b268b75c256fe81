import { hashPair } from "../mesh/edges";
import { cornerNormals } from "../mesh/normals";
import { tangentsOf } from "../mesh/tangents";
import { triangulate } from "../mesh/triangulate";
import type { NamedMesh } from "./raw-mesh";

export interface FlatPiece {
  material: string;
  positions: Float32Array;
  normals: Float32Array;
  uvs: Float32Array | null;
  tangents: Float32Array | null;
  indices: Uint32Array | Uint16Array;
}

/** A mesh as engines take it: one vertex for each different position, normal, UV and tangent, by material. */
export function flattenMesh(
  { mesh }: NamedMesh,
  withTangents: boolean,
): FlatPiece[] {
  const split = triangulate(mesh);
  const normals = mesh.normals ?? cornerNormals(mesh);
  const tangents =
    withTangents && mesh.uvs ? tangentsOf(mesh, normals, split) : null;
  return mesh.materials.flatMap((material, m) => {
    const words = 3 + 3 + (mesh.uvs ? 2 : 0) + (tangents ? 4 : 0);
    const picked: number[] = [];
    for (let t = 0; t < split.faces.length; t++)
      if ((mesh.faceMaterials ? mesh.faceMaterials[split.faces[t]] : 0) === m)
        picked.push(3 * t, 3 * t + 1, 3 * t + 2);
    if (!picked.length) return [];
    const values = new Float32Array(words * picked.length);
    picked.forEach((i, k) => {
      const at = words * k;
      const v = 3 * split.vertices[i];
      const c = split.corners[i];
      for (let d = 0; d < 3; d++) {
        values[at + d] = mesh.positions[v + d];
        values[at + 3 + d] = normals[3 * c + d];
      }
      if (mesh.uvs) {
        values[at + 6] = mesh.uvs[2 * c];
        values[at + 7] = 1 - mesh.uvs[2 * c + 1];
      }
      if (tangents)
        for (let d = 0; d < 4; d++)
          values[at + words - 4 + d] = tangents[4 * i + d];
    });
    const { indices, unique } = uniqueRows(values, words);
    const column = (from: number, width: number) => {
      const out = new Float32Array(width * unique.length);
      unique.forEach((row, k) => {
        for (let d = 0; d < width; d++)
          out[width * k + d] = values[words * row + from + d];
      });
      return out;
    };
    return [
      {
        material,
        positions: column(0, 3),
        normals: column(3, 3),
        uvs: mesh.uvs ? column(6, 2) : null,
        tangents: tangents ? column(words - 4, 4) : null,
        indices: unique.length < 65535 ? Uint16Array.from(indices) : indices,
      },
    ];
  });
}

function uniqueRows(values: Float32Array, words: number) {
  const bits = new Int32Array(values.buffer);
  const rows = values.length / words;
  const size = 1 << Math.max(4, Math.ceil(Math.log2(rows * 1.6 + 1)));
  const table = new Int32Array(size).fill(-1);
  const indices = new Uint32Array(rows);
  const unique: number[] = [];
  for (let row = 0; row < rows; row++) {
    let h = 0;
    for (let k = 0; k < words; k++) h = hashPair(h, bits[words * row + k]);
    let slot = h & (size - 1);
    for (;;) {
      const at = table[slot];
      if (at < 0) {
        table[slot] = unique.length;
        indices[row] = unique.push(row) - 1;
        break;
      }
      let same = true;
      for (let k = 0; k < words && same; k++)
        same = bits[words * unique[at] + k] === bits[words * row + k];
      if (same) {
        indices[row] = at;
        break;
      }
      slot = (slot + 1) & (size - 1);
    }
  }
  return { indices, unique };
}
