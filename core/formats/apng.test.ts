import { decode, decodeApng, encode } from "fast-png";
import fc from "fast-check";
import { expect, it } from "vitest";
import { animatedPng } from "./apng";

const SIDE = 6;
const picture = (seed: number) =>
  Uint8Array.from(
    { length: 3 * SIDE * SIDE },
    (_, i) => (seed * (i + 7)) % 251,
  );
const png = (pixels: Uint8Array) =>
  encode({ width: SIDE, height: SIDE, channels: 3, depth: 8, data: pixels });

it("an animated PNG holds every frame as it was given, and shows the first where nothing moves", () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 1, max: 250 }), {
        minLength: 1,
        maxLength: 6,
      }),
      (seeds) => {
        const bytes = animatedPng(
          seeds.map((seed) => png(picture(seed))),
          0.25,
        );
        // It is read with its check sums looked at.
        const read = decodeApng(bytes, { checkCrc: true });
        expect(read.frames.map(({ data }) => [...data])).toEqual(
          seeds.map((seed) => [...picture(seed)]),
        );
        for (const { delayNumber, delayDenominator } of read.frames)
          expect(delayNumber / delayDenominator).toBe(0.25);
        expect([...decode(bytes, { checkCrc: true }).data]).toEqual([
          ...picture(seeds[0]),
        ]);
      },
    ),
    { numRuns: 20 },
  );
});
