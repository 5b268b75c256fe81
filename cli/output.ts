import type { Asset } from "../core/asset/asset";
import type { NamedMesh } from "../core/formats/index";
import {
  MESH_ENDINGS,
  endingOf,
  hullMeshes,
  writeMeshFile,
} from "../core/formats/index";
import type { GltfExtras } from "../core/formats/write-gltf";
import type { Mesh } from "../core/mesh/mesh";
import type { StreamName } from "../core/mesh/streams";
import { STREAM_NAMES, STREAMS } from "../core/mesh/streams";
import { isArchive } from "../core/formats/archive";
import { packProject } from "../core/asset/project";
import { UsageError } from "./arguments";
import type { Flag } from "./arguments";
import type { CallFiles } from "./files";

export const outFlag: Flag = {
  takes: "FILE",
  required: true,
  about: "where to write: .obj .ply .stl .glb .gltf, or .zip for a project",
};

export function namedMeshes(
  asset: Asset,
  which: "source" | "game",
): NamedMesh[] {
  return asset.parts.flatMap((part) =>
    part[which] ? [{ name: part.name, mesh: part[which] }] : [],
  );
}

const GLTF = new Set(["glb", "gltf"]);
/** What formats hold besides the shape; glTF all but what the last row names. */
const HELD: Record<string, readonly StreamName[]> = {
  obj: ["uvs", "normals", "hard", "seams", "colours", "faceMaterials"],
  ply: ["uvs", "seams", "colours"],
  stl: [],
};
const NOWHERE: readonly StreamName[] = [
  "creases",
  "seamOverrides",
  "rounds",
  "cage",
];

const holds = (ending: string, name: StreamName) =>
  HELD[ending]?.includes(name) ?? (GLTF.has(ending) && !NOWHERE.includes(name));

/**
 * That a file would hold nothing of what an operation did, where it would: a sentence on what is lost, and what to write
 * instead. A mesh whose shape was made or changed is there to be written whatever else hangs on it.
 * @param which the meshes that are written
 */
export function lostIn(
  out: string,
  before: Asset,
  after: Asset,
  which: "source" | "game",
): string | null {
  const ending = endingOf(out);
  const old = new Map(before.parts.map((part) => [part.name, part[which]]));
  const same = (a: Mesh | null, b: Mesh | null) =>
    alike(a?.positions, b?.positions) && alike(a?.corners, b?.corners);
  if (
    !after.parts.every((part) => same(part[which], old.get(part.name) ?? null))
  )
    return null;
  const changed = STREAM_NAMES.filter((name) =>
    after.parts.some((part) => {
      const was = old.get(part.name)?.[name];
      return part[which]?.[name]?.some((x, i) => x && x !== was?.[i]) ?? false;
    }),
  );
  if (changed.some((name) => holds(ending, name))) return null;
  const words = [
    ...changed.map((name) => STREAMS[name].called),
    ...keptBeside(before, after),
  ];
  if (GLTF.has(ending) && words.length > changed.length) return null;
  if (!words.length) return null;
  const instead = changed.some((name) => NOWHERE.includes(name))
    ? "no format does: go on in the app"
    : "write .glb or .gltf";
  return `--out ${out}: .${ending} does not hold ${words.join(", ")}; ${instead}`;
}

const alike = <A extends Float32Array | Uint32Array>(a?: A, b?: A) =>
  a === b || (a?.length === b?.length && !a?.some((x, i) => x !== b![i]));

/** What an operation changed that only glTF holds, in words. */
function keptBeside(before: Asset, after: Asset): string[] {
  const repeatsOf = ({ parts }: Asset) =>
    JSON.stringify(parts.map(({ repeat }) => repeat));
  return [
    ...(after.looks !== before.looks ? ["looks"] : []),
    ...(after.references !== before.references ? ["reference pictures"] : []),
    ...(after.painted !== before.painted ? ["the painted picture"] : []),
    ...(repeatsOf(after) !== repeatsOf(before) ? ["repeats"] : []),
  ];
}

/** What glTF holds of an asset besides its meshes; other formats leave it out. */
export const extrasOf = ({
  looks,
  palette,
  parts,
  references,
  painted,
}: Asset): GltfExtras => ({
  looks,
  marks: {
    palette,
    references,
    painted,
    repeats: parts.flatMap(({ name, repeat }) =>
      repeat ? [{ part: name, ...repeat }] : [],
    ),
  },
});

/** Writes the whole asset where a project is asked for. @returns whether it was */
export function writeProject(
  files: CallFiles,
  out: string,
  asset: Asset,
): boolean {
  if (!isArchive(out)) return false;
  files.write(out, packProject(asset, { check() {}, progress() {} }));
  return true;
}

/** Writes meshes, and their levels of detail beside them as NAME_lod1, NAME_lod2 …; tells the files. */
export async function writeWithLevels(
  files: CallFiles,
  out: string,
  asset: Asset,
  which: "source" | "game",
): Promise<string[]> {
  const { looks, palette } = asset;
  const put = async (
    path: string,
    meshes: readonly NamedMesh[],
    extras: GltfExtras,
  ) => {
    files.write(path, await writeMeshFile(path, meshes, extras));
    return path;
  };
  if (writeProject(files, out, asset)) return [out];
  const written = [await put(out, namedMeshes(asset, which), extrasOf(asset))];
  const levels = Math.max(...asset.parts.map((part) => part.levels.length), 0);
  for (let l = 0; which === "game" && l < levels; l++)
    written.push(
      await put(
        out.replace(/(\.[^.]+)$/, `_lod${l + 1}$1`),
        asset.parts.flatMap(({ name, levels }) =>
          levels[l] ? [{ name, mesh: levels[l] }] : [],
        ),
        { looks, marks: { palette } },
      ),
    );
  return written;
}

/** Writes the hulls of an asset alone: as what they are where a format knows it, else as plain meshes. */
export async function writeHulls(
  files: CallFiles,
  out: string,
  asset: Asset,
): Promise<void> {
  const hulls = asset.parts.flatMap(({ name, hulls }) =>
    hulls.map((hull) => ({ ...hull, of: name })),
  );
  const bytes = GLTF.has(endingOf(out))
    ? await writeMeshFile(out, [], { hulls })
    : await writeMeshFile(out, hullMeshes(hulls));
  files.write(out, bytes);
}

/** @throws UsageError before any work, where the ending is none that is written or can't hold what is asked */
export function checkOut(out: string, needsUvs = false): void {
  const ending = endingOf(out);
  if (isArchive(out)) return;
  if (!(MESH_ENDINGS as readonly string[]).includes(ending))
    throw new UsageError(
      `--out ${out}: written are ${MESH_ENDINGS.map((e) => `.${e}`).join(", ")}`,
    );
  if (needsUvs && ending === "stl")
    throw new UsageError(`--out ${out}: STL holds no UVs`);
}
