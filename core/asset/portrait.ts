import type { Asset, Part } from "./asset";
import type { DrawnMesh } from "./drawing";
import { BONE, CLAY, Drawing, FROM_ABOVE } from "./drawing";
import { hasCard } from "./stand-ins";

/** What is seen of a part: a card is a board without its mask, so its source stands for it. */
const shownOf = (part: Part) =>
  hasCard(part) && part.source ? part.source : (part.game ?? part.source);

/** What is drawn of an asset: game meshes in bone, sources where there is none in clay. */
export const drawnMeshes = (asset: Asset): DrawnMesh[] =>
  asset.parts.flatMap((part) => {
    const mesh = shownOf(part);
    return mesh ? [{ mesh, tint: part.game ? BONE : CLAY }] : [];
  });

/**
 * A picture of an asset, for lists.
 * @returns RGB, 3 × width × height, or null for an asset without meshes
 */
export function portrait(
  asset: Asset,
  width: number,
  height: number,
): Uint8Array | null {
  const meshes = drawnMeshes(asset);
  if (!meshes.length) return null;
  return new Drawing(meshes).draw({
    back: FROM_ABOVE,
    look: "plain",
    width,
    height,
  });
}
