import type { Asset } from "../../asset/asset";
import type { Context } from "../../base/context";
import { spanOf } from "../../base/context";
import type { Hull } from "../../mesh/hull";
import type { HullMeshes } from "./hull-meshes";
import { meshForHulls } from "./hull-meshes";
import type { HullOptions } from "./hulls";
import { makeHulls } from "./hulls";

/**
 * Hulls of every level of detail that chosen parts have, each made from its own mesh as those of the asset are.
 * @returns by part name; their names tell the level
 */
export function levelHulls(
  asset: Asset,
  chosen: ReadonlySet<string>,
  asked: HullOptions,
  ways: HullMeshes,
  context: Context,
): Map<string, Hull[]> {
  const found = new Map<string, Hull[]>();
  const levels = Math.max(
    0,
    ...asset.parts.map((part) =>
      chosen.has(part.name) ? part.levels.length : 0,
    ),
  );
  for (let level = 1; level <= levels; level++) {
    const meshOf = meshForHulls(asset, { ...ways, from: `${level}` }, () =>
      context.check(),
    );
    const having = new Set(
      asset.parts.flatMap((part) =>
        chosen.has(part.name) && meshOf(part) ? part.name : [],
      ),
    );
    const worked = asset.parts.some(
      ({ name, repeat }) => !repeat && having.has(name),
    );
    if (!worked) continue;
    const { byPart } = makeHulls(
      asset,
      having,
      meshOf,
      asked,
      spanOf(context, (level - 1) / levels, level / levels),
    );
    for (const [part, hulls] of byPart)
      found.set(part, [
        ...(found.get(part) ?? []),
        ...hulls.map((hull) => ({
          ...hull,
          level,
          name: hull.name.replace(/_hull_(\d+)$/, `_lod${level}_hull_$1`),
        })),
      ]);
  }
  return found;
}
