import type { Side } from "../space/directions";
import type { CollapseWeights } from "./collapse-planes";
import type { HeldPlane } from "./mirror-hold";

export interface CollapseHooks {
  progress(share: number): void;
  check(): void;
}

export interface CollapseOptions {
  weights?: Partial<CollapseWeights>;
  /** triangleCount: how dear the shape of each triangle is, 1 where nobody said. */
  faceWeight?: Float32Array | null;
  /** triangleCount: 1 for triangles that stay as they are while anything else can go. */
  locked?: Uint8Array | null;
  /** Holds vertices that lie in a plane n·x = d (about the soup's centre) in it. */
  mirror?: HeldPlane | null;
  /** Gives up no component whole. */
  keepsPieces?: boolean;
  /** How much dearer what shows on the outline is, and from where it is looked at. */
  outline?: { weight: number; from: Side } | null;
}
