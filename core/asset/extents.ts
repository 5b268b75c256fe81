import { boundsOf } from "../space/bounds";
import type { Asset } from "./asset";

/** How large all meshes of an asset are together along x, y and z, metres. */
export function extentsOf(asset: Asset): number[] {
  const { min, max } = boundsOf(
    ...asset.parts.flatMap((part) =>
      [part.source, part.game].flatMap((mesh) =>
        mesh ? [mesh.positions] : [],
      ),
    ),
  );
  return min.map((low, k) => Math.max(0, max[k] - low));
}
