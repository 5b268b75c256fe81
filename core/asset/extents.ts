import { boundsOf } from "../space/bounds";
import type { Asset } from "./asset";

const wholeBounds = (asset: Asset) =>
  boundsOf(
    ...asset.parts.flatMap(({ source, game, hulls }) => {
      const meshes = [source, game].filter((mesh) => mesh !== null);
      return (meshes.length ? meshes : hulls).map(({ positions }) => positions);
    }),
  );

/** How large all meshes of an asset are together along x, y and z, metres; hulls count where a part has nothing else. */
export function extentsOf(asset: Asset): number[] {
  const { min, max } = wholeBounds(asset);
  return min.map((low, k) => Math.max(0, max[k] - low));
}

/** The largest coordinate, by its amount, that any mesh of an asset has, metres. */
export function farthestOf(asset: Asset): number {
  const { min, max } = wholeBounds(asset);
  return Math.max(0, ...[...min, ...max].filter(Number.isFinite).map(Math.abs));
}
