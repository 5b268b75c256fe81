import type { BakedMap } from "../../base/pictures";

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

/** Steps of a degree in the map of angles between look and source; 255 of them stand for more too. */
export const ANGLE_STEPS = 4;

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

/** Red, green and blue of each number of `STATUS`, 0 … 255; black for none. */
const INKS = [
  [0, 0, 0],
  ...STATUS_LOOKS.map(({ colour }) =>
    [1, 3, 5].map((k) => parseInt(colour.slice(k, k + 2), 16)),
  ),
];

/** The colour of a pixel of the map of what became of the rays. */
export const statusInk = (pixel: number): readonly number[] =>
  INKS[pixel] ?? INKS[0];

/** The map of what became of the rays as people look at it: its numbers, which are what is kept, in their colours. */
export function statusPicture(map: BakedMap): BakedMap {
  const pixels = new Uint8Array(3 * map.pixels.length);
  map.pixels.forEach((pixel, i) => pixels.set(statusInk(pixel), 3 * i));
  return { ...map, channels: 3, pixels };
}
