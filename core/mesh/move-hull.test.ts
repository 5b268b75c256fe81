import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cube, sphere } from "../../tests/shapes";
import { volumeOf } from "../collide/methods/convex-hull";
import {
  fitBox,
  fitCapsule,
  fitSphere,
} from "../collide/methods/fitted-shapes";
import type { Hull, HullKind } from "./hull";
import { hullFrame, inFrame } from "./hull-frame";
import { moveHull, pivotOf, STILL } from "./move-hull";

const named = (
  kind: HullKind,
  mesh: { positions: Float32Array; triangles: Uint32Array } | null,
): Hull => ({ name: kind, kind, ...mesh! });
const stretched = (x: number, y: number, z: number) =>
  cube().positions.map((value, i) => value * [x, y, z][i % 3]);
const box = named("box", fitBox(stretched(0.5, 1, 2)));
const ball = named("sphere", fitSphere(sphere(8, 12, 0.7).positions));
const capsule = named("capsule", fitCapsule(stretched(0.3, 2, 0.3)));
const volume = ({ positions, triangles }: Hull) =>
  volumeOf(positions, triangles);
const near = (a: readonly number[], b: readonly number[], digits = 3) =>
  a.forEach((x, k) => expect(x).toBeCloseTo(b[k], digits));
const number = fc.double({ min: -2, max: 2, noNaN: true });
const triple = fc.tuple(number, number, number);
const factor = fc.double({ min: 0.4, max: 2.5, noNaN: true });

describe("a hull that is moved by hand", () => {
  it("goes where it is moved to, and is else as it was", () => {
    fc.assert(
      fc.property(triple, fc.constantFrom(box, ball, capsule), (move, hull) => {
        const moved = moveHull(hull, { ...STILL, move });
        const [before, after] = [hullFrame(hull), hullFrame(moved)];
        near(
          after.centre,
          before.centre.map((x, k) => x + move[k]),
        );
        near(after.half, before.half);
        expect([moved.kind, moved.name]).toEqual([hull.kind, hull.name]);
      }),
      { numRuns: 40 },
    );
  });

  it("turns about its own centre, or about another, and holds as much", () => {
    fc.assert(
      fc.property(
        triple,
        fc.constantFrom(box, ball, capsule),
        fc.option(triple),
        (turn, hull, pivot) => {
          const moved = moveHull(hull, { ...STILL, turn }, pivot);
          expect(volume(moved)).toBeCloseTo(volume(hull), 3);
          const from = pivot ?? hullFrame(hull).centre;
          const away = ({ positions: p }: Hull) =>
            Math.hypot(p[0] - from[0], p[1] - from[1], p[2] - from[2]);
          expect(away(moved)).toBeCloseTo(away(hull), 3);
        },
      ),
      { numRuns: 40 },
    );
    const turned = moveHull(box, { ...STILL, turn: [0, Math.PI / 2, 0] });
    // What was along z lies along x now.
    const xs = turned.positions.filter((_, i) => i % 3 === 0);
    expect(Math.max(...xs)).toBeCloseTo(2, 3);
  });

  it("as a box is sized along its own edges, however it lies", () => {
    fc.assert(
      fc.property(triple, fc.tuple(factor, factor, factor), (turn, scale) => {
        const lying = moveHull(box, { ...STILL, turn });
        const sized = moveHull(lying, { ...STILL, scale });
        expect(volume(sized) / volume(box)).toBeCloseTo(
          scale[0] * scale[1] * scale[2],
          3,
        );
        // Every corner lies as far along each axis as all others.
        const frame = hullFrame(lying);
        for (let i = 0; i < sized.positions.length; i += 3)
          near(
            inFrame(frame, [...sized.positions.subarray(i, i + 3)]).map(
              Math.abs,
            ),
            frame.half.map((x, k) => x * scale[k]),
          );
      }),
      { numRuns: 40 },
    );
  });

  it("as a ball grows all round by what changes most", () => {
    const { half } = hullFrame(
      moveHull(ball, { ...STILL, scale: [1.2, 0.5, 1] }),
    );
    const [radius] = hullFrame(ball).half;
    near(half, [radius / 2, radius / 2, radius / 2], 2);
  });

  it("as a capsule keeps its round ends: it is made longer along, thicker across", () => {
    const before = hullFrame(capsule);
    const [thick, long] = before.half;
    const longer = hullFrame(moveHull(capsule, { ...STILL, scale: [1, 2, 1] }));
    near(longer.half, [thick, 2 * long, thick], 2);
    const thicker = hullFrame(
      moveHull(capsule, { ...STILL, scale: [1.5, 1, 1] }),
    );
    near(thicker.half, [1.5 * thick, long, 1.5 * thick], 2);
    near(thicker.centre, before.centre);
  });

  it("with others grows alike, from the middle of all", () => {
    const beside = moveHull(ball, { ...STILL, move: [6, 0, 0] });
    const pivot = pivotOf([ball, beside])!;
    near(pivot, [3, 0, 0], 2);
    expect(pivotOf([ball])).toBe(null);
    const scale = [2, 1, 1] as const;
    const grown = moveHull(beside, { ...STILL, scale }, pivot);
    const { centre, half } = hullFrame(grown);
    near(centre, [9, 0, 0], 2);
    near(half, [1.4, 1.4, 1.4], 1);
  });
});
