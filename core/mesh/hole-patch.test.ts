import { describe, expect, it } from "vitest";
import { patchRing } from "./hole-patch";
import type { Patch, Ring } from "./hole-patch";

/** A ring of points, and the ring of the surface round it that each is joined with. */
function ringOf(
  n: number,
  at: (turn: number) => number[],
  outside: (turn: number) => number[],
): Ring {
  const turn = (i: number) => (2 * Math.PI * i) / n;
  return {
    points: Float64Array.from(
      Array.from({ length: n }, (_, i) => at(turn(i))).flat(),
    ),
    around: Array.from({ length: n }, (_, i) => outside(turn(i))),
    joined: () => false,
  };
}

/** Edges of a patch by how many triangles use them, and how often each way. */
function sidesOf({ triangles }: Patch) {
  const sides = new Map<string, number>();
  for (let i = 0; i < triangles.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const key = `${triangles[i + k]} ${triangles[i + ((k + 1) % 3)]}`;
      sides.set(key, (sides.get(key) ?? 0) + 1);
    }
  return sides;
}

const N = 24;
/** A hole of 40° round the pole of a ball of radius 1, with the ball's next ring outside. */
const latitude = (degrees: number) => (turn: number) => {
  const polar = (degrees * Math.PI) / 180;
  return [
    Math.sin(polar) * Math.cos(turn),
    Math.sin(polar) * Math.sin(turn),
    Math.cos(polar),
  ];
};
const cap = ringOf(N, latitude(40), latitude(46));

describe("a patch over a hole", () => {
  it.each([true, false])(
    "joins every side of the ring once, and all its inner sides both ways (smooth: %s)",
    (smooth) => {
      const patch = patchRing(cap, smooth);
      const sides = sidesOf(patch);
      for (const uses of sides.values()) expect(uses).toBe(1);
      for (let i = 0; i < N; i++) {
        const [one, other] = [`${i} ${(i + 1) % N}`, `${(i + 1) % N} ${i}`];
        expect(sides.has(one) !== sides.has(other)).toBe(true);
      }
      for (const key of sides.keys()) {
        const [a, b] = key.split(" ").map(Number);
        const isRing = a < N && b < N && [1, N - 1].includes(Math.abs(a - b));
        if (!isRing) expect(sides.has(`${b} ${a}`)).toBe(true);
      }
      // A disc: V − E + F = 1.
      const vertices = N + patch.inner.length / 3;
      const edges = (sides.size + N) / 2;
      expect(vertices - edges + patch.triangles.length / 3).toBe(1);
    },
  );

  it("goes on as round as the ball does, with triangles as fine as the ring", () => {
    const { inner, triangles } = patchRing(cap, true);
    expect(inner.length / 3).toBeGreaterThan(10);
    let lowest = 0;
    for (let i = 0; i < inner.length; i += 3) {
      const off = Math.hypot(...inner.slice(i, i + 3)) - 1;
      // Flat it would lie 0.23 under the ball in the middle.
      expect(off).toBeLessThan(0.01);
      lowest = Math.min(lowest, off);
    }
    expect(lowest).toBeGreaterThan(-0.16);
    const all = [...cap.points, ...inner];
    const side = 2 * Math.sin((40 * Math.PI) / 180) * Math.sin(Math.PI / N);
    for (let i = 0; i < triangles.length; i++) {
      const [a, b] = [triangles[i], triangles[i % 3 === 2 ? i - 2 : i + 1]];
      const length = Math.hypot(
        ...[0, 1, 2].map((k) => all[3 * a + k] - all[3 * b + k]),
      );
      expect(length).toBeLessThan(3 * side);
    }
  });

  it("stays flat where the surface ends at it, as a tube does, and where it is not to be smooth", () => {
    const circle = (height: number) => (turn: number) => [
      Math.cos(turn),
      Math.sin(turn),
      height,
    ];
    expect(patchRing(ringOf(N, circle(0), circle(-1)), true).inner).toEqual([]);
    expect(patchRing(cap, false).inner).toEqual([]);
  });

  it("is a fan from the middle where no side may be added", () => {
    const { triangles, inner } = patchRing(
      { ...cap, joined: () => true },
      true,
    );
    expect(inner).toHaveLength(3);
    expect(inner[0]).toBeCloseTo(0, 6);
    expect(inner[2]).toBeCloseTo(Math.cos((40 * Math.PI) / 180), 6);
    expect(triangles).toHaveLength(3 * N);
    expect(triangles.filter((v) => v === N)).toHaveLength(N);
  });
});
