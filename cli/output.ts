import type { Asset } from "../core/asset/asset";
import type { NamedMesh } from "../core/formats/index";
import { MESH_ENDINGS, endingOf } from "../core/formats/index";
import { UsageError } from "./arguments";
import type { Flag } from "./arguments";

export const outFlag: Flag = {
  takes: "FILE",
  required: true,
  about: "where to write: .obj .ply .stl .glb .gltf",
};

export function namedMeshes(
  asset: Asset,
  which: "source" | "game",
): NamedMesh[] {
  return asset.parts.flatMap((part) =>
    part[which] ? [{ name: part.name, mesh: part[which] }] : [],
  );
}

/** @throws UsageError before any work, where the ending is none that is written or can't hold what is asked */
export function checkOut(out: string, needsUvs = false): void {
  const ending = endingOf(out);
  if (!(MESH_ENDINGS as readonly string[]).includes(ending))
    throw new UsageError(
      `--out ${out}: written are ${MESH_ENDINGS.map((e) => `.${e}`).join(", ")}`,
    );
  if (needsUvs && ending === "stl")
    throw new UsageError(`--out ${out}: STL holds no UVs`);
}
