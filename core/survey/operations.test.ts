import { describe, expect, it } from "vitest";
import {
  cube,
  joined,
  moved,
  sphere,
  strewn,
  tubeMesh,
} from "../../tests/shapes";
import { createAsset, createPart } from "../asset/asset";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { joinMeshes } from "../mesh/change-faces";
import { seededRandom } from "../base/random";
import { findOperation } from "../operations";
import { runOperation } from "../route";
import type { Floaters } from "../asset/floaters";
import type { Gap } from "./methods/gaps";
import { context, run, assetOf, scaled } from "../../tests/surveyed";

describe("a survey of chosen parts", () => {
  it("says so where none of them has a source of its own", async () => {
    const asset = createAsset("thing", [
      createPart("post", 0, { source: cube() }),
      createPart("game only", 1, { game: cube() }),
    ]);
    await expect(run("count", asset, { parts: ["game only"] })).rejects.toThrow(
      "none of the chosen parts has a source mesh",
    );
    const { report } = await run("count", asset, {
      parts: ["game only", "post"],
    });
    expect(report).toMatchObject({ parts: 1, shortestEdge: 2, longestEdge: 2 });
  });
});

describe("unseen faces", () => {
  const box = assetOf({ box: joined(cube(), scaled(cube(), 0.5)) });

  it("of a closed box in a box are exactly the inner ones", async () => {
    const { report } = await run("unseen", box);
    expect(report).toMatchObject({
      triangles: 12,
      parts: [{ part: "box", faces: "6-11" }],
    });
  });

  it("take the underside in on a floor, and the back against a wall", async () => {
    const floor = await run("unseen", box, { from: "on a floor" });
    expect(floor.report.triangles).toBe(14);
    const wall = await run("unseen", box, { from: "against a wall" });
    expect(wall.report.triangles).toBe(16);
  });

  it("from a path are those turned away from it", async () => {
    const { asset } = await run("unseen", assetOf({ box: cube() }), {
      from: "from a path",
      path: "5,0,0; 5,0.4,0",
    });
    const seen = [...asset.parts[0].source!.visibility!];
    expect(seen.filter((share) => share > 0).length).toBe(1);
    await expect(
      run("unseen", box, { from: "from a path", path: "5,here" }),
    ).rejects.toThrow(/x,y,z/);
  });

  it("show through what is transparent", async () => {
    const nested = assetOf({ pane: cube(), core: scaled(cube(), 0.5) });
    const hidden = await run("unseen", nested);
    expect(hidden.report.triangles).toBe(12);
    const clear = await run("unseen", nested, { transparent: "pane" });
    expect(clear.report.triangles).toBe(0);
    const byLook = await run("unseen", {
      ...assetOf({
        pane: { ...cube(), materials: ["glass"] },
        core: scaled(cube(), 0.5),
      }),
      looks: [
        {
          material: "glass",
          colour: "#ffffff",
          roughness: 0,
          metalness: 0,
          opacity: 0.2,
        },
      ],
    });
    expect(byLook.report.triangles).toBe(0);
  });

  it("show through an open side", async () => {
    const open = cube();
    const keep = {
      ...open,
      faceStarts: open.faceStarts.slice(0, 6),
      corners: open.corners.slice(0, 20),
    };
    const { report } = await run(
      "unseen",
      assetOf({ pot: keep, core: scaled(cube(), 0.5) }),
    );
    expect(report.triangles).toBeLessThan(12);
  });

  it("go on request, or stay for the source only", async () => {
    const looked = (await run("unseen", box)).asset;
    const gone = await run("leave-unseen", looked);
    expect(faceCount(gone.asset.parts[0].source!)).toBe(6);
    const kept = await run("leave-unseen", looked, { how: "source-only" });
    expect([...kept.asset.parts[0].source!.sourceOnly!]).toEqual([
      0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 1, 1,
    ]);
    await expect(run("leave-unseen", box)).rejects.toThrow(/nobody has looked/);
  });
});

describe("source-only faces", () => {
  it("bake and never reach the game mesh", async () => {
    const two = assetOf({
      two: joined(sphere(12, 16), moved(cube(), 4, 0, 0)),
    });
    const faces = faceCount(two.parts[0].source!);
    const { asset } = await run("source-only", two, {
      faces: [`two:${faces - 6}-${faces - 1}`],
    });
    const reduced = await runOperation(
      findOperation("reduce/to-budget"),
      asset,
      { triangles: 100 },
      context,
    );
    const game = reduced.asset.parts[0].game!;
    for (let v = 0; v < game.positions.length; v += 3)
      expect(game.positions[v]).toBeLessThan(2);
    const back = await run("source-only", asset, {
      faces: [`two:${faces - 6}-${faces - 1}`],
      on: false,
    });
    expect(back.asset.parts[0].source!.sourceOnly).toBeNull();
  });

  it("are what chosen game faces stand for", async () => {
    const two = assetOf({
      two: joined(sphere(12, 16), moved(cube(), 4, 0, 0)),
    });
    const [part] = two.parts;
    const balls = faceCount(sphere(12, 16));
    // The game mesh has the cube's faces first: its numbers are not the source's.
    const game = joined(moved(cube(), 4, 0, 0), sphere(12, 16));
    const { asset } = await run(
      "source-only",
      { ...two, parts: [{ ...part, game }] },
      { faces: ["two:0-5"], mesh: "game" },
    );
    const marks = [...asset.parts[0].source!.sourceOnly!];
    expect(marks).toEqual(marks.map((_, f) => (f < balls ? 0 : 1)));
  });

  it("refuse what is no selection", async () => {
    const box = assetOf({ box: cube() });
    await expect(run("source-only", box, { faces: [] })).rejects.toThrow(
      /no faces/,
    );
    await expect(run("source-only", box, { faces: ["box:9"] })).rejects.toThrow(
      /no range/,
    );
    await expect(run("source-only", box, { faces: ["what"] })).rejects.toThrow(
      /part:ranges/,
    );
    await expect(run("source-only", box, { faces: ["pot:1"] })).rejects.toThrow(
      /no part/,
    );
  });
});

describe("floating detail and gaps", () => {
  const stud = (y: number) => moved(scaled(sphere(6, 8), 0.08), 0.2, y, 0.1);

  it("is listed by its host", async () => {
    const { report } = await run(
      "count",
      assetOf({ plate: cube(), studs: stud(1.02) }),
    );
    const [found] = report.floaters as Floaters[];
    expect(found).toMatchObject({ host: "plate", part: "studs", pieces: 1 });
  });

  it("hovering is a gap that pushing in closes", async () => {
    const asset = assetOf({
      plate: cube(),
      block: moved(scaled(cube(), 0.4), 0, 1.405, 0),
    });
    const { report } = await run("count", asset, { gap: 20 });
    const [gap] = report.gaps as Gap[];
    expect(gap).toMatchObject({ kind: "hovering", part: "block", of: "plate" });
    expect(gap.width).toBeCloseTo(0.005, 5);
    const { asset: closed } = await run("close-gaps", asset, {
      gap: 20,
      amount: 1,
    });
    const low = Math.min(
      ...closed.parts[1].source!.positions.filter((_, i) => i % 3 === 1),
    );
    expect(low).toBeCloseTo(0.999, 5);
    expect((await run("count", closed, { gap: 20 })).report.gaps).toEqual([]);
  });

  it("an open border beside another piece is a slit", async () => {
    const plate = moved(scaled(cube(), 3), 0, -3.004, 0);
    const pipe = tubeMesh(16, 4, 0.3, 1);
    const { report } = await run("count", assetOf({ plate, pipe }), {
      gap: 10,
    });
    const gaps = report.gaps as Gap[];
    expect(gaps.some(({ of }) => of === "plate")).toBe(true);
  });

  it("an end that comes out behind is found", async () => {
    const wall = moved(scaled(cube(), 2), 0, 0, 0);
    const pin = moved(joinMeshes([scaled(sphere(8, 8), 0.1)]), 0, 0, 0);
    const long: Mesh = {
      ...pin,
      positions: pin.positions.map((x, i) => (i % 3 === 1 ? 22.05 * x : x)),
    };
    const { report } = await run("count", assetOf({ wall, pin: long }), {
      gap: 300,
    });
    expect((report.gaps as Gap[]).map(({ kind }) => kind)).toContain(
      "sticks out",
    );
  });

  it("what touches or stands well apart is none", async () => {
    const apart = assetOf({ a: cube(), b: moved(cube(), 9, 0, 0) });
    expect((await run("count", apart)).report.gaps).toEqual([]);
    const crossing = assetOf({
      a: cube(),
      b: moved(scaled(cube(), 0.7), 0.9, 0, 0),
    });
    expect((await run("count", crossing)).report.gaps).toEqual([]);
  });
});

describe("Survey of anything", () => {
  it("comes through with triangles strewn at random, and mends them deterministically", async () => {
    for (let seed = 1; seed < 6; seed++) {
      const asset = assetOf({ heap: strewn(60, seed) });
      const { report } = await run("count", asset);
      expect(report.triangles).toBe(60);
      const [a, b] = [await run("repair", asset), await run("repair", asset)];
      expect(a.asset.parts[0].source).toEqual(b.asset.parts[0].source);
    }
  });

  it("finds thousands of vertices a hair apart in one sweep", async () => {
    const random = seededRandom(5);
    const soup = strewn(2000, 9, 0.1);
    const positions = soup.positions.map(
      (x, i) => x + 1e-7 * random() * (i % 2),
    );
    const { report } = await run(
      "count",
      assetOf({ soup: { ...soup, positions } }),
      {
        crossings: false,
      },
    );
    expect(report.components).toBe(2000);
  });
});
