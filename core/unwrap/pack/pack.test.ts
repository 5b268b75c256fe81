import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { PackItem, Rotation } from "../methods/pack/types";
import { packIslands } from "../methods/pack";
import { borderOf } from "../methods/pack/border";
import { clearanceDeficit } from "../methods/pack/gaps";

/** A fan round a middle: any outline that is seen whole from it. */
const fan = (outline: readonly (readonly number[])[]): PackItem => ({
  triangles: Float64Array.from(
    outline.flatMap((p, i) => [
      0,
      0,
      ...p,
      ...outline[(i + 1) % outline.length],
    ]),
  ),
});

const star = (radii: readonly number[]): PackItem =>
  fan(
    radii.map((r, k) => {
      const angle = (2 * Math.PI * k) / radii.length;
      return [r * Math.cos(angle), r * Math.sin(angle)];
    }),
  );

const rectangle = (w: number, h: number) =>
  fan([
    [-w, -h],
    [w, -h],
    [w, h],
    [-w, h],
  ]);

/** Half a ring, which is not seen whole from anywhere. */
const halfRing = (outer: number, inner: number): PackItem => {
  const at = (r: number, k: number) => [
    r * Math.cos((Math.PI * k) / 16),
    r * Math.sin((Math.PI * k) / 16),
  ];
  return {
    triangles: Float64Array.from(
      Array.from({ length: 16 }, (_, k) => [
        ...at(inner, k),
        ...at(outer, k),
        ...at(outer, k + 1),
        ...at(inner, k),
        ...at(outer, k + 1),
        ...at(inner, k + 1),
      ]).flat(),
    ),
  };
};

/** The triangles where packing put them, px. */
const placed = (
  item: PackItem,
  { angle, x, y }: { angle: number; x: number; y: number },
  scale: number,
): number[] => {
  const [cos, sin] = [scale * Math.cos(angle), scale * Math.sin(angle)];
  const out: number[] = [];
  for (let k = 0; k < item.triangles.length; k += 2) {
    const [u, v] = [item.triangles[k], item.triangles[k + 1]];
    out.push(x + cos * u - sin * v, y + sin * u + cos * v);
  }
  return out;
};

/** Distance of a point from a triangle's edges, 0 inside it. */
function distance(px: number, py: number, t: readonly number[]): number {
  let inside = true;
  let least = Infinity;
  const turn =
    (t[2] - t[0]) * (t[5] - t[1]) - (t[4] - t[0]) * (t[3] - t[1]) < 0 ? -1 : 1;
  for (let k = 0; k < 3; k++) {
    const [ax, ay] = [t[2 * k], t[2 * k + 1]];
    const [bx, by] = [t[(2 * k + 2) % 6], t[(2 * k + 3) % 6]];
    const [dx, dy] = [bx - ax, by - ay];
    if (turn * (dx * (py - ay) - dy * (px - ax)) < 0) inside = false;
    const along = ((px - ax) * dx + (py - ay) * dy) / (dx * dx + dy * dy);
    const s = Math.max(0, Math.min(1, along));
    least = Math.min(least, Math.hypot(px - ax - s * dx, py - ay - s * dy));
  }
  return inside ? 0 : least;
}

/** The least distance of what two lists of triangles cover, looked at from points along their edges. */
function gap(a: readonly number[], b: readonly number[]): number {
  let least = Infinity;
  for (const [one, other] of [
    [a, b],
    [b, a],
  ])
    for (let i = 0; i < one.length; i += 6)
      for (let k = 0; k < 3; k++)
        for (let s = 0; s < 1; s += 0.25) {
          const x = one[i + 2 * k] * (1 - s) + one[i + ((2 * k + 2) % 6)] * s;
          const y =
            one[i + 2 * k + 1] * (1 - s) + one[i + ((2 * k + 3) % 6)] * s;
          for (let j = 0; j < other.length; j += 6)
            least = Math.min(least, distance(x, y, other.slice(j, j + 6)));
        }
  return least;
}

const outline = fc
  .array(fc.double({ min: 0.3, max: 1, noNaN: true }), {
    minLength: 3,
    maxLength: 12,
  })
  .map(star);
const box = fc
  .tuple(
    fc.double({ min: 0.05, max: 1, noNaN: true }),
    fc.double({ min: 0.05, max: 1, noNaN: true }),
  )
  .map(([w, h]) => rectangle(w, h));
const bow = fc
  .double({ min: 0.3, max: 0.9, noNaN: true })
  .map((inner) => halfRing(1, inner));
const mixed = fc.array(fc.oneof(outline, box, bow), {
  minLength: 1,
  maxLength: 9,
});

describe("packing by outline", () => {
  it("keeps padding and margin exactly, however islands are turned", () => {
    fc.assert(
      fc.property(
        mixed,
        fc.constantFrom<Rotation>("any", "right angles", "none"),
        fc.constantFrom(0, 3, 8),
        (items, rotation, padding) => {
          const size = 256;
          const margin = 5;
          const { placements, texelsPerMetre } = packIslands(
            items,
            {
              width: size,
              height: size,
              padding,
              margin,
              texelsPerMetre: 0,
              rotation,
              rounds: 2,
            },
            () => {},
          );
          const laid = items.map((item, i) =>
            placed(item, placements[i], texelsPerMetre),
          );
          laid.forEach((one, i) => {
            for (const x of one) {
              expect(x).toBeGreaterThanOrEqual(margin - 1e-6);
              expect(x).toBeLessThanOrEqual(size - margin + 1e-6);
            }
            laid.slice(i + 1).forEach((other) => {
              expect(gap(one, other)).toBeGreaterThanOrEqual(padding - 1e-6);
            });
            const quarter = placements[i].angle / (Math.PI / 2);
            if (rotation === "none") expect(placements[i].angle).toBe(0);
            if (rotation === "right angles")
              expect(quarter).toBeCloseTo(Math.round(quarter), 9);
          });
        },
      ),
      { numRuns: 14 },
    );
  });

  it("puts small islands into what large ones leave, and fills more the longer it looks", () => {
    const items = [
      ...[1, 0.8, 0.6].map((r) => halfRing(r, 0.7 * r)),
      ...[0.5, 0.4, 0.3, 0.25, 0.2].map((r) =>
        star(Array.from({ length: 16 }, () => r)),
      ),
      rectangle(0.5, 0.4),
      rectangle(0.3, 0.6),
    ];
    const [some, more] = [1, 12].map(
      (rounds) =>
        packIslands(
          items,
          { width: 512, height: 512, padding: 4, texelsPerMetre: 0, rounds },
          () => {},
        ).texelsPerMetre,
    );
    expect(more).toBeGreaterThanOrEqual(some);
    const area = items
      .map(({ triangles }) => borderOf(triangles, 0.02, 0.05, 0.05).area)
      .reduce((sum, each) => sum + each, 0);
    expect((area * more ** 2) / 512 ** 2).toBeGreaterThan(0.66);
  });

  it("leaves what lies on the sheet where it is, with the padding round it", () => {
    const blocked = Float64Array.from([
      0, 0, 256, 0, 256, 120, 0, 0, 256, 120, 0, 120,
    ]);
    const items = [
      rectangle(1, 0.5),
      star([1, 1, 1, 1, 1, 1]),
      halfRing(1, 0.6),
    ];
    const { placements, texelsPerMetre } = packIslands(
      items,
      {
        width: 256,
        height: 256,
        padding: 6,
        texelsPerMetre: 0,
        rounds: 4,
        blocked,
      },
      () => {},
    );
    items.forEach((item, i) => {
      const own = placed(item, placements[i], texelsPerMetre);
      expect(Math.min(...own.filter((_, k) => k % 2))).toBeGreaterThanOrEqual(
        126 - 1e-6,
      );
    });
  });

  it("gives the same layout for the same rounds, and stops when told to", () => {
    const items = [0.9, 0.7, 0.5, 0.4].flatMap((r) => [
      halfRing(r, 0.6 * r),
      rectangle(r, 0.5 * r),
    ]);
    const options = {
      width: 256,
      height: 256,
      padding: 4,
      texelsPerMetre: 0,
      rounds: 5,
    };
    expect(packIslands(items, options, () => {})).toEqual(
      packIslands(items, options, () => {}),
    );
    // The shortest search by time still makes a round, and can be repeated by it.
    const timed = packIslands(items, { ...options, seconds: 1e-6 }, () => {});
    expect(timed.rounds).toBeGreaterThan(0);
    expect(
      packIslands(items, { ...options, rounds: timed.rounds }, () => {}),
    ).toEqual(timed);
    let asked = 0;
    expect(() =>
      packIslands(items, { ...options, rounds: 1e6 }, () => {
        if (++asked > 500) throw new Error("cancelled");
      }),
    ).toThrow("cancelled");
  });
});

describe("packing without room", () => {
  const six = Array.from({ length: 6 }, () => rectangle(0.5, 0.5));
  const sheet = { width: 256, height: 256, rounds: 2 };
  const pack = (more: object) =>
    packIslands(
      six,
      { ...sheet, padding: 4, texelsPerMetre: 0, ...more },
      () => {},
    );

  it("says so where padding and margin take all of the sheet, for a crowd as well", () => {
    for (const padding of [256, 300, 4000])
      expect(() => pack({ padding })).toThrow(/no place is left.*256 × 256 px/);
    expect(() => pack({ margin: 128 })).toThrow(/no place is left/);
    const crowd = Array.from({ length: 500 }, () => rectangle(0.5, 0.5));
    expect(() =>
      packIslands(
        crowd,
        { ...sheet, padding: 60, margin: 0, texelsPerMetre: 0 },
        () => {},
      ),
    ).toThrow(/no place is left/);
  });

  it("still packs where padding takes most of the sheet", () => {
    expect(pack({ padding: 90, margin: 0 }).texelsPerMetre).toBeGreaterThan(10);
  });

  it("does not draw what can't fit: a density far too high is refused at once", () => {
    for (const texelsPerMetre of [1e4, 1e6, 1e9])
      expect(() => pack({ texelsPerMetre })).toThrow(
        /do not fit on a sheet of 256 × 256 px/,
      );
  });
});

describe("borders", () => {
  it("tell how far a place is from an island, negative inside", () => {
    const { field, across, up, cell, left, bottom, area, middle } = borderOf(
      rectangle(2, 1).triangles,
      0.05,
      0.1,
      0.5,
    );
    expect(area).toBeCloseTo(8, 9);
    expect(middle[0]).toBeCloseTo(0, 9);
    for (let row = 0; row < up; row += 3)
      for (let column = 0; column < across; column += 3) {
        const x = Math.abs(left + column * cell) - 2;
        const y = Math.abs(bottom + row * cell) - 1;
        const far =
          x > 0 || y > 0
            ? Math.hypot(Math.max(0, x), Math.max(0, y))
            : Math.max(x, y);
        expect(field[row * across + column]).toBeCloseTo(far, 5);
      }
  });

  it("say exactly what gaps lack, overlaps and islands inside one another too", () => {
    const one = borderOf(rectangle(1, 1).triangles, 0.05, 0.1, 0.5);
    const room = { width: 10, height: 10, padding: 1, margin: 0.5 };
    const lack = (x: number, y: number, angle = 0) =>
      clearanceDeficit(
        [one, one],
        [
          { x: 3, y: 3, angle: 0 },
          { x, y, angle },
        ],
        1,
        room,
        null,
      );
    expect(lack(6, 3)).toBeCloseTo(0, 9);
    expect(lack(5.75, 3)).toBeCloseTo(0.25, 9);
    expect(lack(4 + Math.SQRT2 + 0.6, 3, Math.PI / 4)).toBeCloseTo(0.4, 6);
    expect(lack(4, 4)).toBe(1);
    expect(lack(3, 3)).toBe(1);
    expect(lack(6, 9)).toBeCloseTo(0.5, 9);
  });
});
