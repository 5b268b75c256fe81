import { plainContext } from "../../base/context";
import { describe, expect, it } from "vitest";
import { CAD_DIRT, cadPart } from "../../../tests/cad-like";
import {
  cup,
  flatRing,
  lSolid,
  stairs,
  table,
  tSolid,
  uSolid,
} from "../../../tests/solids";
import {
  cube,
  joined,
  moved,
  sheetMesh,
  sphere,
  torus,
} from "../../../tests/shapes";
import { DEMO_ASSETS } from "../../../demo/index";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { farthestOutside } from "./containment";
import { convexHull, volumeOf } from "./convex-hull";
import { hullsOf } from "./solids";
import { StandOff } from "./stand-off";

function made(solid: Mesh | Mesh[], most: number, tolerance = 0) {
  const solids = [solid].flat();
  const mesh = joined(...solids);
  const hulls = hullsOf(
    solids,
    { most, tolerance, vertices: 64 },
    plainContext(),
  ).map(({ hull }) => hull);
  const { vertices } = triangulate(mesh);
  const stand = new StandOff(mesh.positions, vertices);
  const size = diagonalOf(boundsOf(mesh.positions));
  return {
    hulls,
    volume:
      hulls.reduce(
        (sum, { positions, triangles }) => sum + volumeOf(positions, triangles),
        0,
      ) / volumeOf(mesh.positions, vertices),
    off: Math.max(...hulls.map((hull) => stand.of(hull, 1000))) / size,
    out: farthestOutside(hulls, mesh.positions) / size,
  };
}

/** Whether no hull holds a point. */
const isFree = (
  hulls: readonly { positions: Float32Array; triangles: Uint32Array }[],
  ...point: number[]
) => farthestOutside(hulls, point) > 0;

describe("solids made of convex pieces", () => {
  const solids: [string, Mesh, number][] = [
    ["an L", lSolid(), 2],
    ["a T", tSolid(), 2],
    ["a U", uSolid(), 3],
    ["stairs", stairs(5), 5],
    ["a table of five boxes", table(), 5],
  ];
  for (const [name, mesh, pieces] of solids)
    it(`${name} are found exactly, and take hardly more hulls where there may be more`, () => {
      for (const most of [pieces, pieces + 6]) {
        const { hulls, volume, off, out } = made(mesh, most);
        expect(hulls.length).toBeLessThanOrEqual(
          most === pieces ? pieces : pieces + 1,
        );
        expect(volume).toBeCloseTo(1, 3);
        expect(off).toBeLessThan(1e-4);
        expect(out).toBeLessThan(1e-5);
      }
    });

  it("whatever their size and wherever they are", () => {
    for (const [size, away] of [
      [1e-4, 0],
      [1, 50],
      [1e5, 0],
    ]) {
      const mesh = moved(
        { ...uSolid(), positions: uSolid().positions.map((x) => x * size) },
        away * size,
        0,
        0,
      );
      const { hulls, volume } = made(mesh, 3);
      expect(hulls).toHaveLength(3);
      expect(volume).toBeCloseTo(1, 2);
    }
  });

  it("give the same bytes again", () => {
    const [one, other] = [0, 1].map(() => made(torus(24, 8), 6).hulls);
    expect(one).toEqual(other);
  });
});

describe("hollow solids", () => {
  it("a cup keeps its hollow", () => {
    const { hulls, off, out } = made(cup(), 16);
    expect(hulls.length).toBeLessThanOrEqual(16);
    expect(off).toBeLessThan(0.03);
    expect(out).toBeLessThan(0.005);
    for (const y of [0.02, 0.05, 0.09])
      expect(isFree(hulls, 0, y, 0.01)).toBe(true);
  });

  it("rings keep their opening", () => {
    for (const ring of [flatRing(), torus(48, 16)]) {
      const { hulls, volume, off, out } = made(ring, 16);
      expect(hulls.length).toBeLessThanOrEqual(16);
      expect(volume).toBeLessThan(1.06);
      // No piece of it stands off much farther than others have to.
      expect(off).toBeLessThan(0.011);
      expect(out).toBeLessThan(0.006);
      expect(isFree(hulls, 0, 0.1, 0)).toBe(true);
    }
  });

  const sourcesOf = (name: "storm-lamp" | "channel-buoy") =>
    DEMO_ASSETS[name]().parts.flatMap(({ source }) => source ?? []);

  it("a lamp with a bow and a cage of wires is cut evenly: no plate lies over the bow", () => {
    expect(made(joined(...sourcesOf("storm-lamp")), 16).off).toBeLessThan(0.05);
  });

  it("parts that share hulls are levelled out: none stands off far as long as others need not be apart", () => {
    const lamp = made(sourcesOf("storm-lamp"), 16);
    const buoy = made(sourcesOf("channel-buoy"), 16);
    expect(lamp.hulls.length).toBeLessThanOrEqual(16);
    expect(lamp.off).toBeLessThan(0.03);
    expect(buoy.hulls.length).toBeLessThanOrEqual(16);
    expect(buoy.off).toBeLessThan(0.036);
  });

  it("stop where a hull stands off no more than is allowed", () => {
    const size = diagonalOf(boundsOf(flatRing().positions));
    const few = made(flatRing(), 32, 0.08 * size);
    const many = made(flatRing(), 32);
    expect(few.hulls.length).toBeLessThan(many.hulls.length);
    expect(few.off).toBeLessThan(0.085);
  });
});

describe("ugly meshes", () => {
  it("flat and tiny pieces go with what they lie at", () => {
    const pane = moved(sheetMesh(2), 0, 1.2, 0);
    const rivet = moved(sphere(6, 8, 0.02), 1, 0, 0);
    const { hulls, out } = made(joined(cube(), pane, rivet), 4);
    expect(out).toBeLessThan(1e-3);
    expect(hulls.length).toBeLessThanOrEqual(4);
    expect(
      hullsOf([pane], { most: 4, tolerance: 0, vertices: 16 }, plainContext()),
    ).toEqual([]);
  });

  it("a part as CAD makes it is held by its hulls", () => {
    const mesh = cadPart(3, 20_000, CAD_DIRT);
    const { hulls, out } = made(mesh, 8);
    expect(hulls.length).toBeLessThanOrEqual(8);
    expect(out).toBeLessThan(0.01);
  });

  it("many points in few planes and lines give a hull that loses none", () => {
    const points: number[] = [];
    for (let i = 0; i <= 12; i++)
      for (let k = 0; k <= 12; k++)
        for (const [x, y, z] of [
          [i, k, 0],
          [i, 0, k],
          [i, k, 12],
        ])
          points.push(x / 12 + 1e-8 * ((7 * i + 3 * k) % 5), y / 12, z / 12);
    for (const limit of [12, 40, Infinity]) {
      const hull = convexHull(points, limit)!;
      expect(farthestOutside([hull], points)).toBeLessThan(
        limit === 12 ? 0.1 : 1e-4,
      );
    }
  });
});
