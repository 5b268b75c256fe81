import { describe, expect, it } from "vitest";
import { cube, joined, moved, sphere, tubeMesh } from "../../tests/shapes";
import { faceCount, triangleCount } from "../mesh/mesh";
import { distinctColour } from "../formats/colours";
import { renamed } from "./operations/change-parts";
import { buildEdges } from "../mesh/edges";
import { run, assetOf, names } from "../../tests/surveyed";

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
