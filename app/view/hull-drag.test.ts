import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { boxMesh } from "../../core/mesh/collider-shape";
import type { Hull } from "../../core/mesh/hull";
import { hullFrame } from "../../core/mesh/hull-frame";
import { moveHull } from "../../core/mesh/move-hull";
import { rotation, transformHull } from "../../core/mesh/transform";
import { WORLD_AXES } from "../../core/space/principal-axes";
import { length } from "../shared/figures";
import type { Eye, Handle, Moved } from "./hull-drag";
import { draggedBy, saidOf } from "./hull-drag";

/** Looks along −z from afar: a pixel is a hundredth of a metre, the origin lies at 500, 400. */
const EYE: Eye = {
  toPixels: ([x, y]) => [500 + 100 * x, 400 - 100 * y],
  pixel: 0.01,
  right: [1, 0, 0],
  up: [0, 1, 0],
  towards: [0, 0, 1],
};
const box: Hull = {
  name: "box",
  kind: "box",
  ...boxMesh(WORLD_AXES, [
    [0, 2],
    [0, 1],
    [0, 1],
  ]),
};
const of = (hull: Hull, steps: Moved["steps"] = null): Moved => ({
  frame: hullFrame(hull),
  kind: hull.kind === "box" ? "box" : "other",
  steps,
  sides: [[], [], []],
});
const handle = (
  what: Handle["what"],
  axis: 0 | 1 | 2 = 0,
  way: 1 | -1 = 1,
): Handle => ({ what, axis, way });
/** Which axis of a frame runs along one of the world's. */
const axisAlong = ({ frame }: Moved, k: number) =>
  frame.axes.findIndex((axis) => Math.abs(axis[k]) > 0.9) as 0 | 1 | 2;

describe("dragging a handle", () => {
  it("moves along its axis by as much as the pointer goes along it", () => {
    const { move } = draggedBy(
      handle("move", 0),
      of(box),
      [0, 0],
      [37, 90],
      EYE,
    );
    expect(move[0]).toBeCloseTo(0.37, 9);
    expect(move.slice(1)).toEqual([0, 0]);
  });

  it("takes the middle along with the pointer", () => {
    const { move } = draggedBy(handle("slide"), of(box), [5, 5], [25, 45], EYE);
    [0.2, -0.4, 0].forEach((x, k) => expect(move[k]).toBeCloseTo(x, 9));
  });

  it("goes to whole steps of where it lies, and stays where it was not moved", () => {
    fc.assert(
      fc.property(fc.integer({ min: -300, max: 300 }), (px) => {
        const moved = of(box, { length: 0.25, angle: 15 });
        const { move } = draggedBy(
          handle("move", 0),
          moved,
          [0, 0],
          [px, 0],
          EYE,
        );
        if (!px) expect(move[0]).toBe(0);
        else
          expect(((moved.frame.centre[0] + move[0]) / 0.25) % 1).toBeCloseTo(
            0,
            6,
          );
        const slide = draggedBy(handle("slide"), moved, [0, 0], [px, 0], EYE);
        expect(slide.move[1]).toBe(0);
      }),
    );
  });

  it("does nothing along an axis that points at the eye", () => {
    const { move } = draggedBy(
      handle("move", 2),
      of(box, { length: 0.25, angle: 15 }),
      [0, 0],
      [90, 90],
      EYE,
    );
    expect(move).toEqual([0, 0, 0]);
  });

  it("moves a side and leaves the other where it is, boxes that are turned as well", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -40, max: 300 }),
        fc.constantFrom(1 as const, -1 as const),
        fc.double({ min: -0.7, max: 0.7, noNaN: true }),
        (px, way, angle) => {
          const hull = transformHull(box, rotation([0, 0, 1], angle), "box");
          const moved = of(hull);
          const axis = axisAlong(moved, 2) === 0 ? 1 : 0;
          const out = moved.frame.axes[axis].map((x) => way * x);
          const to: [number, number] = [px * out[0], -px * out[1]];
          const by = draggedBy(
            handle("size", axis, way),
            moved,
            [0, 0],
            to,
            EYE,
          );
          const after = moveHull(hull, by);
          const ends = ({ positions }: Hull) => {
            const at = Array.from(
              { length: positions.length / 3 },
              (_, i) =>
                out[0] * positions[3 * i] +
                out[1] * positions[3 * i + 1] +
                out[2] * positions[3 * i + 2],
            );
            return [Math.min(...at), Math.max(...at)];
          };
          expect(ends(after)[0]).toBeCloseTo(ends(hull)[0], 5);
          expect(ends(after)[1]).toBeCloseTo(ends(hull)[1] + px / 100, 5);
        },
      ),
    );
  });

  it("draws a side to that of a part which is near", () => {
    const moved: Moved = {
      ...of(box, { length: 0.5, angle: 15 }),
      sides: [[2.63], [2.63], [2.63]],
    };
    const axis = axisAlong(moved, 0);
    const way = moved.frame.axes[axis][0] > 0 ? 1 : -1;
    moved.sides.forEach((each) => ((each as number[])[0] *= way));
    const to = (px: number) =>
      moveHull(
        box,
        draggedBy(handle("size", axis, way), moved, [0, 0], [px, 0], EYE),
      );
    const right = ({ positions }: Hull) =>
      Math.max(...positions.filter((_, i) => i % 3 === 0));
    expect(right(to(60))).toBeCloseTo(2.63, 5);
    expect(right(to(90))).toBeCloseTo(3, 5);
  });

  it("turns with the pointer round the middle, to the left for an axis that faces the eye", () => {
    const moved = of({ ...box, kind: "convex" });
    const [cx, cy] = EYE.toPixels(moved.frame.centre);
    const { turn } = draggedBy(
      handle("turn", 2),
      moved,
      [cx + 50, cy],
      [cx, cy - 50],
      EYE,
    );
    expect(turn[2]).toBeCloseTo(Math.PI / 2, 6);
    const stepped = draggedBy(
      handle("turn", 2),
      { ...moved, steps: { length: 1, angle: 15 } },
      [cx + 50, cy],
      [cx + 50, cy - 20],
      EYE,
    );
    expect(stepped.turn[2]).toBeCloseTo((15 * Math.PI) / 180, 9);
  });

  it("turns a ring that is seen edge on along it", () => {
    const moved = of({ ...box, kind: "convex" });
    const { turn } = draggedBy(handle("turn", 1), moved, [0, 0], [80, 0], EYE);
    expect(Math.abs(turn[1])).toBeGreaterThan(0.5);
    expect(
      draggedBy(handle("turn", 1), moved, [0, 0], [0, 80], EYE).turn[1],
    ).toBeCloseTo(0, 9);
  });

  it("makes what is round, and several, larger all round", () => {
    const frame = hullFrame({ ...box, kind: "convex" });
    for (const kind of ["sphere", null] as const) {
      const moved: Moved = { frame, kind, steps: null, sides: [[], [], []] };
      const { scale, move } = draggedBy(
        handle("size", 0),
        moved,
        [0, 0],
        [100, 0],
        EYE,
      );
      expect(new Set(scale.map((x) => x.toFixed(6)))).toEqual(
        new Set(["2.000000"]),
      );
      expect(move).toEqual([0, 0, 0]);
    }
  });

  it("never turns anything inside out", () => {
    const moved = of({ ...box, kind: "convex" });
    const { scale } = draggedBy(
      handle("size", 0),
      moved,
      [0, 0],
      [-9000, 0],
      EYE,
    );
    expect(scale[0]).toBeGreaterThan(0);
  });

  it("says what it comes to", () => {
    const moved = of({ ...box, kind: "convex" });
    const said = (each: Handle, to: [number, number]) =>
      saidOf(each, draggedBy(each, moved, [0, 0], to, EYE), moved);
    expect(said(handle("move", 0), [25, 0])).toBe(length(0.25));
    expect(said(handle("size", 0), [25, 0])).toBe(length(2.25));
    expect(said(handle("turn", 1), [0, 0])).toBe("0.0°");
  });
});
