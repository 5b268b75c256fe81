/** Colours of hulls, far from each other in hue and alike in lightness; after the last they begin anew. */
export const HULL_COLOURS = [
  "#4f7f3a",
  "#b57f1e",
  "#1f6f78",
  "#6e5e9b",
  "#b4432b",
  "#3f6fb0",
  "#8a8f2a",
  "#a4508b",
] as const;

/** The colour of a hull by its number in the asset. */
export const hullColour = (i: number): string =>
  HULL_COLOURS[i % HULL_COLOURS.length];
