import { curveRays } from "./fans";
import type { BakedKind } from "../../base/pictures";

/** What the kernel finds for a texel. */
export type Channel =
  /** Tangent-space normal, unit length. */
  | "normal"
  /** The source's normal, unit length. */
  | "object"
  /** Share of the sky that is open within reach. */
  | "sky"
  /** Sum of the open directions, unit length. */
  | "bent"
  /** Place on the source, metres. */
  | "position"
  /** How far the source lies outside the game mesh, metres. */
  | "height"
  /** How deep the source is under its surface, metres, up to a reach. */
  | "thickness"
  /** How convex the source is at a radius, above 0, or how hollow, below: mean curvature × radius / 2 where it is gentle. */
  | "curve"
  /** Share of the sky that is open however far one looks. */
  | "outside"
  /** Linear red, green and blue. */
  | "colour"
  /** Share of the samples that met the source. */
  | "opacity"
  /** 1 + place in the palette, among the materials, or among the parts; 0 for none. Never blended. */
  | "id"
  | "material"
  | "part"
  /** What became of its rays, see core/bake/methods/status.ts. */
  | "status";

/** Numbers a texel of each channel, and whether the kernel casts many rays for it, which leaves grain. */
export const CHANNELS: Readonly<
  Record<Channel, { width: 1 | 3; rays: boolean; flat: boolean }>
> = {
  normal: { width: 3, rays: false, flat: false },
  object: { width: 3, rays: false, flat: false },
  sky: { width: 1, rays: true, flat: false },
  bent: { width: 3, rays: true, flat: false },
  position: { width: 3, rays: false, flat: false },
  height: { width: 1, rays: false, flat: false },
  thickness: { width: 1, rays: true, flat: false },
  curve: { width: 1, rays: true, flat: false },
  outside: { width: 1, rays: true, flat: false },
  colour: { width: 3, rays: false, flat: false },
  opacity: { width: 1, rays: false, flat: false },
  id: { width: 1, rays: false, flat: true },
  material: { width: 1, rays: false, flat: true },
  part: { width: 1, rays: false, flat: true },
  status: { width: 1, rays: false, flat: true },
};

/** Channels of unit vectors: a sheet of them is kept in 16 bits each, as fine as the steps of a map of 16 bits. */
export const UNITS = ["normal", "object"] as const;
/** Whether a channel is one of those. */
export const isUnits = (name: Channel): name is (typeof UNITS)[number] =>
  UNITS.some((each) => each === name);

/** What stands for 1 in those. */
export const UNIT = 32767;

/** How far apart values of one ray are that grain still explains, as a share of the largest there can be. */
const SPREAD: Partial<Record<Channel, number>> = {
  sky: 0.5,
  outside: 0.5,
  bent: 2,
  curve: 0.5,
  thickness: 0.6,
};

/** How far apart values of so many rays are that grain still explains, in the unit of the channel. */
export const noiseOf = (
  name: Channel,
  { rays, depthUnder }: { rays: number; depthUnder: number },
): number =>
  ((SPREAD[name] ?? 1) * (name === "thickness" ? depthUnder : 1)) /
  Math.sqrt(Math.max(1, name === "curve" ? curveRays(rays) : rays));

export const CHANNEL_NAMES = Object.keys(CHANNELS) as Channel[];

/** The channel that each map is made of. */
export const CHANNEL_OF: Readonly<Record<BakedKind, Channel>> = {
  normal: "normal",
  object: "object",
  ao: "sky",
  curvature: "curve",
  bent: "bent",
  position: "position",
  gradient: "position",
  thickness: "thickness",
  height: "height",
  id: "id",
  material: "material",
  opacity: "opacity",
  colour: "colour",
  part: "part",
  visibility: "outside",
  status: "status",
};

/** The channels that maps need, in one order. */
export function channelsOf(maps: readonly BakedKind[]): Channel[] {
  const wanted = new Set(maps.map((map) => CHANNEL_OF[map]));
  // Grain is taken out along the surface: that goes by the normals.
  if ([...wanted].some((name) => CHANNELS[name].rays)) wanted.add("normal");
  return CHANNEL_NAMES.filter((name) => wanted.has(name));
}
