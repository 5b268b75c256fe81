import { MeshFormatError } from "../base/errors";
import type { RawPart } from "./raw-mesh";
import { colourByte } from "./colours";
import { MOST_ELEMENTS } from "./limits";
import { NumberList, TextReader } from "./text-reader";

interface Property {
  name: string;
  type: string;
  /** Type of the count, for lists. */
  countType: string | null;
}

interface Element {
  name: string;
  count: number;
  properties: Property[];
}

const SIZES: Record<string, number> = {
  char: 1,
  int8: 1,
  uchar: 1,
  uint8: 1,
  short: 2,
  int16: 2,
  ushort: 2,
  uint16: 2,
  int: 4,
  int32: 4,
  uint: 4,
  uint32: 4,
  float: 4,
  float32: 4,
  double: 8,
  float64: 8,
};

/**
 * Reads PLY: ascii, little or big endian; x y z, nx ny nz, s t (or u v) and colours of vertices, and the faces'
 * vertex lists, or triangle strips; other properties and elements are passed over.
 * In one piece: a property after the other, each reading on where the one before ended.
 * @throws MeshFormatError naming file and place
 */
export function readPly(file: string, bytes: Uint8Array): RawPart[] {
  const { format, elements, start } = readHeader(file, bytes);
  const source =
    format === "ascii"
      ? asciiSource(file, bytes, start)
      : binarySource(file, bytes, start, format === "binary_little_endian");
  const vertex = elements.find((each) => each.name === "vertex");
  if (!vertex)
    throw new MeshFormatError(file, "the header declares no vertices");
  const named = (names: string[]) =>
    names.map((name) =>
      vertex.properties.findIndex((each) => each.name === name),
    );
  const xyz = named(["x", "y", "z"]);
  if (xyz.some((at) => at < 0))
    throw new MeshFormatError(file, "vertices have no x, y and z");
  source.expect(elements);
  const positions = new Float32Array(3 * vertex.count);
  const normalAt = named(["nx", "ny", "nz"]);
  const uvAt = [
    named(["s", "t"]),
    named(["u", "v"]),
    named(["texture_u", "texture_v"]),
  ].find((at) => at.every((k) => k >= 0));
  const normals = normalAt.every((at) => at >= 0)
    ? new Float32Array(3 * vertex.count)
    : null;
  const uvs = uvAt ? new Float32Array(2 * vertex.count) : null;
  const colourAt = [
    named(["red", "green", "blue"]),
    named(["diffuse_red", "diffuse_green", "diffuse_blue"]),
    named(["r", "g", "b"]),
  ].find((at) => at.every((k) => k >= 0));
  const full = colourAt ? fullColour(vertex.properties[colourAt[0]].type) : 0;
  const colours = full ? new Uint8Array(3 * vertex.count) : null;
  const corners = new NumberList(1 << 16);
  const starts = new NumberList(1 << 14);
  starts.push(0);
  for (const element of elements) {
    const row = new Float64Array(element.properties.length);
    for (let i = 0; i < element.count; i++) {
      const where = () => `${element.name} ${i + 1} of ${element.count}`;
      element.properties.forEach((property, k) => {
        if (!property.countType) {
          row[k] = source.value(property.type, where);
          return;
        }
        const n = source.value(property.countType, where);
        if (!(n >= 0 && n <= 1e6))
          throw new MeshFormatError(
            file,
            `${where()} has a list of ${amount(n)} entries`,
          );
        const named = /^vertex_ind(ex|ices)$/.test(property.name);
        const isFace = element.name === "face" && named;
        const strip =
          element.name === "tristrips" && named ? new Strip() : null;
        for (let j = 0; j < n; j++) {
          const value = source.value(property.type, where);
          if (!isFace && !strip) continue;
          if (strip && value === -1) {
            strip.end();
            continue;
          }
          if (!(Number.isInteger(value) && value >= 0 && value < vertex.count))
            throw new MeshFormatError(
              file,
              `${where()} names vertex ${amount(value)}, but there are ${vertex.count}`,
            );
          if (strip) strip.add(value, corners, starts);
          else corners.push(value);
        }
        if (isFace) starts.push(corners.length);
      });
      if (element !== vertex) continue;
      for (let k = 0; k < 3; k++) positions[3 * i + k] = row[xyz[k]];
      if (normals)
        for (let k = 0; k < 3; k++) normals[3 * i + k] = row[normalAt[k]];
      if (uvs) for (let k = 0; k < 2; k++) uvs[2 * i + k] = row[uvAt![k]];
      if (colours)
        for (let k = 0; k < 3; k++)
          colours[3 * i + k] = colourByte(row[colourAt![k]] / full);
    }
  }
  if (starts.length < 2)
    throw new MeshFormatError(
      file,
      `it holds no faces, only ${vertex.count} points`,
    );
  const index = corners.toIndices();
  const spread = <T extends Float32Array | Uint8Array>(
    values: T | null,
    width: number,
  ): T | null => {
    if (!values) return null;
    const wide = new (values.constructor as new (length: number) => T)(
      width * index.length,
    );
    for (let c = 0; c < index.length; c++)
      for (let k = 0; k < width; k++)
        wide[width * c + k] = values[width * index[c] + k];
    return wide;
  };
  return [
    {
      name: "",
      positions,
      faceStarts: starts.toIndices(),
      corners: index,
      uvs: spread(uvs, 2),
      normals: spread(normals, 3),
      colours: spread(colours, 3),
      hard: null,
      faceMaterials: null,
      materials: ["surface"],
    },
  ];
}

/** What stands for full light in a colour of a type. */
const fullColour = (type: string) =>
  ({ 1: 255, 2: 65535, 4: /^float/.test(type) ? 1 : 255, 8: 1 })[SIZES[type]]!;

/** Triangles of a strip, every second one turned back to face the same way; −1 in the list ends a strip. */
class Strip {
  private count = 0;
  private before = 0;
  private last = 0;

  end(): void {
    this.count = 0;
  }

  add(vertex: number, corners: NumberList, starts: NumberList): void {
    if (this.count >= 2) {
      const turned = this.count % 2 === 1;
      corners.push(turned ? this.last : this.before);
      corners.push(turned ? this.before : this.last);
      corners.push(vertex);
      starts.push(corners.length);
    }
    this.before = this.last;
    this.last = vertex;
    this.count++;
  }
}

/** A number of the file as it is shown in a refusal; what is none is said to be none. */
const amount = (value: number) =>
  Number.isNaN(value) ? "(no number)" : String(value);

function readHeader(file: string, bytes: Uint8Array) {
  const reader = new TextReader(bytes);
  if (reader.word() !== "ply")
    throw new MeshFormatError(file, 'line 1: a PLY file begins with "ply"');
  reader.nextLine();
  let format = "";
  const elements: Element[] = [];
  const fail = (what: string) =>
    new MeshFormatError(file, `line ${reader.line}: ${what}`);
  for (let lines = 0; ; lines++) {
    if (reader.done || lines > 1000)
      throw new MeshFormatError(file, "the header has no end");
    const word = reader.word();
    if (word === "format") format = reader.word();
    else if (word === "element") {
      const name = reader.word();
      const written = reader.word();
      const count = Number(written);
      if (!Number.isInteger(count) || count < 0 || count > MOST_ELEMENTS)
        throw fail(
          `"${written.slice(0, 20)}" is no possible number of ${name.slice(0, 20)}s`,
        );
      elements.push({ name, count, properties: [] });
    } else if (word === "property") {
      const element = elements[elements.length - 1];
      if (!element) throw fail("a property before any element");
      let type = reader.word();
      let countType: string | null = null;
      if (type === "list") {
        countType = reader.word();
        type = reader.word();
      }
      if (!SIZES[type] || (countType && !SIZES[countType]))
        throw fail(`unknown type "${type.slice(0, 20)}"`);
      element.properties.push({ name: reader.word(), type, countType });
    } else if (word === "end_header") {
      const empty = elements.find(
        ({ count, properties }) => count > 0 && !properties.length,
      );
      if (empty)
        throw fail(`${empty.count} ${empty.name}s without any property`);
      reader.nextLine();
      break;
    }
    reader.nextLine();
  }
  if (!["ascii", "binary_little_endian", "binary_big_endian"].includes(format))
    throw new MeshFormatError(file, `unknown format "${format.slice(0, 20)}"`);
  return { format, elements, start: reader.at };
}

interface Source {
  /** Refuses counts that the data can't hold, before anything is made for them. */
  expect(elements: Element[]): void;
  value(type: string, where: () => string): number;
}

function asciiSource(file: string, bytes: Uint8Array, start: number): Source {
  const reader = new TextReader(bytes);
  reader.at = start;
  return {
    expect(elements) {
      const rows = elements.reduce((sum, each) => sum + each.count, 0);
      if (rows * 2 > bytes.length - start + 2)
        throw new MeshFormatError(
          file,
          `the header promises ${rows} rows, the file is too short for them`,
        );
    },
    value(_, where) {
      reader.skipSpace();
      const value = reader.number();
      if (value === undefined)
        throw new MeshFormatError(file, `the file ends at ${where()}`);
      return value;
    },
  };
}

function binarySource(
  file: string,
  bytes: Uint8Array,
  start: number,
  little: boolean,
): Source {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = start;
  return {
    expect(elements) {
      const least = elements.reduce(
        (sum, each) =>
          sum +
          each.count *
            each.properties.reduce(
              (size, p) => size + SIZES[p.countType ?? p.type],
              0,
            ),
        0,
      );
      if (least > bytes.length - start)
        throw new MeshFormatError(
          file,
          `the header promises at least ${least} bytes of data, there are ${bytes.length - start}`,
        );
    },
    value(type, where) {
      const size = SIZES[type];
      if (at + size > bytes.length)
        throw new MeshFormatError(file, `the file ends at ${where()}`);
      const p = at;
      at += size;
      switch (type) {
        case "char":
        case "int8":
          return view.getInt8(p);
        case "uchar":
        case "uint8":
          return view.getUint8(p);
        case "short":
        case "int16":
          return view.getInt16(p, little);
        case "ushort":
        case "uint16":
          return view.getUint16(p, little);
        case "int":
        case "int32":
          return view.getInt32(p, little);
        case "uint":
        case "uint32":
          return view.getUint32(p, little);
        case "float":
        case "float32":
          return view.getFloat32(p, little);
        default:
          return view.getFloat64(p, little);
      }
    },
  };
}
