import type { BakedKind, BakedMap } from "../../base/pictures";
import { dilate } from "../../space/dilate";
import type { RowResult, RowSlice } from "./band";
import type { Again, Standing } from "./bake-again";
import { putBack, standingMap } from "./bake-again";
import type { Channel, UNITS } from "./channels";
import { CHANNEL_OF, CHANNELS, isUnits, noiseOf, UNIT } from "./channels";
import { withoutGrain } from "./grain";
import type { Encoding, SheetValues } from "./map-images";
import { mapImage } from "./map-images";
import { growMask } from "./opacity-mask";
import type { BakeScene } from "./scene";

/** What of a bake is to come out on its sheets. */
export interface SheetWanted {
  /** px */
  width: number;
  height: number;
  maps: readonly BakedKind[];
  /** Texels that islands run on into the ground. */
  padding: number;
  /** Texels that masks grow by, below 0 to shrink. */
  grow?: number;
  /** Maps in which some islands stay as they are. */
  standing?: Standing;
}

/** One sheet whole: of each channel width × texelCount values, in its unit or, of unit vectors, in shares of `UNIT`. */
export interface Sheet {
  tile: number;
  /** What of it is new, where it is laid into what stands. */
  again: Again | undefined;
  values: {
    [C in Channel]?: C extends (typeof UNITS)[number]
      ? Int16Array
      : Float32Array;
  };
  /** texelCount: 1 and more where an island lies. */
  covered: Uint8Array;
}

type Found = Omit<Sheet, "tile" | "again">;

/** A sheet on which nothing lies yet. */
export const emptySheet = (
  { width, height }: SheetWanted,
  channels: readonly Channel[],
): Found => ({
  covered: new Uint8Array(width * height),
  values: Object.fromEntries(
    channels.map((name) => {
      const count = CHANNELS[name].width * width * height;
      return [
        name,
        isUnits(name) ? new Int16Array(count) : new Float32Array(count),
      ];
    }),
  ),
});

/** Lays bands into their sheet, and lets them go. */
export function lay(
  { values, covered }: Found,
  bands: readonly RowResult[],
  slices: readonly RowSlice[],
  { width }: SheetWanted,
): void {
  bands.forEach((band, i) => {
    const at = width * slices[i].from;
    covered.set(band.covered, at);
    for (const name of Object.keys(band.values) as Channel[]) {
      const into = values[name]!;
      const given = band.values[name]!;
      const first = CHANNELS[name].width * at;
      if (into instanceof Float32Array) into.set(given, first);
      else
        for (let k = 0; k < given.length; k++)
          into[first + k] = Math.round(UNIT * given[k]);
      delete band.values[name];
    }
  });
}

/** Takes the grain of few rays out of what was found by many, and grows masks. */
export function withoutGrainOf(
  { values, covered }: Found,
  { width, height, grow = 0 }: SheetWanted,
  scene: BakeScene,
  check: () => void,
): void {
  for (const name of scene.channels) {
    if (!CHANNELS[name].rays || isUnits(name)) continue;
    check();
    values[name] = withoutGrain(
      values[name]!,
      values.normal!,
      covered,
      width,
      height,
      noiseOf(name, scene),
    );
  }
  if (values.opacity && grow)
    growMask(values.opacity, covered, width, height, grow);
}

/** The pictures of a sheet's maps, islands run on over their borders. */
export function imagesOf(
  { tile, again: part, values, covered }: Sheet,
  wanted: SheetWanted,
  encoding: Encoding,
  check: () => void,
): BakedMap[] {
  const { width, height, padding } = wanted;
  const placed = (image: BakedMap): BakedMap => {
    const map = tile ? { ...image, tile } : image;
    const old = part && standingMap(wanted.standing!.maps, map);
    if (old) putBack(map, old, part.written);
    return map;
  };
  return wanted.maps.map((kind, m) => {
    check();
    const name = CHANNEL_OF[kind];
    // Changed in place and let go, unless another map is made of it: at 8192 px each is close to a gigabyte.
    const again = wanted.maps
      .slice(m + 1)
      .some((other) => CHANNEL_OF[other] === name);
    const whole: SheetValues = again ? values[name]!.slice() : values[name]!;
    if (!again) delete values[name];
    const { width: numbers, flat } = CHANNELS[name];
    // What is left of the ground is sky.
    if (name === "sky" || name === "outside")
      for (let i = 0; i < covered.length; i++) if (!covered[i]) whole[i] = 1;
    // What does not cover must not grow over what does: only a mask keeps its border.
    if (name !== "opacity")
      dilate(whole, numbers, covered, width, height, padding, flat);
    return placed(mapImage(kind, whole, encoding));
  });
}
