export const HULL_KINDS = ["box", "sphere", "capsule", "convex"] as const;
export type HullKind = (typeof HULL_KINDS)[number];

/** A closed convex triangle mesh. */
export interface ConvexMesh {
  /** 3 × vertexCount, metres. */
  positions: Float32Array;
  /** 3 × triangleCount, counter-clockwise from outside. */
  triangles: Uint32Array;
}

/** One convex collision shape, as a closed triangle mesh and, for the simple kinds, its parameters. */
export interface Hull extends ConvexMesh {
  name: string;
  kind: HullKind;
}
