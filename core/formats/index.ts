import type { PaletteEntry } from "../base/pictures";
import type { Hull } from "../mesh/hull";
import type { KeptExtras } from "./kept-extras";
import { ArnikError, MeshFormatError } from "../base/errors";
import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import { meshFromTriangles } from "../mesh/change-faces";
import { readGltf } from "./read-gltf";
import type { GltfExtras } from "./write-gltf";
import { writeGlb, writeGltf } from "./write-gltf";
import { distinctColour } from "./colours";
import type { FoundLooks } from "./looks";
import { PictureShelf } from "./looks";
import { readMtl, writeMtl } from "./mtl";
import { readObj } from "./obj";
import { writeObj } from "./write-obj";
import { checkPartCount } from "./limits";
import { readPly } from "./ply";
import { writePly } from "./write-ply";
import type { HullOf, NamedMesh, RawPart, ReadingNotes } from "./raw-mesh";
import { distinctNames, safeName, soundMesh } from "./raw-mesh";
import { readStl, writeStl } from "./stl";
import { plainText } from "./text-reader";

export type { NamedMesh } from "./raw-mesh";

/** Largest file that is read, bytes. */
export const LARGEST_FILE = 512 * 1024 * 1024;
export const MESH_ENDINGS = ["obj", "ply", "stl", "glb", "gltf"] as const;

export interface GivenFile {
  name: string;
  bytes: Uint8Array;
}

export interface ReadPart extends NamedMesh, ReadingNotes {
  /** The name in the file, before it was made safe and distinct. */
  written: string;
  nodeScale?: readonly [number, number, number];
  group?: string;
  /** Where it is no part of its own: a collision hull, or a lighter level of the part of that name. */
  hull?: HullOf;
  level?: number;
}

export interface ReadMeshes {
  parts: ReadPart[];
  /** What the files say of the looks of materials. */
  looks: FoundLooks;
  /** What IDs of faces are of. */
  palette: PaletteEntry[];
  /** What else files keep of the asset that they were written from, by the names of parts in them. */
  kept: Omit<KeptExtras, "palette">[];
  /** What had to be mended, in words. */
  notes: string[];
}

/** The ending of a file name, lower case, without the dot. */
export const endingOf = (name: string) =>
  (/\.([^./\\]+)$/.exec(name)?.[1] ?? "").toLowerCase();

const stemOf = (name: string) =>
  name.replace(/^.*[/\\]/, "").replace(/\.[^.]+$/, "");

/** Whether a file holds a mesh, rather than going along with one (.mtl, .bin, images). */
export const isMeshFile = (name: string) =>
  (MESH_ENDINGS as readonly string[]).includes(endingOf(name));

/**
 * Reads the meshes of some files given together; .mtl, .bin and images go with the mesh files that name them.
 * Parts keep their names, made safe and distinct; repairs are noted.
 * In one piece: what files share is gathered while they are read one after the other.
 * @param join whether vertices at equal places become one also where the format itself does not split them
 * @throws MeshFormatError naming the file and the place in it
 */
export async function readMeshFiles(
  files: readonly GivenFile[],
  join = true,
): Promise<ReadMeshes> {
  const meshFiles = files.filter(({ name }) => isMeshFile(name));
  if (!meshFiles.length)
    throw new MeshFormatError(
      files[0]?.name ?? "no file",
      `not a mesh file: ${MESH_ENDINGS.map((e) => `.${e}`).join(", ")} are read`,
    );
  const others = new Map(
    files.map(({ name, bytes }) => [name.replace(/^.*[/\\]/, ""), bytes]),
  );
  const looks: FoundLooks = new Map();
  const notes = new Map<string, number>();
  const shelf = new PictureShelf(others, notes);
  const palette: PaletteEntry[] = [];
  const kept: ReadMeshes["kept"] = [];
  if (meshFiles.some(({ name }) => endingOf(name) === "obj"))
    for (const [name, bytes] of others)
      if (endingOf(name) === "mtl") readMtl(plainText(bytes), looks, shelf);
  const read: Omit<ReadPart, "name">[] = [];
  const names: string[] = [];
  for (const { name, bytes } of meshFiles) {
    const fileLevel = levelOf(name, meshFiles);
    if (bytes.length > LARGEST_FILE)
      throw new MeshFormatError(
        name,
        `${Math.ceil(bytes.length / 1048576)} MB; files up to 512 MB are read`,
      );
    if (!bytes.length) throw new MeshFormatError(name, "the file is empty");
    const splits = !["obj", "ply"].includes(endingOf(name));
    const found = await readRaw(name, bytes, {
      others,
      looks,
      notes,
      shelf,
      palette,
      kept,
    });
    const namesIn = new Set(found.map((raw) => raw.name));
    for (const raw of found) {
      const { reading, ...mesh } = soundMesh(name, raw, notes, join || splits);
      if (triangleCount(mesh) === 0) continue;
      checkPartCount(name, names.length + 1);
      const [of, byName] = raw.level
        ? [raw.name, raw.level]
        : levelByName(raw.name, namesIn);
      const level = fileLevel || byName;
      const safe = safeName(of, safeName(stemOf(name), "part"));
      const hull = raw.hull ?? hullByName(safe, mesh);
      const role = { ...(hull && { hull }), ...(level && { level }) };
      // Levels have the names of their parts.
      names.push(level ? `${safe} of level ${level}` : safe);
      read.push({
        mesh,
        written: safe,
        nodeScale: raw.nodeScale,
        ...(raw.group && { group: safeName(raw.group, "group") }),
        ...reading,
        ...role,
      });
    }
  }
  if (!read.length)
    throw new MeshFormatError(
      meshFiles[0].name,
      "nothing usable is left of it: no face has three sound corners",
    );
  const distinct = distinctNames(names);
  if (distinct.some((name, i) => name !== names[i]))
    notes.set(
      "parts renamed because their names clashed",
      distinct.filter((name, i) => name !== names[i]).length,
    );
  return {
    parts: read.map((part, i) => ({
      name: part.level ? part.written : distinct[i],
      ...part,
    })),
    looks,
    palette,
    kept,
    notes: [...notes].map(([what, count]) => `${count} ${what}`),
  };
}

/** Which level of detail a file holds (`NAME_lod2.glb`), where the file of that name came along; 0 for none. */
function levelOf(name: string, files: readonly GivenFile[]): number {
  const [, base, level] = /^(.+)_lod(\d{1,2})$/.exec(stemOf(name)) ?? [];
  return base && files.some((file) => stemOf(file.name) === base)
    ? Number(level)
    : 0;
}

/** The part that one of a file is a level of detail of by its name (`NAME_lod2`) where that one lies beside it, and which. */
function levelByName(
  name: string,
  beside: ReadonlySet<string>,
): [of: string, level: number] {
  const [, base, level] = /^(.+)_lod([1-9]\d?)$/i.exec(name) ?? [];
  return base && beside.has(base) ? [base, Number(level)] : [name, 0];
}

/** A hull as formats hold it that know no marks: by its name and the only material that hulls have. */
function hullByName(name: string, mesh: Mesh): HullOf | undefined {
  const [, of] = /^(.+)_hull_\d+$/.exec(name) ?? [];
  return of && mesh.materials.length === 1 && mesh.materials[0] === "hull"
    ? { kind: "convex", of, guessed: true }
    : undefined;
}

/** What the files of one call are read into together. */
interface Reading {
  others: ReadonlyMap<string, Uint8Array>;
  looks: FoundLooks;
  notes: Map<string, number>;
  shelf: PictureShelf;
  palette: PaletteEntry[];
  kept: ReadMeshes["kept"];
}

async function readRaw(
  name: string,
  bytes: Uint8Array,
  { others, looks, notes, shelf, palette, kept }: Reading,
): Promise<RawPart[]> {
  switch (endingOf(name)) {
    case "obj":
      return readObj(name, plainText(bytes));
    case "ply":
      return readPly(name, plainText(bytes));
    case "stl":
      return readStl(name, bytes);
    default: {
      const found = await readGltf(name, bytes, others, shelf);
      for (const [material, look] of found.looks) looks.set(material, look);
      for (const [what, count] of found.notes)
        notes.set(what, (notes.get(what) ?? 0) + count);
      kept.push(found.kept);
      for (const { marks } of found.parts)
        if (marks?.ids)
          renumberIds(marks.ids as Uint16Array, found.kept.palette, palette);
      return found.parts;
    }
  }
}

/**
 * IDs of a file as those of the palette that all files share. Those that it has no name for get one.
 * @param ids 0 for none, otherwise 1 + the entry; changed
 */
function renumberIds(
  ids: Uint16Array,
  from: readonly PaletteEntry[],
  shared: PaletteEntry[],
): void {
  const now = new Map<number, number>([[0, 0]]);
  for (let f = 0; f < ids.length; f++) {
    const id = ids[f];
    let at = now.get(id);
    if (at === undefined) {
      const { name, colour } = from[id - 1] ?? {
        name: `ID ${id}`,
        colour: distinctColour(id - 1),
      };
      at = 1 + shared.findIndex((each) => each.name === name);
      if (!at) at = shared.push({ name, colour });
      now.set(id, at);
    }
    ids[f] = at;
  }
}

/**
 * Writes parts in the format of a file name's ending.
 * @param extras what glTF holds besides; no other format does
 * @throws ArnikError for an ending that is not written
 */
export async function writeMeshFile(
  name: string,
  parts: readonly NamedMesh[],
  extras: GltfExtras = {},
): Promise<Uint8Array> {
  switch (endingOf(name)) {
    case "obj":
      return writeObj(parts);
    case "ply":
      return writePly(parts);
    case "stl":
      return writeStl(parts);
    case "glb":
      return writeGlb(stemOf(name), parts, extras);
    case "gltf":
      return writeGltf(stemOf(name), parts, extras);
    default:
      throw new ArnikError(
        `${name}: written are .obj, .ply, .stl, .glb and .gltf`,
      );
  }
}

/** Hulls as plain meshes, for formats that know nothing else. */
export const hullMeshes = (hulls: readonly Hull[]): NamedMesh[] =>
  hulls.map((hull) => ({
    name: hull.name,
    mesh: meshFromTriangles(hull.positions, hull.triangles, {
      materials: ["hull"],
    }),
  }));

export { writeMtl, writeObj };
