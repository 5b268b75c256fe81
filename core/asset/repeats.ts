import { transformHull, transformMesh } from "../mesh/transform";
import type { Asset, Part } from "./asset";
import { mapParts } from "./parts";

/** The parts that are worked themselves, not placed as a repeat of another. */
export const workedParts = (asset: Asset): Part[] =>
  asset.parts.filter((part) => !part.repeat);

/**
 * Lets every repeat follow the part it repeats: source, game mesh, UVs and hulls. A repeat whose part is gone
 * keeps its last meshes and stands for itself.
 */
export function followRepeats(asset: Asset, before?: Asset): Asset {
  if (!asset.parts.some((part) => part.repeat)) return asset;
  const byName = new Map(asset.parts.map((part) => [part.name, part]));
  const old = new Map(before?.parts.map((part) => [part.name, part]));
  return mapParts(asset, (part) => {
    if (!part.repeat) return part;
    const origin = byName.get(part.repeat.of);
    if (!origin || origin.repeat) return { ...part, repeat: null };
    const { matrix } = part.repeat;
    const was = old.get(part.name);
    const wasOrigin = old.get(part.repeat.of);
    const placedBefore =
      was?.repeat?.of === part.repeat.of && was.repeat.matrix === matrix;
    const follow = (which: "source" | "game") =>
      placedBefore && wasOrigin?.[which] === origin[which]
        ? was[which]
        : origin[which] && transformMesh(origin[which], matrix);
    return {
      ...part,
      source: follow("source"),
      game: follow("game"),
      levels:
        placedBefore && wasOrigin?.levels === origin.levels
          ? was.levels
          : origin.levels.map((level) => transformMesh(level, matrix)),
      dense: null,
      hulls:
        placedBefore && wasOrigin?.hulls === origin.hulls
          ? was.hulls
          : origin.hulls.map((hull) =>
              transformHull(
                hull,
                matrix,
                hull.name.replace(origin.name, part.name),
              ),
            ),
    };
  });
}
