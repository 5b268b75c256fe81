import { describe, expect, it } from "vitest";
import {
  cube,
  joined,
  moved,
  sphere,
  strewn,
  tubeMesh,
} from "../../tests/shapes";
import type { Asset, Part } from "../asset/asset";
import { createAsset, createPart } from "../asset/asset";
import { totalTriangles } from "../asset/parts";
import type { Mesh } from "../mesh/mesh";
import { faceCount, triangleCount, vertexCount } from "../mesh/mesh";
import { joinMeshes } from "../mesh/change-faces";
import { seededRandom } from "../base/random";
import {
  multiply,
  rotation,
  transformMesh,
  translation,
} from "../mesh/transform";
import { plainContext } from "../base/context";
import { KERNELS, findOperation } from "../operations";
import { runOperation } from "../route";
import type { Floaters } from "../asset/floaters";
import type { Gap } from "./methods/gaps";
import { distinctColour } from "../formats/colours";
import type { FoundFamily } from "./methods/repeat-families";
import { renamed } from "./operations/change-parts";
import { buildEdges } from "../mesh/edges";

const context = plainContext(KERNELS);
const run = (id: string, asset: Asset, options: object = {}) =>
  runOperation(findOperation(`survey/${id}`), asset, options, context);
const assetOf = (
  parts: Record<string, Mesh>,
  which: "source" | "game" = "source",
) =>
  createAsset(
    "thing",
    Object.entries(parts).map(([name, mesh], i): Part =>
      createPart(name, i, { [which]: mesh }),
    ),
  );
const scaled = (mesh: Mesh, k: number): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((x) => k * x),
});
const names = (asset: Asset) => asset.parts.map((part) => part.name);

/** A lump that is no mirror image of itself. */
const lump = () =>
  sphere(
    10,
    14,
    1,
    (a, t) => 0.3 * Math.sin(a + 2 * t) + 0.2 * Math.cos(3 * a) * t,
  );

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

describe("repeats", () => {
  const base = lump();
  const turn = multiply(translation(5, 1, 0), rotation([0.6, 0, 0.8], 1.1));
  const mirror = [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -8, 0, 0, 1];
  const bigger = [1.5, 0, 0, 0, 0, 1.5, 0, 0, 0, 0, 1.5, 0, 0, 9, 0, 1];
  const asset = assetOf({
    lump: base,
    turned: transformMesh(base, turn),
    mirrored: transformMesh(base, mirror),
    bigger: transformMesh(base, bigger),
    other: moved(sphere(9, 13), 0, 0, 9),
  });

  it("are found moved, turned, mirrored and scaled", async () => {
    const { report } = await run("count", asset, { tolerance: 0.1 });
    const [family] = report.repeats as FoundFamily[];
    expect(family).toMatchObject({ part: "lump", mirrored: 1, scaled: 1 });
    expect(family.copies.map(({ part }) => part)).toEqual([
      "turned",
      "mirrored",
      "bigger",
    ]);
  });

  it("are found when their vertices come in another order", async () => {
    const count = vertexCount(base);
    const order = Uint32Array.from(
      { length: count },
      (_, v) => (v * 37) % count,
    );
    expect(new Set(order).size).toBe(count);
    const placed = transformMesh(base, turn);
    const positions = new Float32Array(placed.positions.length);
    order.forEach((to, v) =>
      positions.set(placed.positions.slice(3 * v, 3 * v + 3), 3 * to),
    );
    const shuffled = {
      ...placed,
      positions,
      corners: placed.corners.map((v) => order[v]),
    };
    const { report } = await run("count", assetOf({ lump: base, shuffled }), {
      tolerance: 0.1,
    });
    expect((report.repeats as FoundFamily[]).length).toBe(1);
  });

  it("linked follow the one that is worked, with their winding right", async () => {
    const { asset: linked } = await run("link-repeats", asset);
    expect(linked.parts.filter((part) => part.repeat).length).toBe(3);
    const { asset: after } = await run("subdivide", linked, {
      parts: ["lump"],
      levels: 1,
    });
    const [first, ...copies] = after.parts
      .filter(({ name }) => name !== "other")
      .map(({ source }) => triangleCount(source!));
    expect(first).toBeGreaterThan(triangleCount(base));
    expect(copies).toEqual([first, first, first]);
    const { report } = await run("count", after);
    expect(report.flippedFaces).toBe(0);
  });

  it("count as often as they are placed, and the budget holds", async () => {
    const { asset: linked } = await run("link-repeats", asset);
    const { asset: reduced, report } = await runOperation(
      findOperation("reduce/to-budget"),
      linked,
      { triangles: 400 },
      context,
    );
    expect(totalTriangles(reduced, "game")).toBeLessThanOrEqual(400);
    expect(totalTriangles(reduced, "game")).toBe(report.triangles);
    const [one, ...rest] = reduced.parts
      .filter(({ name }) => name !== "other")
      .map(({ game }) => triangleCount(game!));
    for (const each of rest) expect(each).toBe(one);
  });

  it("share their texels: they are not unwrapped again", async () => {
    const { asset: linked } = await run("link-repeats", asset);
    const step = (from: Asset, id: string, options = {}) =>
      runOperation(findOperation(id), from, options, context);
    const reduced = (await step(linked, "reduce/to-budget", { triangles: 400 }))
      .asset;
    const { asset: unwrapped, report } = await step(
      reduced,
      "unwrap/unwrap",
      {},
    );
    expect(report.overlap).toBe(0);
    const [a, b] = ["lump", "turned"].map(
      (name) => unwrapped.parts.find((part) => part.name === name)!.game!,
    );
    expect(b.uvs).toEqual(a.uvs);
  });

  it("stand for themselves once unlinked", async () => {
    const { asset: linked } = await run("link-repeats", asset);
    const { asset: free } = await run("unlink-repeats", linked, {
      parts: ["turned"],
    });
    expect(free.parts.find(({ name }) => name === "turned")!.repeat).toBeNull();
    expect(free.parts.filter((part) => part.repeat).length).toBe(2);
  });

  it("within one part become parts of their own", async () => {
    const studs = joined(base, moved(base, 6, 0, 0), moved(base, 12, 0, 0));
    const { asset: linked } = await run("link-repeats", assetOf({ studs }));
    expect(linked.parts.length).toBe(3);
    expect(linked.parts.filter((part) => part.repeat).length).toBe(2);
    expect(totalTriangles(linked, "source")).toBe(3 * triangleCount(base));
  });

  it("are strewn over a surface, standing on it", async () => {
    const ground = scaled(cube(), 4);
    const { asset: strewnOver } = await run(
      "place-copies",
      assetOf({ stud: scaled(cube(), 0.1), ground }),
      { parts: ["stud", "ground"], count: 20, scale: 0, seed: 4 },
    );
    const copies = strewnOver.parts.filter((part) => part.repeat);
    expect(copies.length).toBe(20);
    for (const { source } of copies) {
      const far = [...source!.positions].map(Math.abs);
      expect(Math.max(...far)).toBeLessThan(4.3);
      expect(Math.max(...far)).toBeGreaterThan(3.99);
    }
    const again = await run(
      "place-copies",
      assetOf({ stud: scaled(cube(), 0.1), ground }),
      {
        parts: ["stud", "ground"],
        count: 20,
        scale: 0,
        seed: 4,
      },
    );
    expect(again.asset.parts[5].source!.positions).toEqual(
      strewnOver.parts[5].source!.positions,
    );
  });
});

describe("changing parts", () => {
  const two = assetOf({ box: cube(), ball: moved(sphere(8, 10), 4, 0, 0) });

  it("splits off a selection, components and materials, and joins again", async () => {
    const off = await run("split-off", two, { faces: ["box:0-2"] });
    expect(names(off.asset)).toEqual(["box", "ball", "box.2"]);
    expect(faceCount(off.asset.parts[2].source!)).toBe(3);
    const both = await run("join-parts", two, {
      parts: ["box", "ball"],
      name: "pair",
    });
    expect(names(both.asset)).toEqual(["pair"]);
    const apart = await run("split-off", both.asset, { by: "components" });
    expect(names(apart.asset)).toEqual(["pair 1", "pair 2"]);
    const painted = assetOf({
      box: {
        ...cube(),
        materials: ["wood", "iron"],
        faceMaterials: Uint16Array.from([0, 0, 0, 1, 1, 1]),
      },
    });
    const byMaterial = await run("split-off", painted, { by: "materials" });
    expect(names(byMaterial.asset)).toEqual(["box wood", "box iron"]);
  });

  it("deletes faces, and parts that have none left", async () => {
    const { asset } = await run("delete-faces", two, {
      faces: ["box:0-5", "ball:0-9"],
    });
    expect(names(asset)).toEqual(["ball"]);
    const gone = await run("delete-parts", two, { parts: ["box"] });
    expect(names(gone.asset)).toEqual(["ball"]);
    await expect(run("delete-parts", two)).rejects.toThrow(/no part is chosen/);
  });

  it("duplicates, alone or following", async () => {
    const { asset } = await run("duplicate-parts", two, {
      parts: ["box"],
      offset: 3,
      linked: true,
    });
    expect(asset.parts[2].repeat?.of).toBe("box");
    expect(Math.max(...asset.parts[2].source!.positions)).toBe(4);
  });

  it("mirrors and welds to a closed body", async () => {
    const { asset, report } = await run(
      "mirror",
      assetOf({ ball: moved(sphere(12, 16), 0.3, 0, 0) }),
    );
    const mesh = asset.parts[0].source!;
    expect(report.joined).toBeGreaterThan(10);
    const edges = buildEdges(mesh);
    expect(edges.uses.every((uses) => uses === 2)).toBe(true);
    const xs = mesh.positions.filter((_, i) => i % 3 === 0);
    expect(Math.max(...xs)).toBeCloseTo(-Math.min(...xs), 6);
  });

  it("renames by a pattern, without a clash", () => {
    expect(
      renamed(["a_x", "b_x", "c"], new Set(["a_x", "b_x"]), "_x", "-#"),
    ).toEqual(["a-1", "b-2", "c"]);
    expect(renamed(["a", "b"], new Set(["a", "b"]), "", "leg ##")).toEqual([
      "leg 01",
      "leg 02",
    ]);
    expect(renamed(["a", "b"], new Set(["a"]), "", "b")).toEqual(["b.2", "b"]);
  });

  it("keeps locked parts as they are", async () => {
    const locked = {
      ...two,
      parts: two.parts.map((part) => ({ ...part, locked: true })),
    };
    await expect(
      run("delete-parts", locked, { parts: ["box"] }),
    ).rejects.toThrow(/locked/);
    const { asset } = await run("set-shading", locked);
    expect(asset.parts[0].source).toBe(two.parts[0].source);
  });
});

describe("IDs", () => {
  it("come from materials, parts, components and the selection", async () => {
    const two = assetOf({
      box: joined(cube(), moved(cube(), 5, 0, 0)),
      ball: sphere(6, 8),
    });
    const parts = (await run("paint-ids", two, { by: "parts" })).asset;
    expect(parts.palette.map(({ name }) => name)).toEqual(["box", "ball"]);
    const pieces = (await run("paint-ids", two, { by: "components" })).asset;
    expect(pieces.palette.length).toBe(3);
    const { asset } = await run("paint-ids", parts, {
      by: "selection",
      faces: ["box:0-2"],
      name: "lid",
    });
    expect(asset.palette[2].name).toBe("lid");
    expect([...asset.parts[0].source!.ids!.slice(0, 4)]).toEqual([3, 3, 3, 1]);
    const renamedOne = await run("palette", asset, {
      entry: "lid",
      name: "top",
      colour: "#123456",
    });
    expect(renamedOne.asset.palette[2]).toEqual({
      name: "top",
      colour: "#123456",
    });
    await expect(
      run("palette", asset, { entry: "lid", colour: asset.palette[0].colour }),
    ).rejects.toThrow(/could not tell them apart/);
  });

  it("have colours well apart", () => {
    const colours = Array.from({ length: 60 }, (_, i) => distinctColour(i));
    expect(new Set(colours).size).toBe(60);
    const rgb = (c: string) =>
      [1, 3, 5].map((k) => parseInt(c.slice(k, k + 2), 16));
    for (let i = 0; i < 12; i++)
      for (let j = 0; j < i; j++) {
        const [a, b] = [rgb(colours[i]), rgb(colours[j])];
        expect(Math.hypot(...a.map((x, k) => x - b[k]))).toBeGreaterThan(40);
      }
  });
});

describe("the source", () => {
  it("is lightened to a share and to a deviation, and put back", async () => {
    const dense = assetOf({ ball: sphere(80, 100) });
    const share = await run("lighten", dense, { by: "share", share: 25 });
    expect(triangleCount(share.asset.parts[0].source!)).toBeLessThanOrEqual(
      0.25 * triangleCount(dense.parts[0].source!),
    );
    const { asset, report } = await run("lighten", dense, { deviation: 3 });
    expect(report.deviation).toBeLessThanOrEqual(0.003);
    expect(Number(report.triangles)).toBeLessThan(
      triangleCount(dense.parts[0].source!),
    );
    const back = await run("restore-dense", asset);
    expect(back.asset.parts[0].source).toBe(dense.parts[0].source);
    await expect(run("restore-dense", dense)).rejects.toThrow(/lightened/);
  });

  it("is subdivided for good, with the creases it was given", async () => {
    const box = assetOf({ box: cube() });
    const { asset } = await run("subdivide", box, { levels: 2 });
    expect(faceCount(asset.parts[0].source!)).toBe(96);
    const creased = await run("crease", box, {
      edges: ["box:0-4"],
      sharpness: 10,
    });
    expect(creased.report.edges).toBe(1);
    const sharp = await run("subdivide", creased.asset, { levels: 2 });
    expect(sharp.asset.parts[0].source!.positions).not.toEqual(
      asset.parts[0].source!.positions,
    );
    await expect(run("crease", box, { edges: ["box:0-7"] })).rejects.toThrow(
      /none of these/,
    );
    await expect(
      run("subdivide", assetOf({ ball: sphere(300, 300) }), { levels: 5 }),
    ).rejects.toThrow(/more than/);
  });

  it("is shaded anew", async () => {
    const { asset, report } = await run(
      "set-shading",
      assetOf({ box: cube() }),
      { angle: 40 },
    );
    expect(report.hardEdges).toBe(12);
    expect(asset.parts[0].source!.normals!.slice(0, 3).map(Math.abs)).toContain(
      1,
    );
    const flat = await run("set-shading", assetOf({ ball: sphere(20, 30) }), {
      shading: "flat",
    });
    const { report: looked } = await run("count", flat.asset);
    const [{ shading }] = looked.perPart as { shading: { faceted: number } }[];
    expect(shading.faceted).toBe(1);
  });

  it("is cut into pieces that overlap by what was said", async () => {
    const long = assetOf({ tube: tubeMesh(24, 40, 1, 8) });
    const { asset } = await run("cut-pieces", long, {
      by: "y",
      pieces: 2,
      overlap: 100,
    });
    expect(asset.parts.length).toBe(2);
    const [low, high] = asset.parts.map((part) =>
      part.source!.positions.filter((_, i) => i % 3 === 1),
    );
    expect(Math.max(...low)).toBeCloseTo(4.1, 5);
    expect(Math.min(...high)).toBeCloseTo(3.9, 5);
    await expect(run("cut-pieces", long, { at: "50" })).rejects.toThrow(
      /no chosen part/,
    );
  });

  it("is cut along a closed loop of edges", async () => {
    const tube = tubeMesh(8, 4, 1, 4);
    const loop = Array.from({ length: 8 }, (_, i) => {
      const [a, b] = [16 + i, 16 + ((i + 1) % 8)].sort((x, y) => x - y);
      return `tube:${a}-${b}`;
    });
    const { asset } = await run("cut-pieces", assetOf({ tube }), {
      by: "edges",
      edges: loop,
      overlap: 0,
    });
    expect(asset.parts.map((part) => faceCount(part.source!))).toEqual([
      16, 16,
    ]);
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
