import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  area,
  bytes,
  counted,
  extents,
  length,
  percent,
  spaced,
  volume,
} from "./figures";

const plain = (text: string) => text.replace(/[\u2009\u00a0]/g, " ");

describe("figures", () => {
  it("have their thousands apart", () => {
    expect(plain(spaced(1234567.4))).toBe("1 234 567");
    expect(spaced(999)).toBe("999");
  });

  it("take the unit that reads best", () => {
    expect(length(1.234)).toBe("1.23 m");
    expect(length(0.0123)).toBe("1.2 cm");
    expect(length(0.00042)).toBe("0.42 mm");
    expect(length(0)).toBe("0 mm");
    expect(length(9.5e-7)).toBe("0.95 µm");
    expect(length(-2e-6)).toBe("-2 µm");
    expect(length(12_345)).toBe("12.35 km");
    expect(area(2)).toBe("2.00 m²");
    expect(area(0.0042)).toBe("42.0 cm²");
    expect(area(2e-6)).toBe("2.0 mm²");
  });

  it("say volumes and sizes of files as people do", () => {
    expect(plain(volume(88_685_298.85))).toBe("88 700 m³");
    expect(volume(42)).toBe("42.0 l");
    expect(volume(0.0031)).toBe("3.10 cm³");
    expect(volume(0)).toBe("0 l");
    expect(bytes(812)).toBe("812 B");
    expect(bytes(12_340)).toBe("12.3 kB");
    expect(bytes(5_400_000)).toBe("5.40 MB");
    expect(bytes(1_234_000_000)).toBe("1.23 GB");
    fc.assert(
      fc.property(fc.double({ min: 0, max: 11.9, noNaN: true }), (power) => {
        const count = Math.round(10 ** power);
        const [number, unit] = bytes(count).split(" ");
        const size = { B: 1, kB: 1e3, MB: 1e6, GB: 1e9 }[unit]!;
        expect(number).toMatch(/^\d{1,3}(\.\d{1,2})?$/);
        expect(Math.abs(Number(number) * size - count)).toBeLessThanOrEqual(
          0.01 * count,
        );
      }),
    );
  });

  it("show every length with at least two digits, in few signs", () => {
    fc.assert(
      fc.property(fc.double({ min: -8, max: 6, noNaN: true }), (power) => {
        const metres = 10 ** power;
        const [number, unit] = length(metres).split(" ");
        const size = { µm: 1e-6, mm: 1e-3, cm: 1e-2, m: 1, km: 1e3 }[unit]!;
        expect(number).toMatch(/^\d{1,4}(\.\d{1,3})?$/);
        expect(Math.abs(Number(number) * size - metres) / metres).toBeLessThan(
          0.51,
        );
      }),
    );
  });

  it("keep three extents in one unit, the largest one's", () => {
    expect(extents([2, 0.5, 0.001])).toBe("2.00 × 0.50 × 0.00 m");
    expect(extents([0.2, 0.05, 0.1])).toBe("20.0 × 5.0 × 10.0 cm");
  });

  it("say one and several", () => {
    expect(counted(1, "face")).toBe("1 face");
    expect(plain(counted(2000, "face"))).toBe("2 000 faces");
    expect(counted(0, "vertex", "vertices")).toBe("0 vertices");
    expect(plain(percent(0.125))).toBe("12.5 %");
  });
});
