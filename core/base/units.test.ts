import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { area, bytes, extents, length, time, volume } from "./units";

const plain = (text: string) => text.replace(/[\u2009\u00a0\u202f]/g, "");
const METRES: Record<string, number> = {
  ...{ km: 1e3, m: 1, cm: 1e-2, mm: 1e-3, µm: 1e-6, nm: 1e-9 },
};
const SQUARE: Record<string, number> = {
  ...{ "km²": 1e6, "m²": 1, "cm²": 1e-4, "mm²": 1e-6, "µm²": 1e-12 },
};
const LITRES: Record<string, number> = {
  ...{ "km³": 1e12, "m³": 1e3, l: 1, "cm³": 1e-3, "mm³": 1e-6 },
};
const BYTES: Record<string, number> = { GB: 1e9, MB: 1e6, kB: 1e3, B: 1 };

/** What a text says, in the unit of what it was made from. */
function read(text: string, units: Record<string, number>): number {
  const [, value, unit] = /^(-?[\d.]+(?:e-?\d+)?)\s?(.+)$/.exec(plain(text))!;
  expect(units).toHaveProperty([unit]);
  return Number(value) * units[unit];
}
/** Any size between two powers of ten, all as likely. */
const between = (low: number, high: number) =>
  fc
    .integer({ min: 0, max: 1 << 20 })
    .map((step) => 10 ** (low + ((high - low) * step) / (1 << 20)));

describe("amounts in the unit that reads best", () => {
  it.each([
    ["lengths", length, METRES, -8.9, 5],
    ["areas", area, SQUARE, -10, 8],
    ["volumes", volume, LITRES, -5, 13],
    ["bytes", bytes, BYTES, 0.4, 12],
  ] as const)(
    "%s say what they are to within half a hundredth or their last digit",
    (_, words, units, low, high) => {
      fc.assert(
        fc.property(between(low, high), (amount) => {
          const said = read(words(amount), units);
          expect(Math.abs(said / amount - 1)).toBeLessThan(
            words === bytes && amount < 10 ? 0.5 : 0.051,
          );
          // No unit of which there is next to nothing, no more digits than are read at a glance.
          expect(plain(words(amount)).replace(/\D/g, "").length).toBeLessThan(
            8,
          );
        }),
        { numRuns: 1000 },
      );
    },
  );

  it("have steps between units where they belong", () => {
    const said = [0, 0.0099, 0.00995, 0.9949, 0.995, 999, 999.5, 42, 88_700];
    expect(said.map((x) => plain(length(x)))).toEqual([
      "0 mm",
      "9.90 mm",
      "0.99 cm",
      "99.5 cm",
      "0.99 m",
      "999 m",
      "1.00 km",
      "42.0 m",
      "88.7 km",
    ]);
    expect([0, 0.1, 0.09].map((x) => plain(area(x)))).toEqual([
      "0 µm²",
      "0.10 m²",
      "900 cm²",
    ]);
    expect(
      [0, 0.995, 0.9, 9.98e9, 9.996e9].map((x) => plain(volume(x))),
    ).toEqual(["0 l", "0.99 l", "900 cm³", "9980000 m³", "0.01 km³"]);
    expect([0, 12, 999.4, 1000, 1_000_000].map((x) => plain(bytes(x)))).toEqual(
      ["0 B", "12 B", "999 B", "1.00 kB", "1.00 MB"],
    );
    expect(plain(length(-0.02))).toBe("-2.00 cm");
  });

  it("take the largest one's unit for all of three extents", () => {
    expect(plain(extents([0.5, 0.02, 2]))).toBe("0.50 × 0.02 × 2.00 m");
    expect(plain(extents([0, 0, 0]))).toMatch(/^0\.00 × 0\.00 × 0\.00 /);
  });
});

describe("times as people say them", () => {
  it.each([
    [0.42, "0.42 s"],
    [12.34, "12.3 s"],
    [59.94, "59.9 s"],
    [59.95, "1 min"],
    [60, "1 min"],
    [125, "2 min 5 s"],
    [3599, "59 min 59 s"],
    [3600, "1 h"],
    [3840, "1 h 4 min"],
    [7199, "2 h"],
  ])("%f s is %s", (seconds, said) => expect(time(seconds)).toBe(said));
});
