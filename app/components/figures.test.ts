import { describe, expect, it } from "vitest";
import { area, counted, extents, length, percent, spaced } from "./figures";

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
    expect(area(2)).toBe("2.00 m²");
    expect(area(0.0042)).toBe("42.0 cm²");
    expect(area(2e-6)).toBe("2.0 mm²");
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
