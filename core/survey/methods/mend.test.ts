import { describe, expect, it } from "vitest";
import { Builder, lathe } from "../../../demo/shapes";
import { DIRTY, MERGED, scanLike } from "../../../tests/scan-like";
import { joined, moved, sphere, tubeMesh } from "../../../tests/shapes";
import { createAsset, createPart } from "../../asset/asset";
import { prepareScene } from "../../bake/methods/scene";
import { patchRing } from "../../mesh/hole-patch";
import { meanEdge } from "../../mesh/edges";
import { fillHoles } from "../../mesh/fill-holes";
import { MeshAnalysis } from "../../mesh/mesh-analysis";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { keepFaces, meshFromTriangles } from "../../mesh/change-faces";
import { settleMesh } from "../../settle/settle";
import { triangulate } from "../../mesh/triangulate";
import { plainContext } from "../../base/context";
import { findOperation } from "../../operations";
import { runOperation } from "../../route";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { measureDeviation } from "../../space/deviation";
import type { LeftUnmended } from "../operations/repair";
import type { Mend } from "./mend";
import { MENDS, mendMesh } from "./mend";
import { surveyMesh } from "./survey-mesh";

const ALL: ReadonlySet<Mend> = new Set(MENDS.map(({ value }) => value));
const RULES = { tolerance: 1e-6 };

const surfaceOf = (mesh: Mesh) => ({
  positions: mesh.positions,
  triangles: triangulate(mesh).vertices,
});

const isSound = (mesh: Mesh) => {
  const { survey } = surveyMesh("part", mesh, RULES.tolerance, true);
  return {
    open: survey.borderEdges,
    edges: survey.nonManifoldEdges,
    vertices: survey.nonManifoldVertices,
    withoutArea: survey.degenerateFaces,
    doubled: survey.duplicateFaces,
    crossing: survey.selfIntersections,
    turned: survey.flippedFaces,
  };
};

const SOUND = {
  open: 0,
  edges: 0,
  vertices: 0,
  withoutArea: 0,
  doubled: 0,
  crossing: 0,
  turned: 0,
};

/** A mesh without the faces whose middle lies above a height. */
function cutAbove(mesh: Mesh, height: number): Mesh {
  const keep = new Uint8Array(faceCount(mesh)).map((_, f) => {
    let sum = 0;
    const [start, end] = [mesh.faceStarts[f], mesh.faceStarts[f + 1]];
    for (let c = start; c < end; c++)
      sum += mesh.positions[3 * mesh.corners[c] + 1] / (end - start);
    return sum < height ? 1 : 0;
  });
  return keepFaces(mesh, keep);
}

describe("mending all", () => {
  it.each([1, 2, 3, 4, 9, 19])(
    "makes a dirty scan closed and manifold, its outside where it was (%i)",
    (seed) => {
      const scan = scanLike(seed, 16_000, {
        ...DIRTY,
        duplicates: 400,
        fins: 250,
      });
      const { mesh, crossing } = mendMesh(scan, ALL, RULES);
      expect(isSound(mesh)).toEqual(SOUND);
      expect(crossing).toBe(0);
      // What is left lies where the scan was; what the scan had beside its surface may be gone.
      const far = measureDeviation(surfaceOf(mesh), surfaceOf(scan));
      const diagonal = diagonalOf(boundsOf(scan.positions));
      expect(far.rms * diagonal).toBeLessThan(0.5 * meanEdge(scan));
      expect(far.max * diagonal).toBeLessThan(6 * meanEdge(scan));
    },
  );

  it.each([1, 2, 3, 4])("never opens what was closed (%i)", (seed) => {
    const scan = scanLike(seed, 10_000, MERGED);
    const { mesh } = mendMesh(scan, ALL, RULES);
    expect(isSound(mesh)).toEqual(SOUND);
  });

  it("names what was cut off where faces crossed", async () => {
    // A ball with a spear from its top through its bottom: its head goes with the shaft that crosses.
    const profile: [number, number][] = Array.from({ length: 18 }, (_, k) => {
      const a = (Math.PI * k) / 20;
      return [Math.sin(a), -Math.cos(a)];
    });
    const builder = new Builder();
    lathe(builder, [...profile, [0.05, -1.3], [0.04, -1.5], [0, -1.6]], 24);
    const asset = createAsset("speared", [
      createPart("ball", 0, { source: builder.mesh("clay") }),
    ]);
    const { report } = await runOperation(
      findOperation("survey/repair"),
      asset,
      {},
      plainContext(),
    );
    const { cut, crossing } = report as unknown as LeftUnmended;
    expect(crossing).toEqual([]);
    expect(cut).toMatchObject([{ part: "ball", pieces: 1 }]);
    expect(cut[0].places[0].at[1]).toBeLessThan(-1.3);
    expect(report.summary).toContain("cut off where faces crossed: 1 piece of");
  });

  it("takes a face or two by themselves for scraps at small pieces too, and not a pane", () => {
    const ball = sphere(60, 80, 1);
    const crumb = moved(sphere(4, 6, 0.02), 2, 0, 0);
    const sliver = (size: number): Mesh =>
      meshFromTriangles(
        Float32Array.from([0, 0, 0, size, 0, 0, 0, size, 0], (x, i) =>
          i % 3 ? x : x + 2,
        ),
        Uint32Array.from([0, 1, 2]),
      );
    const mended = (size: number) =>
      mendMesh(joined(ball, crumb, sliver(size)), ALL, RULES).mesh;
    expect(isSound(mended(0.02))).toEqual(SOUND);
    expect(faceCount(mended(0.6))).toBe(
      faceCount(joined(ball, crumb, sliver(1))),
    );
  });

  it("names the scraps that it leaves out, and takes no others", async () => {
    const ball = sphere(60, 80, 1);
    const scrap = (x: number): Mesh =>
      moved(cutAbove(sphere(5, 6, 0.02), 0), x, 0, 0);
    const asset = createAsset("scraps", [
      createPart("ball", 0, {
        source: joined(ball, scrap(1.02), scrap(3)),
      }),
    ]);
    const { asset: mended, report } = await runOperation(
      findOperation("survey/repair"),
      asset,
      { mend: ["duplicateFaces"] },
      plainContext(),
    );
    const { scraps } = report as unknown as LeftUnmended;
    expect(scraps).toMatchObject([
      { part: "ball", pieces: 1, faces: faceCount(scrap(0)) },
    ]);
    expect(scraps[0].places[0].at[0]).toBeCloseTo(1.02, 1);
    expect(faceCount(mended.parts[0].source!)).toBe(
      faceCount(ball) + faceCount(scrap(0)),
    );
  });
});

describe("a hole", () => {
  it("in a ball is closed the way the ball bends, as fine as the ball", () => {
    const ball = sphere(48, 64, 1);
    const { mesh } = fillHoles(cutAbove(ball, 0.9), { smooth: true });
    expect(isSound(mesh)).toEqual(SOUND);
    const before = cutAbove(ball, 0.9).positions.length / 3;
    const added = mesh.positions.length / 3 - before;
    expect(added).toBeGreaterThan(100);
    for (let v = before; v < before + added; v++)
      expect(
        Math.abs(Math.hypot(...mesh.positions.subarray(3 * v, 3 * v + 3)) - 1),
      ).toBeLessThan(0.02);
  });

  it("at the end of a tube stays flat", () => {
    const open = tubeMesh(32, 8, 0.2, 1);
    const { mesh, holes } = fillHoles(open, { smooth: true });
    expect(holes).toBe(2);
    expect(mesh.positions.length).toBe(open.positions.length);
    expect(faceCount(mesh)).toBe(faceCount(open) + 2);
  });

  it("gets no edge that is there already: it is closed round a vertex in its middle", () => {
    const points = new Float64Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]);
    const around = [[], [], [], []];
    const free = patchRing({ points, around, joined: () => false }, false);
    expect(free.inner).toEqual([]);
    const taken = patchRing({ points, around, joined: () => true }, false);
    expect(taken.inner).toEqual([0.5, 0.5, 0]);
    expect(taken.triangles).toHaveLength(12);
  });

  it("of thousands of edges is closed in no time", () => {
    const open = cutAbove(sphere(40, 6000, 1), 0.5);
    const { mesh } = fillHoles(open);
    expect(new MeshAnalysis(mesh, 0).edges.uses.every((n) => n === 2)).toBe(
      true,
    );
  });

  it("wider than half the part is left open and named, unless it is asked for", async () => {
    const bowl = cutAbove(sphere(24, 32, 0.1), 0.02);
    const asset = createAsset("bowl", [
      createPart("bowl", 0, { source: bowl }),
    ]);
    const run = async (options: object) => {
      const done = await runOperation(
        findOperation("survey/repair"),
        asset,
        options,
        plainContext(),
      );
      return {
        open: (done.report as unknown as LeftUnmended).open,
        summary: String(done.report.summary),
        sound: isSound(done.asset.parts[0].source!),
      };
    };
    const asked = await run({});
    expect(asked.sound.open).toBeGreaterThan(0);
    expect(asked.open).toHaveLength(1);
    expect(asked.open[0].width).toBeCloseTo(0.2, 1);
    expect(asked.summary).toContain("left open: 1 holes");
    const closed = await run({ holes: 250 });
    expect(closed.open).toEqual([]);
    expect(closed.sound).toEqual(SOUND);
    const { findings } = surveyMesh("bowl", bowl, 1e-6, false);
    expect(findings.find(({ kind }) => kind === "borders")?.widest).toBeCloseTo(
      0.2,
      1,
    );
  });
});

describe("settling", () => {
  it("keeps polygons that nothing was done to", () => {
    const quads = sphere(12, 16, 1);
    // A hair off one vertex of one face: coincident, so that it is joined.
    const positions = new Float32Array([
      ...quads.positions,
      ...quads.positions.subarray(
        3 * quads.corners[40],
        3 * quads.corners[40] + 3,
      ),
    ]);
    const corners = quads.corners.slice();
    corners[40] = quads.positions.length / 3;
    const { mesh, done } = settleMesh({ ...quads, positions, corners });
    expect(done.map(({ rule }) => rule)).toEqual(["coincident"]);
    expect(faceCount(mesh)).toBe(faceCount(quads));
    expect([...mesh.corners].length).toBe(quads.corners.length);
  });
});

describe("a new skin", () => {
  it("is closed and manifold over what is folded and doubled, and what it covers is baked", async () => {
    const scan = scanLike(2, 12_000, DIRTY);
    const asset = createAsset("scan", [
      createPart("scan", 0, { source: scan }),
    ]);
    const { asset: skinned, report } = await runOperation(
      findOperation("survey/new-skin"),
      asset,
      {},
      plainContext(),
    );
    const [part] = skinned.parts;
    const look = new MeshAnalysis(part.source!, 0);
    expect(look.edges.uses.every((uses) => uses === 2)).toBe(true);
    expect(part.dense).toBe(scan);
    expect(part.skinned).toBe(true);
    const off = measureDeviation(surfaceOf(part.source!), surfaceOf(scan));
    expect(off.rms * diagonalOf(boundsOf(scan.positions))).toBeLessThan(
      Number(report.cell),
    );
    const options = { width: 8, height: 8, rays: 1, grid: 1, distance: 0 };
    const bodies = (given: typeof asset) =>
      prepareScene(given, options).targets.map(({ normals }) => normals);
    expect(bodies(skinned)).toEqual(bodies(asset));
    const { asset: back } = await runOperation(
      findOperation("survey/restore-dense"),
      skinned,
      {},
      plainContext(),
    );
    expect(back.parts[0].source).toBe(scan);
    expect(back.parts[0].skinned).toBe(false);
  });
});
