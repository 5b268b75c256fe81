import { describe, expect, it } from "vitest";
import { joined } from "../../../tests/shapes";
import { boxMesh } from "../../mesh/collider-shape";
import { meshFromTriangles } from "../../mesh/change-faces";
import type { Hull } from "../../mesh/hull";
import { triangulate } from "../../mesh/triangulate";
import { WORLD_AXES } from "../../space/principal-axes";
import { feelOf } from "./feel";
import { StandOff } from "./stand-off";

type Extent = [number, number];
const box = (...extents: Extent[]) => boxMesh(WORLD_AXES, extents);
const hull = (...extents: Extent[]): Hull => ({
  name: "hull",
  kind: "box",
  ...box(...extents),
});
/** The solid of some boxes that may touch. */
function solid(...boxes: Extent[][]): StandOff {
  const whole = joined(
    ...boxes.map((extents) => {
      const { positions, triangles } = box(...extents);
      return meshFromTriangles(positions, triangles);
    }),
  );
  return new StandOff(whole.positions, triangulate(whole).vertices);
}
const feel = (hulls: Hull[], stand: StandOff) => feelOf(hulls, stand, () => {});
const FLOOR: Extent[] = [
  [0, 4],
  [0, 1],
  [0, 2],
];

describe("how hulls feel", () => {
  it("is as the mesh looks where they are the same", () => {
    const found = feel([hull(...FLOOR)], solid(FLOOR));
    expect(found).toEqual({
      hovers: 0,
      hoverPlaces: [],
      lip: 0,
      lipPlaces: [],
    });
  });

  it("tells how far one stands above the mesh, and where", () => {
    const higher = hull([0, 4], [0, 1.2], [0, 2]);
    const { hovers, hoverPlaces } = feel([higher], solid(FLOOR));
    expect(hovers).toBeCloseTo(0.2, 5);
    expect(hoverPlaces.length).toBeGreaterThan(4);
    for (const { at } of hoverPlaces) expect(at[1]).toBeCloseTo(1.2, 5);
  });

  it("tells a lip between hulls that the mesh has not", () => {
    const left = hull([0, 2], [0, 1], [0, 2]);
    const right = hull([2, 4], [0, 1.1], [0, 2]);
    const { lip, lipPlaces } = feel([left, right], solid(FLOOR));
    expect(lip).toBeCloseTo(0.1, 2);
    for (const { at } of lipPlaces) expect(at[0]).toBeCloseTo(2, 1);
  });

  it("is silent of a step that the mesh has as well, of a wall, and of what is not felt", () => {
    const left = hull([0, 2], [0, 1], [0, 2]);
    const step: Extent[] = [
      [2, 4],
      [0, 1.1],
      [0, 2],
    ];
    const low: Extent[] = [
      [0, 2],
      [0, 1],
      [0, 2],
    ];
    expect(feel([left, hull(...step)], solid(low, step)).lip).toBe(0);
    const wall = hull([2, 4], [0, 3], [0, 2]);
    expect(feel([left, wall], solid(FLOOR)).lip).toBe(0);
    const hair = hull([2, 4], [0, 1.002], [0, 2]);
    expect(feel([left, hair], solid(FLOOR)).lip).toBe(0);
  });

  it("looks at the outside only: what is inside of another hull is not met", () => {
    const inner = hull([1, 2], [0.2, 0.8], [0.5, 1]);
    expect(feel([hull(...FLOOR), inner], solid(FLOOR))).toMatchObject({
      hovers: 0,
      lip: 0,
    });
  });
});
