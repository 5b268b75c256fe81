export interface EvenOptions {
  /** Triangles wanted, two for a quad. */
  triangles: number;
  /** Only quads, no triangle left. */
  pure: boolean;
  /** Wanted edge length at a place relative to the mean, from painted density; null for even all over. */
  sizeAt: ((x: number, y: number, z: number) => number) | null;
  /** Longest edge against the shortest where bends ask for smaller quads; 1 for even all over. */
  grading: number;
  /** Strokes that edges should follow: 6 numbers a piece, from and to, metres. */
  guides: Float32Array | null;
}
