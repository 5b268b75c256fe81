import type { BakedKind } from "../../base/pictures";
import { CHANNELS, channelsOf, isUnits } from "./channels";
import { curveRays } from "./fans";
import { depthOf } from "./map-images";
import type { Depth } from "./map-images";

/** What the time and memory of a bake hang on. */
export interface BakeSize {
  /** Of all sources that are baked from. */
  sourceTriangles: number;
  /** px */
  width: number;
  height: number;
  sheets: number;
  /** Share of the sheets' texels that are baked, 0 … 1. */
  covered: number;
  maps: readonly BakedKind[];
  depth: Depth;
  /** Rays a texel, and samples along each side of one. */
  rays: number;
  grid: number;
  threads: number;
}

/**
 * Seconds of one thread, as six bakes of demo assets took on the machine of docs/measuring.md: of sorting a source
 * triangle, a sample, one of many rays, taking the grain out of a texel, and a texel of any other map.
 */
const SECONDS = {
  triangle: 7.8e-6,
  sample: 1.28e-6,
  ray: 0.37e-6,
  grain: 4.1e-6,
  texel: 0.5e-6,
};

/** Bytes of the program itself, and of a source triangle with all that is made of it. */
const PROGRAM = 2e8;
const TRIANGLE = 1050;

/** Rays a texel that each channel takes, besides its samples. Occlusion and bent normals share theirs. */
function raysOf(maps: readonly BakedKind[], rays: number): number {
  const channels = channelsOf(maps);
  const has = (name: (typeof channels)[number]) => channels.includes(name);
  return (
    (has("sky") || has("bent") ? rays : 0) +
    (has("outside") ? rays : 0) +
    (has("thickness") ? rays : 0) +
    (has("curve") ? curveRays(rays) : 0)
  );
}

/**
 * About how long a whole bake takes, and how much memory.
 * @param pace how many times as long bakes took here as they should have, see `paceOf`
 */
export function estimateBake(
  size: BakeSize,
  pace = 1,
): { seconds: number; bytes: number } {
  const { maps, rays, grid, covered, sheets, threads } = size;
  const sheet = size.width * size.height;
  const texels = covered * sheet * sheets;
  const channels = channelsOf(maps);
  const grained = channels.filter((name) => CHANNELS[name].rays).length;
  const each =
    grid * grid * SECONDS.sample +
    raysOf(maps, rays) * SECONDS.ray +
    grained * SECONDS.grain +
    Math.max(0, channels.length - grained - 1) * SECONDS.texel;
  const bytesOfChannels = channels.reduce(
    (sum, name) => sum + CHANNELS[name].width * (isUnits(name) ? 2 : 4),
    1,
  );
  const bytesOfMaps = maps.reduce(
    (sum, kind) =>
      sum + (isGrey(kind) ? 1 : 3) * (depthOf(kind, size.depth) / 8),
    0,
  );
  return {
    seconds:
      pace *
      (size.sourceTriangles * SECONDS.triangle + (texels * each) / threads),
    bytes:
      PROGRAM +
      size.sourceTriangles * TRIANGLE +
      // Only one sheet is held whole at a time; its maps are kept.
      sheet * (bytesOfChannels + sheets * bytesOfMaps),
  };
}

const COLOURED: readonly BakedKind[] = [
  ...(["normal", "object", "bent", "position"] as const),
  ...(["id", "material", "colour", "part"] as const),
];
const isGrey = (kind: BakedKind) => !COLOURED.includes(kind);

/** How many times as long a whole bake took as it should have; within reason, as one may have been held up. */
export const paceOf = (size: BakeSize, seconds: number): number =>
  Math.min(5, Math.max(0.2, seconds / estimateBake(size).seconds));
