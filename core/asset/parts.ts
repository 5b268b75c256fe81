import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import type { Asset, Part } from "./asset";

/** The asset with some of its parts replaced. */
export function mapParts(
  asset: Asset,
  change: (part: Part, index: number) => Part,
): Asset {
  return { ...asset, parts: asset.parts.map((part, i) => change(part, i)) };
}

/** Triangles of all meshes of one kind. */
export function totalTriangles(
  asset: Pick<Asset, "parts">,
  which: "source" | "game",
): number {
  return asset.parts.reduce(
    (sum, part) => sum + (part[which] ? triangleCount(part[which]) : 0),
    0,
  );
}

/** The chosen parts that have a game mesh, with it. */
export function gameMeshes(
  asset: Asset,
  chosen: ReadonlySet<string>,
): { name: string; mesh: Mesh }[] {
  return asset.parts.flatMap((part) =>
    part.game && chosen.has(part.name)
      ? [{ name: part.name, mesh: part.game }]
      : [],
  );
}

/** The asset with new game meshes by part name; what they no longer fit is dropped. */
export function withGameMeshes(
  asset: Asset,
  meshes: ReadonlyMap<string, Mesh | null>,
): Asset {
  return mapParts(asset, (part) =>
    meshes.has(part.name) ? { ...part, game: meshes.get(part.name)! } : part,
  );
}
