/** What became of a sample's ray, by what is counted for every part: see `RowResult.counts`. */
export const COUNTS = [
  "samples",
  "missed",
  "overhanging",
  "far",
  "behind",
  "slanting",
] as const;

/** From this share of a part's ray distance on its source lies near the limit of what rays catch. */
export const NEAR_LIMIT = 0.95;

/** What became of a texel's rays: the largest of its samples' numbers, in the order of what one wants to know first. */
export const STATUS = {
  /** Nothing lies there, or the ray went through a card. */
  none: 0,
  own: 1,
  shared: 2,
  limit: 3,
  overhanging: 4,
  slanting: 5,
  inside: 6,
  far: 7,
  missed: 8,
} as const;

export type Status = keyof typeof STATUS;

/** How each is shown and called. */
export const STATUS_LOOKS: readonly {
  status: Exclude<Status, "none">;
  colour: string;
  title: string;
}[] = [
  { status: "own", colour: "#d8dedb", title: "its own source" },
  { status: "shared", colour: "#8fc1c4", title: "what is only baked" },
  { status: "limit", colour: "#e6cf8f", title: "near the limit" },
  { status: "overhanging", colour: "#b9a58c", title: "past an edge" },
  { status: "slanting", colour: "#9a8bc4", title: "slanted past" },
  { status: "inside", colour: "#34489a", title: "began inside" },
  { status: "far", colour: "#b57f1e", title: "beyond the distance" },
  { status: "missed", colour: "#b4432b", title: "missed" },
];
