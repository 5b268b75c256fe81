import { MeshFormatError } from "../base/errors";
import type { ContactName } from "../mesh/contacts";
import type { HullKind } from "../mesh/hull";
import type { Mesh } from "../mesh/mesh";
import { compactVertices, createMesh } from "../mesh/change-faces";
import { pickRows } from "../mesh/streams";
import { coincident } from "../mesh/weld";
import type { FaceMarks } from "./marks";

/** What a file held, before checks: one piece by name. */
export interface RawPart {
  name: string;
  /** 3 × n, in file units. */
  positions: Float32Array;
  faceStarts: Uint32Array;
  corners: Uint32Array;
  uvs: Float32Array | null;
  normals: Float32Array | null;
  /** 3 × corners: sRGB, where the file gives its vertices colours. */
  colours?: Uint8Array | null;
  hard: Uint8Array | null;
  faceMaterials: Uint16Array | null;
  materials: string[];
  /** faces each: what hangs on them besides their material. */
  marks?: FaceMarks;
  /** What holds it in the file, besides others: the group it comes in. */
  group?: string;
  /** What it is a collision hull for, where it is one. */
  hull?: HullOf;
  /** Which level of detail it is, from 1 on, of the part whose name it has. */
  level?: number;
  /** Scale along the node's axes, where it is uneven or mirrors; it is in the positions already. */
  nodeScale?: readonly [number, number, number];
}

/** A collision hull in a file: its kind, and the part that it stands for. */
export interface HullOf {
  kind: HullKind;
  of: string;
  contact?: ContactName;
  /** The level of detail that it stands for, from 1 on. */
  level?: number;
  /** Only its name and its material say so. */
  guessed?: true;
}

export interface NamedMesh {
  name: string;
  mesh: Mesh;
}

/** What had to be mended while a part was read, by how many. */
export interface ReadingNotes {
  /** Faces with fewer than three corners, or with coordinates that are no numbers. */
  leftOut: number;
  /** Faces that named a vertex twice. */
  mended: number;
}

/**
 * Makes a sound mesh of what a file held: takes repeated corners out, drops faces with fewer than three corners
 * left or with coordinates that are no numbers. Loose and coincident vertices stay for Survey to find.
 * @param join whether vertices at equal places become one, as formats need that split them for normals and UVs
 * @throws MeshFormatError for indices that point outside the vertices
 */
export function soundMesh(
  file: string,
  raw: RawPart,
  notes: Map<string, number>,
  join: boolean,
): Mesh & { reading: ReadingNotes } {
  const count = raw.positions.length / 3;
  const target = join ? coincident(raw.positions, 0) : null;
  const broken = brokenVertices(raw.positions);
  const faces = raw.faceStarts.length - 1;
  const reading: ReadingNotes = { leftOut: 0, mended: 0 };
  const corners = new Uint32Array(raw.corners.length);
  const from = new Uint32Array(raw.corners.length);
  const starts = new Uint32Array(faces + 1);
  const kept = new Uint32Array(faces);
  let at = 0;
  let faceAt = 0;
  const note = (what: string) => notes.set(what, (notes.get(what) ?? 0) + 1);
  for (let f = 0; f < faces; f++) {
    const begin = at;
    let bad = false;
    for (let c = raw.faceStarts[f]; c < raw.faceStarts[f + 1]; c++) {
      const v = raw.corners[c];
      if (v >= count)
        throw new MeshFormatError(
          file,
          `face ${f + 1} of "${raw.name}" names vertex ${v + 1}, but there are ${count}`,
        );
      if (broken?.[v]) bad = true;
      const to = target ? target[v] : v;
      if (at > begin && corners[at - 1] === to) continue;
      corners[at] = to;
      from[at++] = c;
    }
    while (at - begin > 1 && corners[at - 1] === corners[begin]) at--;
    const left = at - begin;
    if (bad || left < 3) {
      at = begin;
      if (bad) note("faces with coordinates that are no numbers left out");
      else note("faces with fewer than three corners left out");
      reading.leftOut++;
      continue;
    }
    if (left < raw.faceStarts[f + 1] - raw.faceStarts[f]) {
      note("faces with repeated corners mended");
      reading.mended++;
    }
    kept[faceAt++] = f;
    starts[faceAt] = at;
  }
  const whole = at === raw.corners.length;
  const list = whole ? null : from.subarray(0, at);
  const mesh = createMesh({
    positions: broken
      ? raw.positions.map((x) => (Number.isFinite(x) ? x : 0))
      : raw.positions,
    faceStarts: starts.slice(0, faceAt + 1),
    corners: whole ? corners : corners.slice(0, at),
    uvs: finite(take(raw.uvs, list, 2)),
    normals: unitNormals(take(raw.normals, list, 3)),
    colours: take(raw.colours ?? null, list, 3),
    hard:
      raw.hard && list ? Uint8Array.from(list, (c) => raw.hard![c]) : raw.hard,
    faceMaterials:
      raw.faceMaterials && raw.materials.length > 1
        ? Uint16Array.from(
            kept.subarray(0, faceAt),
            (f) => raw.faceMaterials![f],
          )
        : null,
    materials: raw.materials.length ? raw.materials : ["surface"],
    ...marksOf(raw, kept.subarray(0, faceAt)),
  });
  return { ...(join || broken ? compactVertices(mesh) : mesh), reading };
}

/** Marks of the faces that stay, where any face has one. */
function marksOf({ marks = {} }: RawPart, kept: Uint32Array): Partial<Mesh> {
  const used = Object.entries(marks).filter(([, all]) => all.some(Boolean));
  return Object.fromEntries(
    used.map(([name, all]) => [name, pickRows(all, kept, 1)]),
  );
}

function brokenVertices(positions: Float32Array): Uint8Array | null {
  let broken: Uint8Array | null = null;
  for (let i = 0; i < positions.length; i++) {
    if (Number.isFinite(positions[i])) continue;
    broken ??= new Uint8Array(positions.length / 3);
    broken[Math.floor(i / 3)] = 1;
  }
  return broken;
}

function take<T extends Float32Array | Uint8Array>(
  values: T | null,
  from: Uint32Array | null,
  width: number,
): T | null {
  if (!values || !from) return values;
  const taken = new (values.constructor as new (length: number) => T)(
    from.length * width,
  );
  for (let i = 0; i < from.length; i++)
    for (let k = 0; k < width; k++)
      taken[i * width + k] = values[from[i] * width + k];
  return taken;
}

function finite(values: Float32Array | null): Float32Array | null {
  return values?.every((x) => Number.isFinite(x)) ? values : null;
}

/** Normals count only where all of them are usable; they are made unit length. */
function unitNormals(normals: Float32Array | null): Float32Array | null {
  if (!normals) return null;
  for (let i = 0; i < normals.length; i += 3) {
    const length = Math.hypot(normals[i], normals[i + 1], normals[i + 2]);
    if (!(length > 1e-6) || !Number.isFinite(length)) return null;
    for (let k = 0; k < 3; k++) normals[i + k] /= length;
  }
  return normals;
}

/** A name that is safe to show and to use in a file name: no controls, no path, not empty, not endless. */
export function safeName(name: string, otherwise: string): string {
  const plain = Array.from(name, (char) =>
    char < " " || char === "\u007f" ? " " : char,
  )
    .join("")
    .replace(/[\\/:*?"<>|]+/g, "_")
    .replace(/^[.\s]+|\s+$/g, "")
    .slice(0, 80);
  return plain || otherwise;
}

/** Names made different by a number where they clash. */
export function distinctNames(names: readonly string[]): string[] {
  const used = new Set<string>();
  const next = new Map<string, number>();
  return names.map((name) => {
    let unique = name;
    let n = next.get(name) ?? 2;
    for (; used.has(unique); n++) unique = `${name}.${n}`;
    next.set(name, n);
    used.add(unique);
    return unique;
  });
}
