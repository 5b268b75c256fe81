import { MeshFormatError } from "../base/errors";
import { buildEdges } from "../mesh/edges";
import { coincident } from "../mesh/weld";
import type { RawPart } from "./raw-mesh";
import { colourByte } from "./colours";
import { MOST_MATERIALS, checkPartCount } from "./limits";
import { NumberList, TextReader } from "./text-reader";

/** Faces gathered under one name. */
interface Piece {
  name: string;
  v: NumberList;
  vt: NumberList;
  vn: NumberList;
  starts: NumberList;
  smoothing: NumberList;
  material: NumberList;
  /** The group that each face was written in, by number. */
  group: NumberList;
}

/**
 * Reads Wavefront OBJ: objects become parts, and their groups where no surface goes on from one into another; groups alone do too, negative indices count
 * back, smoothing groups become hard edges where the file has no normals.
 * In one piece: a statement after the other, each reading and changing the same state.
 * @throws MeshFormatError naming file and line
 */
export function readObj(file: string, bytes: Uint8Array): RawPart[] {
  const reader = new TextReader(bytes);
  const positions = new NumberList(1 << 16);
  const uvs = new NumberList();
  const normals = new NumberList();
  const colours = new VertexColours();
  const materials = new Map<string, number>();
  const pieces = new Map<string, Piece>();
  /** The name under which each vertex was written, for those that no face uses. */
  const owners: string[] = [];
  const ownerOf = new NumberList(1 << 16);
  let object = "";
  let group = "";
  let groupNumber = -1;
  const groups = new Map<string, number>();
  let material = -1;
  let smoothing = 0;
  let lines = 0;
  const fail = (what: string) =>
    new MeshFormatError(file, `line ${reader.line}: ${what}`);
  const numbers = (list: NumberList, wanted: number, least: number) => {
    for (let k = 0; k < wanted; k++) {
      const value = reader.number();
      if (value === undefined && k < least)
        throw fail(`${least} numbers expected, ${k} found`);
      list.push(value ?? 0);
    }
  };
  const index = (word: string, total: number, what: string) => {
    const n = Number(word);
    if (!Number.isInteger(n) || n === 0)
      throw fail(`"${word}" is no ${what} index`);
    const i = n > 0 ? n - 1 : total + n;
    if (i < 0 || i >= total)
      throw fail(`${what} ${n} is out of range: there are ${total}`);
    return i;
  };
  const face = () => {
    const name = object || group;
    let piece = pieces.get(name);
    if (!piece) {
      piece = newPiece(name);
      pieces.set(name, piece);
      checkPartCount(file, pieces.size);
    }
    while (!reader.atLineEnd()) {
      const [v, vt, vn] = reader.word().split("/");
      piece.v.push(index(v, positions.length / 3, "vertex"));
      piece.vt.push(vt ? index(vt, uvs.length / 2, "UV") : -1);
      piece.vn.push(vn ? index(vn, normals.length / 3, "normal") : -1);
    }
    piece.starts.push(piece.v.length);
    piece.smoothing.push(smoothing);
    piece.material.push(material);
    piece.group.push(object ? groupNumber : -1);
  };
  for (; !reader.done; reader.nextLine()) {
    if (reader.atLineEnd()) continue;
    switch (reader.word()) {
      case "v":
        numbers(positions, 3, 3);
        colours.read(reader, positions.length / 3 - 1);
        if (owners.at(-1) !== (object || group)) owners.push(object || group);
        ownerOf.push(owners.length - 1);
        break;
      case "vt":
        numbers(uvs, 2, 1);
        break;
      case "vn":
        numbers(normals, 3, 3);
        break;
      case "f":
        face();
        break;
      case "l":
        lines++;
        break;
      case "o":
        object = reader.restOfLine();
        break;
      case "g":
        group = reader.restOfLine();
        groupNumber = numberOf(groups, group);
        break;
      case "usemtl":
        material = numberOf(materials, reader.restOfLine());
        if (materials.size > MOST_MATERIALS)
          throw fail(`more than ${MOST_MATERIALS} materials`);
        break;
      case "s": {
        const word = reader.word();
        smoothing = word === "off" ? 0 : Number(word) || 0;
        break;
      }
    }
  }
  if (!positions.length)
    throw new MeshFormatError(
      file,
      "there is no vertex in it: is this an OBJ file?",
    );
  if (!pieces.size)
    throw new MeshFormatError(
      file,
      `it holds no faces, only ${positions.length / 3} points${lines ? ` and ${lines} lines` : ""}`,
    );
  const points = positions.toFloats();
  const loose = looseVertices(pieces, points.length / 3, owners, ownerOf);
  const place = new Int32Array(points.length / 3).fill(-1);
  const names = [...materials.keys()];
  const groupNames = [...groups.keys()];
  const parts = [...pieces.values()].flatMap((piece) =>
    byGroup(piece, points, groupNames).map((own, i) => ({
      ...partOf(
        own,
        i ? [] : (loose.get(piece) ?? []),
        points,
        place,
        uvs,
        normals,
        colours,
        names,
      ),
      ...(own !== piece && { group: piece.name }),
    })),
  );
  checkPartCount(file, parts.length);
  return parts;
}

/** Groups of an object as pieces of their own, where no surface goes on from one into another; or the piece itself. */
function byGroup(
  piece: Piece,
  points: Float32Array,
  names: readonly string[],
): Piece[] {
  const faces = piece.group.length;
  const first = piece.group.get(0);
  let alike = true;
  for (let f = 1; f < faces && alike; f++) alike = piece.group.get(f) === first;
  if (alike) return [piece];
  const target = coincident(points, 0);
  const owner = new Int32Array(points.length / 3).fill(-2);
  for (let f = 0; f < faces; f++)
    for (let c = piece.starts.get(f); c < piece.starts.get(f + 1); c++) {
      const v = target[piece.v.get(c)];
      if (owner[v] !== -2 && owner[v] !== piece.group.get(f)) return [piece];
      owner[v] = piece.group.get(f);
    }
  const pieces = new Map<number, Piece>();
  for (let f = 0; f < faces; f++) {
    const group = piece.group.get(f);
    let own = pieces.get(group);
    if (!own) pieces.set(group, (own = newPiece(names[group] ?? piece.name)));
    for (let c = piece.starts.get(f); c < piece.starts.get(f + 1); c++) {
      own.v.push(piece.v.get(c));
      own.vt.push(piece.vt.get(c));
      own.vn.push(piece.vn.get(c));
    }
    own.starts.push(own.v.length);
    own.smoothing.push(piece.smoothing.get(f));
    own.material.push(piece.material.get(f));
    own.group.push(group);
  }
  return [...pieces.values()];
}

function newPiece(name: string): Piece {
  const starts = new NumberList(16);
  starts.push(0);
  return {
    name,
    v: new NumberList(16),
    vt: new NumberList(16),
    vn: new NumberList(16),
    starts,
    smoothing: new NumberList(16),
    material: new NumberList(16),
    group: new NumberList(16),
  };
}

/** Vertices that no face uses, by the piece under whose name they were written (the only one, where it is). */
function looseVertices(
  pieces: ReadonlyMap<string, Piece>,
  count: number,
  owners: readonly string[],
  ownerOf: NumberList,
): Map<Piece, number[]> {
  const used = new Uint8Array(count);
  for (const { v } of pieces.values())
    for (let c = 0; c < v.length; c++) used[v.get(c)] = 1;
  const [first] = pieces.values();
  const loose = new Map<Piece, number[]>();
  for (let v = 0; v < count; v++) {
    if (used[v]) continue;
    const piece =
      pieces.size === 1 ? first : pieces.get(owners[ownerOf.get(v)]);
    if (!piece) continue;
    const list = loose.get(piece);
    if (list) list.push(v);
    else loose.set(piece, [v]);
  }
  return loose;
}

/**
 * The piece with the vertices it uses, and its loose ones, in the order of the file.
 * @param place -1 for every vertex of the file, and again so after: pieces cost what they use, not what the file has
 */
function partOf(
  piece: Piece,
  loose: readonly number[],
  points: Float32Array,
  place: Int32Array,
  uvs: NumberList,
  normals: NumberList,
  colours: VertexColours,
  materials: string[],
): RawPart {
  const count = piece.v.length;
  const vertices: number[] = [];
  const use = (v: number) => {
    if (place[v] < 0) place[v] = vertices.push(v);
  };
  for (let c = 0; c < count; c++) use(piece.v.get(c));
  loose.forEach(use);
  const used = Uint32Array.from(vertices).sort();
  const corners = new Uint32Array(count);
  const positions = new Float32Array(3 * used.length);
  for (let at = 0; at < used.length; at++) {
    const v = used[at];
    place[v] = at;
    for (let k = 0; k < 3; k++) positions[3 * at + k] = points[3 * v + k];
  }
  let hasUvs = uvs.length > 0;
  let hasNormals = normals.length > 0;
  for (let c = 0; c < count; c++) {
    corners[c] = place[piece.v.get(c)];
    if (piece.vt.get(c) < 0) hasUvs = false;
    if (piece.vn.get(c) < 0) hasNormals = false;
  }
  for (const v of used) place[v] = -1;
  const pull = (from: NumberList, index: NumberList, width: number) => {
    const values = new Float32Array(width * count);
    for (let c = 0; c < count; c++)
      for (let k = 0; k < width; k++)
        values[width * c + k] = from.get(width * index.get(c) + k);
    return values;
  };
  const faceStarts = piece.starts.toIndices();
  const own = new Map<string, number>();
  const faceMaterials = new Uint16Array(faceStarts.length - 1);
  for (let f = 0; f < faceMaterials.length; f++)
    faceMaterials[f] = numberOf(
      own,
      materials[piece.material.get(f)] ?? "surface",
    );
  return {
    name: piece.name,
    positions,
    faceStarts,
    corners,
    uvs: hasUvs ? pull(uvs, piece.vt, 2) : null,
    normals: hasNormals ? pull(normals, piece.vn, 3) : null,
    colours: colours.of(piece.v),
    hard: hasNormals ? null : hardFromSmoothing(piece, faceStarts, corners),
    faceMaterials,
    materials: [...own.keys()],
  };
}

/** Colours written after the coordinates of vertices: three numbers, 0 … 1, or 0 … 255 where one is above 1. */
class VertexColours {
  /** 3 for each vertex up to the last that has one; white where others have none. */
  private readonly list = new NumberList();
  private full = 1;

  /** Reads what follows the coordinates of a vertex: three numbers more, or a weight and three. */
  read(reader: TextReader, vertex: number): void {
    if (reader.atLineEnd()) return;
    const rest: number[] = [];
    for (let value = reader.number(); value !== undefined && rest.length < 5;) {
      rest.push(value);
      value = reader.number();
    }
    if (rest.length === 4) rest.shift();
    if (rest.length !== 3 || !rest.every((x) => x >= 0 && x <= 255)) return;
    while (this.list.length < 3 * vertex) this.list.push(NaN);
    for (const x of rest) {
      this.list.push(x);
      if (x > 1) this.full = 255;
    }
  }

  /** 3 × corners, or null where none of them has a colour. @param vertices the vertex of each corner */
  of(vertices: NumberList): Uint8Array | null {
    if (!this.list.length) return null;
    const colours = new Uint8Array(3 * vertices.length);
    let any = false;
    for (let c = 0; c < vertices.length; c++) {
      const at = 3 * vertices.get(c);
      const has = at < this.list.length && !Number.isNaN(this.list.get(at));
      any ||= has;
      for (let k = 0; k < 3; k++)
        colours[3 * c + k] = has
          ? colourByte(this.list.get(at + k) / this.full)
          : 255;
    }
    return any ? colours : null;
  }
}

/** The number of a name, given in the order they come. */
function numberOf(names: Map<string, number>, name: string): number {
  let at = names.get(name);
  if (at === undefined) names.set(name, (at = names.size));
  return at;
}

/** Edges between faces of different smoothing groups, and all edges of faces in none, are hard. */
function hardFromSmoothing(
  piece: Piece,
  starts: Uint32Array,
  corners: Uint32Array,
): Uint8Array | null {
  let any = false;
  for (let f = 0; f + 1 < starts.length && !any; f++)
    any = piece.smoothing.get(f) !== 0;
  if (!any) return null;
  const edges = buildEdges({ corners, faceStarts: starts });
  const hard = new Uint8Array(corners.length);
  const groupOf = new Int32Array(edges.count).fill(-1);
  const marks = new Uint8Array(edges.count);
  for (let f = 0; f + 1 < starts.length; f++) {
    const group = piece.smoothing.get(f);
    for (let c = starts[f]; c < starts[f + 1]; c++) {
      const e = edges.ofCorner[c];
      if (group === 0 || (groupOf[e] >= 0 && groupOf[e] !== group))
        marks[e] = 1;
      groupOf[e] = group;
    }
  }
  for (let c = 0; c < hard.length; c++) hard[c] = marks[edges.ofCorner[c]];
  return hard;
}
