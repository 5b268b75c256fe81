export const HULL_KINDS = ["box", "sphere", "capsule", "convex"] as const;
export type HullKind = (typeof HULL_KINDS)[number];

/** One convex collision shape, as a closed triangle mesh and, for the simple kinds, its parameters. */
export interface Hull {
  name: string;
  kind: HullKind;
  positions: Float32Array;
  triangles: Uint32Array;
}
