import { clusterMesh } from "../decimate/cluster";
import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import type { Asset } from "./asset";
import { mapParts } from "./parts";

/** Sources above this are drawn by a lighter stand-in of about half as many triangles. */
export const HEAVY = 1_200_000;
const LIGHT = 500_000;

/** A source as it can be drawn: a lighter stand-in where it is too heavy. */
export const drawable = (source: Mesh): Mesh =>
  triangleCount(source) > HEAVY ? clusterMesh(source, LIGHT) : source;

/** Gives every source that is too heavy to draw its stand-in, and takes it from those that no longer need one. */
export function withLightStandIns(asset: Asset, before?: Asset): Asset {
  const known = new Map(
    before?.parts.flatMap((part) =>
      part.source && part.light
        ? [[part.source.positions, part.light] as const]
        : [],
    ),
  );
  const fits = asset.parts.every(
    (part) =>
      !part.light && !(part.source && triangleCount(part.source) > HEAVY),
  );
  if (fits) return asset;
  return mapParts(asset, (part) => {
    const heavy = part.source && triangleCount(part.source) > HEAVY;
    if (!heavy) return part.light ? { ...part, light: null } : part;
    const light = known.get(part.source!.positions) ?? drawable(part.source!);
    return { ...part, light };
  });
}
