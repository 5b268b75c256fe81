import type { Mesh } from "../mesh/mesh";
import { flattenMesh } from "./flatten-mesh";
import type { NamedMesh } from "./raw-mesh";
import { colouredVertices, colourByte, toSrgb } from "./colours";

/** Writes all parts as one binary little endian PLY; where all have UVs, as triangles with split vertices. */
export function writePly(parts: readonly NamedMesh[]): Uint8Array {
  return parts.length > 0 && parts.every(({ mesh }) => mesh.uvs)
    ? writeUnwrapped(parts)
    : writePlain(parts);
}

function writePlain(parts: readonly NamedMesh[]): Uint8Array {
  const coloured = parts.some(({ mesh }) => mesh.colours);
  const pieces = parts.map(({ mesh }) => {
    const white = () =>
      new Uint8Array(coloured ? mesh.positions.length : 0).fill(255);
    return colouredVertices(mesh) ?? { mesh, colours: white() };
  });
  const sum = (of: (mesh: Mesh) => number) =>
    pieces.reduce((total, { mesh }) => total + of(mesh), 0);
  const writer = startPly(
    sum(({ positions }) => positions.length / 3),
    ["x", "y", "z"],
    coloured,
    sum(({ faceStarts }) => faceStarts.length - 1),
    sum(({ corners }) => corners.length),
  );
  for (const { mesh, colours } of pieces)
    for (let i = 0; i < mesh.positions.length; i += 3) {
      for (let k = 0; k < 3; k++) writer.float(mesh.positions[i + k]);
      if (coloured) for (let k = 0; k < 3; k++) writer.byte(colours[i + k]);
    }
  let base = 0;
  for (const { mesh } of pieces) {
    for (let f = 0; f + 1 < mesh.faceStarts.length; f++) {
      writer.index(mesh.faceStarts[f + 1] - mesh.faceStarts[f]);
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
        writer.index(base + mesh.corners[c]);
    }
    base += mesh.positions.length / 3;
  }
  return writer.bytes;
}

function writeUnwrapped(parts: readonly NamedMesh[]): Uint8Array {
  const pieces = parts.flatMap((part) => flattenMesh(part));
  const coloured = pieces.some(({ colours }) => colours);
  const vertices = pieces.reduce(
    (sum, piece) => sum + piece.positions.length / 3,
    0,
  );
  const faces = pieces.reduce(
    (sum, piece) => sum + piece.indices.length / 3,
    0,
  );
  const writer = startPly(
    vertices,
    ["x", "y", "z", "nx", "ny", "nz", "s", "t"],
    coloured,
    faces,
    3 * faces,
  );
  for (const { positions: p, normals: n, uvs, colours } of pieces)
    for (let v = 0; v < p.length / 3; v++) {
      for (let k = 0; k < 3; k++) writer.float(p[3 * v + k]);
      for (let k = 0; k < 3; k++) writer.float(n[3 * v + k]);
      writer.float(uvs![2 * v]);
      writer.float(1 - uvs![2 * v + 1]);
      if (coloured)
        for (let k = 0; k < 3; k++)
          writer.byte(colours ? colourByte(toSrgb(colours[3 * v + k])) : 255);
    }
  let base = 0;
  for (const { positions, indices } of pieces) {
    for (let i = 0; i < indices.length; i++) {
      if (i % 3 === 0) writer.index(3);
      writer.index(base + indices[i]);
    }
    base += positions.length / 3;
  }
  return writer.bytes;
}

/** @param corners of all faces together */
function startPly(
  vertices: number,
  properties: readonly string[],
  coloured: boolean,
  faces: number,
  corners: number,
) {
  const shades = coloured ? ["red", "green", "blue"] : [];
  const header = new TextEncoder().encode(
    `ply\nformat binary_little_endian 1.0\ncomment Arnik\nelement vertex ${vertices}\n` +
      properties.map((name) => `property float ${name}\n`).join("") +
      shades.map((name) => `property uchar ${name}\n`).join("") +
      `element face ${faces}\nproperty list uint uint vertex_indices\nend_header\n`,
  );
  const bytes = new Uint8Array(
    header.length +
      (4 * properties.length + shades.length) * vertices +
      4 * (faces + corners),
  );
  bytes.set(header);
  const view = new DataView(bytes.buffer);
  let at = header.length;
  return {
    bytes,
    byte(value: number) {
      view.setUint8(at, value);
      at += 1;
    },
    float(value: number) {
      view.setFloat32(at, value, true);
      at += 4;
    },
    index(value: number) {
      view.setUint32(at, value, true);
      at += 4;
    },
  };
}
