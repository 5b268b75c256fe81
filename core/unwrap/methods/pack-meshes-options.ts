import type { Rotation } from "./pack/types";
import type { SheetIsland } from "./sheet-islands";

/** What is packed side by side as one block. */
export type Together = "nothing" | "parts" | "IDs";

/** How islands are dealt out over several tiles. */
export type Deal = "size" | "part" | "ID";

export interface PackMeshesOptions {
  rotation: Rotation;
  rounds: number;
  seconds: number;
  together: Together;
  /** Islands smaller than this are packed as one block, px; 0 for none. */
  boxSmall: number;
  tiles: number;
  deal: Deal;
  /** Whether an island is packed; what is not stays where it is. */
  moves: (island: SheetIsland) => boolean;
}

export const PACK_DEFAULTS: PackMeshesOptions = {
  rotation: "any",
  rounds: 40,
  seconds: 0,
  together: "nothing",
  boxSmall: 0,
  tiles: 1,
  deal: "size",
  moves: () => true,
};
