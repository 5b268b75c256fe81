import { describe, expect, it } from "vitest";
import { moved, sphere } from "../../tests/shapes";
import { areaOf } from "./area";
import { buildEdges } from "./edges";
import type { Mesh } from "./mesh";
import { bothHalves, halvesOf, reflection, wholeMeshes } from "./symmetry";
import { transformMesh } from "./transform";

const ball = sphere(12, 16);
/** A ball with a dent on one side of x = 0 only. */
const dented: Mesh = {
  ...ball,
  positions: ball.positions.map((x, i) => (i % 3 === 0 && x > 0.6 ? 0.6 : x)),
};
const part = (name: string, mesh: Mesh) => ({ name, mesh });
const across = (parts: { name: string; mesh: Mesh }[], all = false) =>
  halvesOf(parts, "x", all);
const told = (halves: ReturnType<typeof halvesOf>["halves"]) =>
  halves.map(({ name, halved, twin }) => [name, halved, twin]);

describe("what is worked on of parts that are to be symmetric", () => {
  it("is half of a part that is its own mirror image", () => {
    const { halves, plane } = across([part("ball", ball)]);
    expect(plane!.normal).toEqual([1, 0, 0]);
    expect(told(halves)).toEqual([["ball", true, null]]);
    expect(areaOf(halves[0].mesh)).toBeCloseTo(areaOf(ball) / 2, 4);
    const [half] = halves;
    expect(
      Math.min(...half.mesh.positions.filter((_, i) => i % 3 === 0)),
    ).toBeCloseTo(0, 6);
  });

  it("is all of a part that is none, but where every part is halved", () => {
    const { halves } = across([part("dented", dented)]);
    expect(told(halves)).toEqual([["dented", false, null]]);
    expect(halves[0].mesh).toBe(dented);
    expect(told(across([part("dented", dented)], true).halves)).toEqual([
      ["dented", true, null],
    ]);
  });

  it("is one of two parts that are each other's image, and each of two that are not", () => {
    const [left, right] = [moved(ball, -3, 0, 0), moved(ball, 3, 0, 0)];
    expect(
      told(across([part("left", left), part("right", right)]).halves),
    ).toEqual([["left", false, "right"]]);
    expect(
      told(
        across([part("left", left), part("right", moved(ball, 3, 0.5, 0))])
          .halves,
      ),
    ).toEqual([
      ["left", false, null],
      ["right", false, null],
    ]);
  });

  it("does not halve what only touches the plane", () => {
    const low = Math.min(...ball.positions.filter((_, i) => i % 3 === 0));
    const beside = moved(ball, -low, 0, 0);
    expect(told(across([part("beside", beside)], true).halves)).toEqual([
      ["beside", false, null],
    ]);
    const over = moved(ball, -low - 0.01, 0, 0);
    expect(told(across([part("over", over)], true).halves)).toEqual([
      ["over", true, null],
    ]);
  });

  it("is everything as it is where nothing is wanted, and an error where no plane is found", () => {
    const parts = [part("ball", ball)];
    expect(halvesOf(parts, "off", true)).toEqual({
      plane: null,
      halves: [{ ...parts[0], halved: false, twin: null }],
    });
    expect(halvesOf([], "find", false).halves).toEqual([]);
    const crooked = {
      ...ball,
      positions: ball.positions.map((x, i) => x + 0.2 * Math.sin(7 * i * i)),
    };
    expect(() => halvesOf([part("c", crooked)], "find", false)).toThrow(
      "no mirror plane",
    );
  });
});

describe("both halves of a mesh", () => {
  it("are closed where it was, with what lies in the plane shared", () => {
    const { halves, plane } = across([part("ball", ball)]);
    const whole = bothHalves(halves[0].mesh, plane!);
    expect(areaOf(whole)).toBeCloseTo(areaOf(ball), 4);
    const { uses } = buildEdges(whole);
    expect(Math.min(...uses)).toBe(2);
    expect(Math.max(...uses)).toBe(2);
    expect(whole.positions.length).toBe(ball.positions.length);
  });

  it("lie where a slanting plane mirrors them", () => {
    const normal: [number, number, number] = [0.6, 0, 0.8];
    const plane = { normal, d: 0.5 };
    const image = transformMesh(moved(ball, 2, 1, 1), reflection(plane));
    const middle = [0, 1, 2].map((k) => {
      const own = image.positions.filter((_, i) => i % 3 === k);
      return (Math.min(...own) + Math.max(...own)) / 2;
    });
    // 2 · 0.6 + 1 · 0.8 − 0.5 = 1.5 in front of the plane goes as far behind it.
    expect(middle[0]).toBeCloseTo(2 - 2 * 1.5 * 0.6, 1);
    expect(middle[1]).toBeCloseTo(1, 1);
    expect(middle[2]).toBeCloseTo(1 - 2 * 1.5 * 0.8, 1);
    const back = transformMesh(image, reflection(plane));
    moved(ball, 2, 1, 1).positions.forEach((x, i) =>
      expect(back.positions[i]).toBeCloseTo(x, 5),
    );
  });

  it("are laid together by part: halves doubled, twins mirrored, the rest as it came", () => {
    const left = moved(ball, -3, 0, 0);
    const parts = [
      part("mid", ball),
      part("left", left),
      part("right", moved(ball, 3, 0, 0)),
      part("odd", moved(dented, 0, 4, 0)),
    ];
    const { plane, halves } = across(parts);
    const made = wholeMeshes(
      plane,
      halves,
      halves.map(({ mesh }) => mesh),
    );
    expect([...made.keys()].sort()).toEqual(["left", "mid", "odd", "right"]);
    expect(areaOf(made.get("mid")!)).toBeCloseTo(areaOf(ball), 4);
    const xs = made.get("right")!.positions.filter((_, i) => i % 3 === 0);
    expect(Math.min(...xs)).toBeGreaterThan(1.9);
    expect(made.get("odd")).toBe(parts[3].mesh);
    const none = wholeMeshes(
      plane,
      halves,
      halves.map(() => null),
    );
    expect([...none.values()]).toEqual([null, null, null, null]);
  });
});
