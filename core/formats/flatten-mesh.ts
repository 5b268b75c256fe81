import { hashPair } from "../base/pair-set";
import { cornerNormals } from "../mesh/normals";
import { tangentsOf } from "../mesh/tangents";
import { triangulate } from "../mesh/triangulate";
import type { StreamName } from "../mesh/streams";
import { toLinear } from "./colours";
import { FACE_MARKS } from "./marks";
import type { NamedMesh } from "./raw-mesh";

export interface FlatPiece {
  material: string;
  positions: Float32Array;
  normals: Float32Array;
  uvs: Float32Array | null;
  tangents: Float32Array | null;
  /** 3 × vertices: linear light, 0 … 1. */
  colours: Float32Array | null;
  /** Marks of faces, one a vertex. */
  marks: [StreamName, Float32Array][];
  indices: Uint32Array | Uint16Array;
}

export interface FlattenOptions {
  tangents?: boolean;
  /** Marks of faces too, so that what was done to them is not lost; engines have no use for them. */
  marks?: boolean;
}

/** What a vertex of the flat mesh has, for corner i of the triangulation. */
interface Column {
  width: number;
  at(i: number, d: number): number;
}

/**
 * A mesh as engines take it: one vertex for each different position, normal, UV, tangent and colour, by material.
 * In one piece: one walk over the corners fills all streams at once.
 */
export function flattenMesh(
  { mesh }: NamedMesh,
  { tangents: withTangents, marks: withMarks }: FlattenOptions = {},
): FlatPiece[] {
  const split = triangulate(mesh);
  const normals = mesh.normals ?? cornerNormals(mesh);
  const { uvs, colours } = mesh;
  const tangents =
    withTangents && uvs ? tangentsOf(mesh, normals, split) : null;
  const marked = withMarks ? FACE_MARKS.filter((name) => mesh[name]) : [];
  const corner = (values: ArrayLike<number>, width: number): Column => ({
    width,
    at: (i, d) => values[width * split.corners[i] + d],
  });
  const columns: Column[] = [
    { width: 3, at: (i, d) => mesh.positions[3 * split.vertices[i] + d] },
    corner(normals, 3),
  ];
  const add = (column: Column) => columns.push(column) - 1;
  const uvAt =
    uvs &&
    add({
      width: 2,
      at: (i, d) => {
        const value = uvs[2 * split.corners[i] + d];
        return d ? 1 - value : value;
      },
    });
  const tangentAt =
    tangents && add({ width: 4, at: (i, d) => tangents[4 * i + d] });
  const light = colours && LIGHT;
  const colourAt =
    colours &&
    add({ width: 3, at: (i, d) => light![colours[3 * split.corners[i] + d]] });
  const marksAt = marked.map((name) =>
    add({ width: 1, at: (i) => mesh[name]![split.faces[(i / 3) | 0]] }),
  );
  const starts = [0];
  for (const { width } of columns) starts.push(starts.at(-1)! + width);
  const words = starts.at(-1)!;
  return mesh.materials.flatMap((material, m) => {
    const picked: number[] = [];
    for (let t = 0; t < split.faces.length; t++)
      if ((mesh.faceMaterials ? mesh.faceMaterials[split.faces[t]] : 0) === m)
        picked.push(3 * t, 3 * t + 1, 3 * t + 2);
    if (!picked.length) return [];
    const values = new Float32Array(words * picked.length);
    columns.forEach(({ width, at }, c) =>
      picked.forEach((i, k) => {
        const to = words * k + starts[c];
        for (let d = 0; d < width; d++) values[to + d] = at(i, d);
      }),
    );
    const { indices, unique } = uniqueRows(values, words);
    const column = (c: number) => {
      const { width } = columns[c];
      const out = new Float32Array(width * unique.length);
      unique.forEach((row, k) => {
        for (let d = 0; d < width; d++)
          out[width * k + d] = values[words * row + starts[c] + d];
      });
      return out;
    };
    const maybe = (c: number | null) => (c === null ? null : column(c));
    return [
      {
        material,
        positions: column(0),
        normals: column(1),
        uvs: maybe(uvAt),
        tangents: maybe(tangentAt),
        colours: maybe(colourAt),
        marks: marked.map((name, k): [StreamName, Float32Array] => [
          name,
          column(marksAt[k]),
        ]),
        indices: unique.length < 65535 ? Uint16Array.from(indices) : indices,
      },
    ];
  });
}

/** 256: what each step of sRGB is of linear light. */
const LIGHT = Float32Array.from({ length: 256 }, (_, i) => toLinear(i / 255));

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
