import { describe, expect, it } from "vitest";
import { cube, joined, moved, sheetMesh, sphere } from "../../tests/shapes";
import { transformMesh } from "../mesh/transform";
import type { Mesh } from "../mesh/mesh";
import { withoutSmallPieces } from "./small-pieces";
import { keepSettled } from "../settle/settled-of";
import { gatherSoup } from "./soup";

const ball = sphere(20, 30);
const scaled = (mesh: Mesh, by: number) =>
  transformMesh(mesh, [by, 0, 0, 0, 0, by, 0, 0, 0, 0, by, 0, 0, 0, 0, 1]);
const speck = scaled(cube(), 0.01);
const without = (...meshes: Mesh[]) =>
  withoutSmallPieces(gatherSoup(meshes), RULES);

/** Edges as short as a speck's. */
const RULES = { sizes: [0.1, 0.1], edges: [0.02, 0.02], together: 0.25 };

describe("pieces far smaller than what is wanted", () => {
  it("go where they are strewn, and are told", () => {
    const scan = joined(
      ball,
      moved(speck, 1.5, 0, 0),
      moved(speck, 0, 1.4, 0.2),
    );
    const { soup, places } = without(scan, moved(ball, 5, 0, 0));
    expect(soup.owner.length).toBe((2 * ball.corners.length) / 3);
    expect(places).toHaveLength(2);
    expect(places.every(({ mesh }) => mesh === 0)).toBe(true);
    const [x, y] = places[0].at[0] > 1 ? places : [places[1], places[0]];
    expect(x.at[0]).toBeCloseTo(1.5, 1);
    expect(y.at[1]).toBeCloseTo(1.4, 1);
    expect(soup.marks).toHaveLength(soup.triangles.length);
  });

  it("stay in rows and heaps that reach far", () => {
    const row = Array.from({ length: 20 }, (_, i) =>
      moved(speck, 1.2 + 0.015 * i, 0, 0),
    );
    expect(without(joined(ball, ...row)).places).toEqual([]);
    const short = row.slice(0, 5);
    expect(without(joined(ball, ...short)).places).toHaveLength(5);
  });

  it("stay in a heap of any number", () => {
    const count = 70_000;
    const { positions, corners } = cube();
    const points = new Float32Array(count * positions.length);
    const all = new Uint32Array(count * corners.length);
    for (let i = 0; i < count; i++) {
      positions.forEach((x, k) => {
        points[i * positions.length + k] =
          0.01 * x + (k % 3 === 0 ? 2 + 0.02 * i : 0);
      });
      corners.forEach((v, c) => {
        all[i * corners.length + c] = v + (i * positions.length) / 3;
      });
    }
    const heap = { ...cube(), positions: points, corners: all };
    const faceStarts = new Uint32Array(all.length / 4 + 1).map((_, f) => 4 * f);
    const mesh = joined(ball, { ...heap, faceStarts });
    keepSettled(mesh, { mesh, faces: null, done: [] });
    const soup = gatherSoup([mesh]);
    expect(withoutSmallPieces(soup, RULES).soup).toBe(soup);
  });

  it("stay where a mesh has nothing larger, or is made of them", () => {
    const soup = gatherSoup([ball, moved(speck, 2, 0, 0)]);
    expect(withoutSmallPieces(soup, RULES).soup).toBe(soup);
    const many = Array.from({ length: 300 }, (_, i) =>
      moved(scaled(cube(), 0.03), (i % 20) / 2, 2 + Math.floor(i / 20) / 2, 0),
    );
    expect(without(joined(scaled(ball, 0.3), ...many)).places).toEqual([]);
  });

  it("stay where their triangles are far finer than the rest, as those of a rivet are", () => {
    const rivet = moved(sphere(12, 16, 0.025), 1.1, 0, 0);
    const edges = [0.05, 0.05];
    const rules = { ...RULES, edges };
    const soup = gatherSoup([joined(ball, rivet)]);
    expect(withoutSmallPieces(soup, rules).places).toEqual([]);
    expect(withoutSmallPieces(soup, RULES).places).toHaveLength(1);
  });

  it("stay where they are open, as leaves and cards are, or to be left", () => {
    const leaf = moved(scaled(sheetMesh(2), 0.02), 1.5, 0, 0);
    expect(without(joined(ball, leaf)).places).toEqual([]);
    const soup = gatherSoup([joined(ball, moved(speck, 1.5, 0, 0))]);
    const all = new Uint8Array(soup.owner.length).fill(1);
    expect(withoutSmallPieces(soup, RULES, all).places).toEqual([]);
  });
});
