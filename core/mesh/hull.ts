import type { ContactName } from "./contacts";

/** All are convex but the ground: a surface that never moves, and is met from outside only. */
export const HULL_KINDS = [
  "box",
  "sphere",
  "capsule",
  "prism",
  "convex",
  "ground",
] as const;
export type HullKind = (typeof HULL_KINDS)[number];

/** A closed convex triangle mesh. */
export interface ConvexMesh {
  /** 3 × vertexCount, metres. */
  positions: Float32Array;
  /** 3 × triangleCount, counter-clockwise from outside. */
  triangles: Uint32Array;
}

/** One collision shape, as a closed triangle mesh and, for the simple kinds, its parameters. */
export interface Hull extends ConvexMesh {
  name: string;
  kind: HullKind;
  /** Whether somebody worked it by hand: making hulls leaves its part's alone then. */
  byHand?: true;
  /** What it feels like to bump into, see contacts.ts; none where nothing was said. */
  contact?: ContactName;
  /** Which level of detail it stands for, from 1 on; none for the asset itself. */
  level?: number;
}

/** The hulls of the asset itself, without those of its levels. */
export const ownHulls = <H extends Pick<Hull, "level">>(
  hulls: readonly H[],
): H[] => hulls.filter(({ level }) => !level);
