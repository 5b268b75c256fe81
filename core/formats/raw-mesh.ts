import { MeshFormatError } from "../errors";
import type { Mesh } from "../mesh/mesh";
import { compactVertices, createMesh } from "../mesh/mesh";
import { coincident } from "../mesh/weld";

/** What a file held, before checks: one piece by name. */
export interface RawPart {
  name: string;
  /** 3 × n, in file units. */
  positions: Float32Array;
  faceStarts: Uint32Array;
  corners: Uint32Array;
  uvs: Float32Array | null;
  normals: Float32Array | null;
  hard: Uint8Array | null;
  faceMaterials: Uint16Array | null;
  materials: string[];
}

export interface NamedMesh {
  name: string;
  mesh: Mesh;
}

/** Most vertices, faces or corners a file may have. */
export const MOST_ELEMENTS = 60_000_000;

/**
 * Makes a sound mesh of what a file held and says what had to be mended: joins vertices at equal places, takes
 * repeated corners out, drops faces with fewer than three corners left or with coordinates that are no numbers.
 * @throws MeshFormatError for indices that point outside the vertices
 */
export function soundMesh(
  file: string,
  raw: RawPart,
  notes: Map<string, number>,
): Mesh {
  const count = raw.positions.length / 3;
  const target = coincident(raw.positions, 0);
  const broken = brokenVertices(raw.positions);
  const faces = raw.faceStarts.length - 1;
  const corners: number[] = [];
  const from: number[] = [];
  const starts: number[] = [0];
  const kept: number[] = [];
  const note = (what: string, n = 1) =>
    notes.set(what, (notes.get(what) ?? 0) + n);
  for (let f = 0; f < faces; f++) {
    const begin = corners.length;
    let bad = false;
    for (let c = raw.faceStarts[f]; c < raw.faceStarts[f + 1]; c++) {
      const v = raw.corners[c];
      if (v >= count)
        throw new MeshFormatError(
          file,
          `face ${f + 1} of "${raw.name}" names vertex ${v + 1}, but there are ${count}`,
        );
      if (broken?.[v]) bad = true;
      const to = target[v];
      if (corners.length > begin && corners[corners.length - 1] === to)
        continue;
      corners.push(to);
      from.push(c);
    }
    while (
      corners.length - begin > 1 &&
      corners[corners.length - 1] === corners[begin]
    ) {
      corners.pop();
      from.pop();
    }
    const left = corners.length - begin;
    if (bad || left < 3) {
      corners.length = begin;
      from.length = begin;
      if (bad) note("faces with coordinates that are no numbers left out");
      else note("faces with fewer than three corners left out");
      continue;
    }
    if (left < raw.faceStarts[f + 1] - raw.faceStarts[f])
      note("faces with repeated corners mended");
    starts.push(corners.length);
    kept.push(f);
  }
  const whole = compactVertices(
    createMesh({
      positions: broken
        ? raw.positions.map((x) => (Number.isFinite(x) ? x : 0))
        : raw.positions,
      faceStarts: new Uint32Array(starts),
      corners: new Uint32Array(corners),
      uvs: finite(take(raw.uvs, from, 2)),
      normals: unitNormals(take(raw.normals, from, 3)),
      hard: raw.hard ? Uint8Array.from(from, (c) => raw.hard![c]) : null,
      faceMaterials:
        raw.faceMaterials && raw.materials.length > 1
          ? Uint16Array.from(kept, (f) => raw.faceMaterials![f])
          : null,
      materials: raw.materials.length ? raw.materials : ["surface"],
    }),
  );
  return whole;
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

function take(
  values: Float32Array | null,
  from: readonly number[],
  width: number,
): Float32Array | null {
  if (!values) return null;
  const taken = new Float32Array(from.length * width);
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
  return names.map((name) => {
    let unique = name;
    for (let n = 2; used.has(unique); n++) unique = `${name}.${n}`;
    used.add(unique);
    return unique;
  });
}
