import { MeshFormatError } from "../base/errors";
import { triangulate } from "../mesh/triangulate";
import type { NamedMesh, RawPart } from "./raw-mesh";
import { checkPartCount } from "./limits";
import { NumberList, TextReader, plainText } from "./text-reader";

/**
 * Reads STL, ascii (each solid a part) or binary. Facet normals are left aside: the corners' order decides.
 * @throws MeshFormatError naming file and place
 */
export function readStl(file: string, bytes: Uint8Array): RawPart[] {
  if (bytes.length >= 84) {
    const count = new DataView(bytes.buffer, bytes.byteOffset).getUint32(
      80,
      true,
    );
    if (84 + 50 * count === bytes.length) return [readBinary(bytes, count)];
  }
  const text = plainText(bytes);
  const start = new TextDecoder().decode(text.subarray(0, 6)).toLowerCase();
  if (start.startsWith("solid")) return readAscii(file, text);
  if (bytes.length < 84)
    throw new MeshFormatError(
      file,
      `an STL file has at least 84 bytes, this one ${bytes.length}`,
    );
  const count = new DataView(bytes.buffer, bytes.byteOffset).getUint32(
    80,
    true,
  );
  const held = Math.floor((bytes.length - 84) / 50);
  throw new MeshFormatError(
    file,
    `the header promises ${count} triangles, the file holds ${held}`,
  );
}

function readBinary(bytes: Uint8Array, count: number): RawPart {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const positions = new Float32Array(9 * count);
  for (let t = 0; t < count; t++)
    for (let k = 0; k < 9; k++)
      positions[9 * t + k] = view.getFloat32(84 + 50 * t + 12 + 4 * k, true);
  return soup("", positions);
}

function readAscii(file: string, bytes: Uint8Array): RawPart[] {
  const reader = new TextReader(bytes);
  const parts: RawPart[] = [];
  let name = "";
  let points = new NumberList();
  const finish = () => {
    if (points.length % 9)
      throw new MeshFormatError(
        file,
        `line ${reader.line}: the solid ends in the middle of a triangle`,
      );
    if (points.length) parts.push(soup(name, points.toFloats()));
    checkPartCount(file, parts.length);
    points = new NumberList(16);
  };
  for (; !reader.done; reader.nextLine()) {
    if (reader.atLineEnd()) continue;
    const word = reader.word().toLowerCase();
    if (word === "solid") {
      finish();
      name = reader.restOfLine();
    } else if (word === "vertex")
      for (let k = 0; k < 3; k++) {
        const value = reader.number();
        if (value === undefined)
          throw new MeshFormatError(
            file,
            `line ${reader.line}: a vertex needs 3 numbers`,
          );
        points.push(value);
      }
  }
  finish();
  if (!parts.length)
    throw new MeshFormatError(file, "there is no triangle in it");
  return parts;
}

function soup(name: string, positions: Float32Array): RawPart {
  const count = positions.length / 9;
  const faceStarts = new Uint32Array(count + 1).map((_, f) => 3 * f);
  const corners = new Uint32Array(3 * count).map((_, c) => c);
  return {
    name,
    positions,
    faceStarts,
    corners,
    uvs: null,
    normals: null,
    hard: null,
    faceMaterials: null,
    materials: ["surface"],
  };
}

/** Writes all parts as one binary STL. */
export function writeStl(parts: readonly NamedMesh[]): Uint8Array {
  const splits = parts.map(({ mesh }) => triangulate(mesh).vertices);
  const count = splits.reduce((sum, vertices) => sum + vertices.length / 3, 0);
  const bytes = new Uint8Array(84 + 50 * count);
  bytes.set(new TextEncoder().encode("Arnik"));
  const view = new DataView(bytes.buffer);
  view.setUint32(80, count, true);
  let at = 84;
  parts.forEach(({ mesh }, m) => {
    const p = mesh.positions;
    const v = splits[m];
    for (let t = 0; t < v.length; t += 3) {
      const [a, b, c] = [3 * v[t], 3 * v[t + 1], 3 * v[t + 2]];
      const u = [0, 1, 2].map((k) => p[b + k] - p[a + k]);
      const w = [0, 1, 2].map((k) => p[c + k] - p[a + k]);
      const n = [
        u[1] * w[2] - u[2] * w[1],
        u[2] * w[0] - u[0] * w[2],
        u[0] * w[1] - u[1] * w[0],
      ];
      const length = Math.hypot(n[0], n[1], n[2]) || 1;
      for (let k = 0; k < 3; k++)
        view.setFloat32(at + 4 * k, n[k] / length, true);
      [a, b, c].forEach((i, corner) => {
        for (let k = 0; k < 3; k++)
          view.setFloat32(at + 12 + 12 * corner + 4 * k, p[i + k], true);
      });
      at += 50;
    }
  });
  return bytes;
}
