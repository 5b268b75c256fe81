import { describe, expect, it } from "vitest";
import { WebIO } from "@gltf-transform/core";
import { one, run } from "../../../tests/one-part";
import { shippedFiles } from "../../../tests/shipped";
import { cube, moved, sphere } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { readMeshFiles } from "../../formats/index";
import { triangleCount } from "../../mesh/mesh";
import { boundsOf } from "../../space/bounds";
import { readBack } from "./read-back";

/** A ball with two levels and a box beside it, both laid out, the ball with a hull. */
async function pair(): Promise<Asset> {
  const ball = createPart("ball", 0, {
    game: moved(sphere(12, 16), 3, 1, 0),
    levels: [moved(sphere(8, 10), 3, 1, 0), moved(sphere(5, 6), 3, 1, 0)],
  });
  const box = createPart("box top", 1, { game: moved(cube(), 0, 2, 0) });
  const asset = createAsset("Pair", [ball, box]);
  return (await run("collide/hulls", asset, { parts: ["ball"], kind: "hull" }))
    .asset;
}

const fileNamed = (
  files: readonly { name: string; bytes: Uint8Array }[],
  name: string,
) => files.find((file) => file.name === name)!.bytes;

describe("levels of detail", () => {
  it("go out as levels of their part, and come in again as such", async () => {
    const asset = await pair();
    const { files, report } = await shippedFiles(asset);
    const bytes = fileNamed(files, "Pair.glb");
    const { parts } = await readMeshFiles([{ name: "Pair.glb", bytes }]);
    expect(
      parts.flatMap((part) =>
        part.level
          ? [[part.written, part.level, triangleCount(part.mesh)]]
          : [],
      ),
    ).toEqual([
      ["ball", 1, triangleCount(asset.parts[0].levels[0])],
      ["ball", 2, triangleCount(asset.parts[0].levels[1])],
    ]);
    expect(report.checks.find(({ name }) => name === "Read back")!.ok).toBe(
      true,
    );
    // Only the first level is in the scene; a general library finds the others beside it.
    const { json } = await new WebIO().binaryToJSON(bytes);
    const nodes = json.nodes!;
    const first = nodes.find(({ name }) => name === "ball")!;
    const { ids } = first.extensions!.MSFT_lod as { ids: number[] };
    expect(ids.map((id) => nodes[id].name)).toEqual(["ball_lod1", "ball_lod2"]);
    for (const id of ids) expect(json.scenes![0].nodes).not.toContain(id);
    const coverage = (first.extras as { MSFT_screencoverage: number[] })
      .MSFT_screencoverage;
    expect(coverage).toHaveLength(3);
    expect(coverage).toEqual(coverage.toSorted((a, b) => b - a));
    expect(coverage.at(-1)).toBe(0);
    expect(json.extensionsUsed).toContain("MSFT_lod");
  });

  it("go out by name, and in an OBJ each", async () => {
    const asset = await pair();
    const { files } = await shippedFiles(asset, { levels: "name" });
    for (const name of ["Pair.glb", "Pair_lod1.obj", "Pair_lod2.obj"])
      expect(files.map((file) => file.name)).toContain(name);
    const glb = await new WebIO().readBinary(fileNamed(files, "Pair.glb"));
    const scene = glb.getRoot().getDefaultScene()!;
    expect(scene.listChildren().map((node) => node.getName())).toEqual([
      "ball",
      "ball_lod1",
      "ball_lod2",
      "box top",
      "ball_hull_1",
    ]);
    const none = await shippedFiles(asset, { levels: "none" });
    expect(none.files.map(({ name }) => name)).not.toContain("Pair_lod1.obj");
  });

  it("of a damaged file are refused with their place", async () => {
    const { files } = await shippedFiles(await pair(), { gltf: true });
    const text = new TextDecoder()
      .decode(fileNamed(files, "Pair.gltf"))
      .replace(/"ids":\[\d+/, '"ids":[9999');
    const bytes = new TextEncoder().encode(text);
    await expect(readMeshFiles([{ name: "a.gltf", bytes }])).rejects.toThrow(
      /nodes\[\d+\]\.extensions\.MSFT_lod\.ids/,
    );
  });
});

describe("the pivot", () => {
  it.each(["origin", "bottom", "centre", "point"] as const)(
    "%s lies at nought, of levels and hulls too",
    async (pivot) => {
      const asset = await pair();
      const games = asset.parts.map(({ game }) => game!.positions);
      const { min, max } = boundsOf(...games);
      const middle = min.map((low, k) => (low + max[k]) / 2);
      const wanted = {
        origin: [0, 0, 0],
        bottom: [middle[0], min[1], middle[2]],
        centre: middle,
        point: [1, 2, 0],
      }[pivot];
      const { files } = await shippedFiles(asset, {
        ...{ pivot, pointX: 1000, pointY: 2000 },
      });
      const bytes = fileNamed(files, "Pair.glb");
      const { parts } = await readMeshFiles([{ name: "Pair.glb", bytes }]);
      const [{ levels, hulls }] = asset.parts;
      const given = [
        ...games,
        hulls[0].positions,
        ...levels.map(({ positions }) => positions),
      ];
      expect(parts).toHaveLength(given.length);
      parts.forEach(({ mesh }, i) => {
        const was = boundsOf(given[i]).min;
        const is = boundsOf(mesh.positions).min;
        for (const k of [0, 1, 2])
          expect(was[k] - is[k]).toBeCloseTo(wanted[k], 4);
      });
    },
  );
});

describe("parts", () => {
  it("are chosen, or get a file each with a pivot of their own", async () => {
    const asset = await pair();
    const chosen = await shippedFiles(asset, { parts: ["box top"] });
    expect(chosen.report.hulls).toBe(0);
    const only = fileNamed(chosen.files, "Pair.glb");
    const { parts } = await readMeshFiles([{ name: "a.glb", bytes: only }]);
    expect(parts.map(({ name }) => name)).toEqual(["box top"]);
    // Figures are those of what is delivered, held against the brief.
    expect(chosen.report.triangles).toBe(12);
    expect(chosen.report.levels).toEqual([]);
    expect(chosen.report.checks[0]).toMatchObject({ figure: "12", ok: true });
    const bare = await shippedFiles(asset, { levels: "none", hullsAs: "none" });
    expect(bare.report.levels).toEqual([]);
    expect(
      bare.report.checks.find(({ name }) => name === "Hulls"),
    ).toMatchObject({
      figure: "0",
    });
    const split = await shippedFiles(asset, {
      ...{ split: true, pivot: "bottom", obj: false },
    });
    expect(split.files.map(({ name }) => name)).toEqual([
      "Pair_box top.glb",
      "Pair_ball.glb",
      "report.json",
    ]);
    for (const { name, bytes } of split.files.slice(0, 2)) {
      const { parts } = await readMeshFiles([{ name, bytes }]);
      const { min, max } = boundsOf(parts[0].mesh.positions);
      expect(min[1]).toBeCloseTo(0, 5);
      expect(min[0] + max[0]).toBeCloseTo(0, 4);
    }
  });
});

it("is drawn as it stands, whatever the pivots of its files", async () => {
  const asset = await pair();
  const pictures = async (options: object) => {
    const made = await shippedFiles(asset, {
      page: true,
      obj: false,
      ...options,
    });
    const page = new TextDecoder().decode(fileNamed(made.files, "report.html"));
    return page.match(/<img[^>]*>/g);
  };
  expect(await pictures({ split: true, pivot: "bottom" })).toEqual(
    await pictures({}),
  );
});

describe("the check list", () => {
  it("stops what is over its budget, unless that is insisted on, and the report says so", async () => {
    const asset = await pair();
    const tight = { ...asset, brief: { ...asset.brief, triangles: 20 } };
    const held = await shippedFiles(tight);
    expect(held.files.map(({ name }) => name)).toEqual(["report.json"]);
    expect(held.report.failed).toMatch(/Triangles: \d+, ≤ 20/);
    const insisted = await shippedFiles(tight, { insist: true, page: true });
    expect(insisted.report.failed).toBeUndefined();
    expect(insisted.report.waived).toHaveLength(1);
    expect(insisted.files.map(({ name }) => name)).toContain("Pair.glb");
    const page = new TextDecoder().decode(
      fileNamed(insisted.files, "report.html"),
    );
    expect(page).toContain("1 check failed, and it was shipped all the same");
  });

  it("tells coordinates that are no numbers, and what is stale", async () => {
    const asset = await pair();
    const [ball, box] = asset.parts;
    const game = { ...box.game!, positions: box.game!.positions.slice() };
    game.positions[4] = NaN;
    await expect(
      shippedFiles({ ...asset, parts: [ball, { ...box, game }] }),
    ).rejects.toThrow();
    const changed = {
      ...asset,
      parts: [{ ...ball, game: moved(ball.game!, 1, 0, 0) }, box],
    };
    const stale = (made: Awaited<ReturnType<typeof shippedFiles>>) =>
      made.report.checks.find(({ name }) => name === "Stale")!;
    expect(stale(await shippedFiles(asset)).ok).toBe(true);
    expect(stale(await shippedFiles(changed))).toMatchObject({
      ok: false,
      stops: false,
      figure: "collide",
    });
  });
});

it("is insisted on once: what is redone later is held to its limits again", async () => {
  const asset = await pair();
  const tight = { ...asset, brief: { ...asset.brief, triangles: 20 } };
  const made = await run("ship/archive", tight, { insist: true, page: false });
  expect(made.report.waived).toHaveLength(1);
  const again = await run(
    "ship/archive",
    made.asset,
    made.asset.results.ship!.options,
  );
  expect(again.report.failed).toMatch(/Triangles: \d+, ≤ 20/);
});

describe("names and tangents", () => {
  const checkOf = async (asset: Asset, name: string, options = {}) =>
    (await shippedFiles(asset, options)).report.checks.find(
      (check) => check.name === name,
    )!;

  it("are held against what engines keep", async () => {
    const asset = await pair();
    const names = "Names that engines change";
    expect(await checkOf(asset, names)).toMatchObject({ ok: true });
    const [ball, box] = asset.parts;
    const odd = { ...asset, parts: [ball, { ...box, name: "Käfig/2" }] };
    expect(await checkOf(odd, names)).toMatchObject({
      ...{ ok: false, stops: false, figure: "Käfig/2" },
    });
    const tangents = "Tangents that are none";
    expect(await checkOf(asset, tangents)).toMatchObject({ ok: true });
    expect(await checkOf(asset, tangents, { tangents: false })).toMatchObject({
      ...{ ok: true, figure: "not written" },
    });
  });
});

describe("reading back", () => {
  it("tells what is not as it was written", async () => {
    const asset = one(sphere(8, 10), "game");
    const { files } = await shippedFiles(asset, { obj: false });
    const mesh = asset.parts[0].game!;
    const bytes = files.find(({ name }) => name.endsWith(".glb"))!.bytes;
    const told = async (change: object, more: object = {}) =>
      (
        await readBack("a.glb", bytes, {
          parts: [{ name: "thing", mesh: { ...mesh, ...change } }],
          ...{ uvs: true, materials: true, parted: true, ...more },
        })
      ).differs.join("; ");
    expect(await told({})).toBe("");
    expect(await told({ positions: mesh.positions.map((x) => 2 * x) })).toMatch(
      /triangles lie elsewhere/,
    );
    expect(await told({ materials: ["other"] })).toMatch(
      /materials .* for other/,
    );
    expect(await told({}, { hulls: ["lost"] })).toBe(
      "0 of 1 hulls: lost is missing",
    );
    expect(
      await told({ uvs: new Float32Array(2 * mesh.corners.length).fill(0.5) }),
    ).toMatch(/UVs differ by/);
  });
});
