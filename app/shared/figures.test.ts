import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  aboutTime,
  area,
  bytes,
  counted,
  extents,
  length,
  percent,
  spaced,
  time,
  volume,
} from "./figures";

const plain = (text: string) => text.replace(/[\u2009\u00a0]/g, " ");

it("how long something may take is told in whole seconds or minutes", () => {
  expect([0.2, 49.3, 90, 91, 600].map(aboutTime)).toEqual([
    ...["about 1 s", "about 49 s", "about 90 s", "about 2 min"],
    "about 10 min",
  ]);
});

describe("figures", () => {
  it("have their thousands apart", () => {
    expect(plain(spaced(1234567.4))).toBe("1 234 567");
    expect(spaced(999)).toBe("999");
  });

  it("take the unit that reads best, as people say them", () => {
    expect(length(1.234)).toBe("1.23 m");
    expect(length(0.9)).toBe("90.0 cm");
    expect(length(0.0123)).toBe("1.23 cm");
    expect(length(0.00042)).toBe("0.42 mm");
    expect(length(0)).toBe("0 mm");
    expect(length(9.5e-7)).toBe("0.95 µm");
    expect(length(-2e-6)).toBe("-2.00 µm");
    expect(length(12_345)).toBe("12.3 km");
    expect(area(2)).toBe("2.00 m²");
    expect(area(0.0042)).toBe("42.0 cm²");
    expect(area(2e-6)).toBe("2.00 mm²");
    expect(plain(volume(88_685_298.85))).toBe("88 700 m³");
    expect(volume(42)).toBe("42.0 l");
    expect(volume(0.0031)).toBe("3.10 cm³");
    expect(volume(0)).toBe("0 l");
    expect(bytes(0)).toBe("0 B");
    expect(bytes(812)).toBe("812 B");
    expect(bytes(12_340)).toBe("12.3 kB");
    expect(bytes(5_400_000)).toBe("5.40 MB");
    expect(bytes(1_234_000_000)).toBe("1.23 GB");
    expect(time(0.42)).toBe("0.42 s");
    expect(time(12.34)).toBe("12.3 s");
    expect(time(59.97)).toBe("1 min");
    expect(time(125)).toBe("2 min 5 s");
    expect(time(3840)).toBe("1 h 4 min");
  });

  const SIZES: Record<string, number> = {
    ...{ nm: 1e-9, µm: 1e-6, mm: 1e-3, cm: 1e-2, m: 1, km: 1e3 },
    ...{ "µm²": 1e-12, "mm²": 1e-6, "cm²": 1e-4, "m²": 1, "km²": 1e6 },
    ...{ "mm³": 1e-6, "cm³": 1e-3, l: 1, "m³": 1e3, "km³": 1e12 },
    ...{ B: 1, kB: 1e3, MB: 1e6, GB: 1e9 },
  };
  it.each([
    ["length", length, -8, 7, 0],
    ["area", area, -14, 13, 0],
    ["volume", volume, -8, 13, 0],
    ["bytes", bytes, 0, 13, 0.5],
  ] as const)(
    "%s never shows an exponent, nor nothing for something, and is right to a twentieth",
    (_, shown, low, high, off) => {
      fc.assert(
        fc.property(
          fc.double({ min: low, max: high, noNaN: true }),
          fc.boolean(),
          (power, negative) => {
            const value = (negative && !off ? -1 : 1) * 10 ** power;
            const [, number, unit] = /^(-?[\d.\u2009]+) (\S+)$/.exec(
              shown(value),
            )!;
            const digits = number.replaceAll("\u2009", "");
            expect(digits.replace(/\D/g, "").length).toBeLessThanOrEqual(8);
            const told = Number(digits) * SIZES[unit];
            expect(Math.abs(told - value)).toBeLessThanOrEqual(
              0.05 * Math.abs(value) + off,
            );
          },
        ),
        { numRuns: 300 },
      );
    },
  );

  it("tell times that people can add up", () => {
    fc.assert(
      fc.property(fc.double({ min: -2, max: 5, noNaN: true }), (power) => {
        const seconds = 10 ** power;
        const sizes = { s: 1, min: 60, h: 3600 };
        const words = time(seconds).split(" ");
        let told = 0;
        for (let i = 0; i < words.length; i += 2)
          told += Number(words[i]) * sizes[words[i + 1] as "s"];
        expect(Math.abs(told - seconds)).toBeLessThanOrEqual(
          0.01 * seconds + 0.005,
        );
      }),
    );
  });

  it("keep three extents in one unit, the largest one's", () => {
    expect(extents([2, 0.5, 0.001])).toBe("2.00 × 0.50 × 0.00 m");
    expect(extents([0.2, 0.05, 0.1])).toBe("20.0 × 5.00 × 10.0 cm");
    expect(plain(extents([0.5, 0.4, 88_700]))).toBe("0.00 × 0.00 × 88.7 km");
  });

  it("say one and several", () => {
    expect(counted(1, "face")).toBe("1 face");
    expect(plain(counted(2000, "face"))).toBe("2 000 faces");
    expect(counted(0, "vertex", "vertices")).toBe("0 vertices");
    expect(plain(percent(0.125))).toBe("12.5 %");
  });
});
