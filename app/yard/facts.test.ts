import { beforeAll, describe, expect, it } from "vitest";
import { glbJson } from "../../tests/glb-json";
import { laidOn, squareSheet } from "../../tests/laid";
import { run } from "../../tests/one-part";
import { cube, moved, sphere } from "../../tests/shapes";
import { shippedFiles } from "../../tests/shipped";
import type { Asset } from "../../core/asset/asset";
import { createAsset, createPart } from "../../core/asset/asset";
import type { ShipOptions } from "../../core/ship/methods/ship-options";
import type { GltfJson } from "./facts";
import { drawnParts, factsOf, hullNodes } from "./facts";

let asset: Asset;
beforeAll(async () => {
  const [ball, box, level] = laidOn(
    [
      moved(sphere(16, 20), 2, 1, 0),
      moved(cube(), 0, 1, 0),
      moved(sphere(8, 10), 2, 1, 0),
    ],
    squareSheet(256),
  );
  asset = createAsset("Pair", [
    createPart("ball", 0, { game: ball, levels: [level] }),
    createPart("box", 1, { game: box }),
  ]);
  asset = (await run("collide/hulls", asset, { kind: "hull" })).asset;
  const map = (kind: "normal" | "ao") => ({
    kind,
    ...{ width: 64, height: 32, depth: 8 as const },
    channels: kind === "ao" ? (1 as const) : (3 as const),
    pixels: new Uint8Array(64 * 32 * (kind === "ao" ? 1 : 3)).fill(128),
  });
  asset = { ...asset, maps: [map("normal"), map("ao")] };
});

const BOUNDS = { min: [-1, 0, -1], max: [3, 2, 1] };
const SIZES = [
  [64, 32],
  [64, 32],
] as const;

async function shipped(options: Partial<ShipOptions> = {}) {
  const { files, report } = await shippedFiles(asset, {
    obj: false,
    ...options,
  });
  const json = glbJson<GltfJson>(
    files.find(({ name }) => name.endsWith(".glb"))!.bytes,
  );
  return { json, report, facts: factsOf(json, SIZES, BOUNDS) };
}

describe("what an engine makes of a delivery", () => {
  it.each([
    ["levels in their part", {}],
    ["levels by name", { levels: "name" }],
    [
      "other names",
      {
        levels: "name",
        nameLevel: "{part} far {level}",
        nameHull: "UC_{part}_{number}",
      },
    ],
    ["hulls as physics", { hullsAs: "physics" }],
    ["quantised", { quantised: true, compressed: true }],
  ] as [string, Partial<ShipOptions>][])(
    "is what the report says: %s",
    async (_, options) => {
      const { facts, report } = await shipped(options);
      expect(facts.levels.map(({ triangles }) => triangles)).toEqual([
        report.triangles,
        // The box has one level: it is drawn from afar as well.
        report.levels[0] + 12,
      ]);
      expect(facts.levels[0].vertices).toBe(report.vertices);
      expect(facts.hulls.count).toBe(report.hulls);
      expect(facts.parts).toBe(2);
      expect(facts.levels[0].materials).toBe(1);
      expect(facts.findings.filter(({ tone }) => tone === "bad")).toEqual([]);
    },
  );

  it("tells textures as a card holds them, with all their mips", async () => {
    const { facts } = await shipped();
    const texels = 64 * 32 + 32 * 16 + 16 * 8 + 8 * 4 + 4 * 2 + 2 + 1;
    expect(facts.textures).toEqual(
      ["normal", "occlusion"].map((name) => ({
        ...{ name, format: "PNG", width: 64, height: 32 },
        plain: 4 * texels,
        blocks: texels,
      })),
    );
  });

  it("knows that pictures in blocks stay so in the memory of a card", async () => {
    const { facts } = await shipped({ pictures: "ktx2" });
    for (const { format, plain, blocks } of facts.textures)
      expect([format, plain]).toEqual(["KTX2", blocks]);
  });

  it("counts what is drawn in several places as often, and holds it once", async () => {
    const { json } = await shipped({ levels: "none" });
    const box = json.nodes!.findIndex(({ name }) => name === "box");
    json.accessors!.push({ count: 5 });
    json.nodes![box].extensions = {
      EXT_mesh_gpu_instancing: {
        attributes: { TRANSLATION: json.accessors!.length - 1 },
      },
    };
    const plain = (await shipped({ levels: "none" })).facts.levels[0];
    const { triangles, vertices } = factsOf(json, SIZES, BOUNDS).levels[0];
    expect(triangles).toBe(plain.triangles + 4 * 12);
    expect(vertices).toBe(plain.vertices);
  });
});

describe("what is wrong in a delivery", () => {
  const found = async (
    change: (json: GltfJson) => void,
    bounds = BOUNDS,
    sizes: readonly (readonly [number, number])[] = SIZES,
  ) => {
    const { json } = await shipped();
    change(json);
    return factsOf(json, sizes, bounds)
      .findings.map(({ text }) => text)
      .join("; ");
  };
  const without = (name: string) => (json: GltfJson) => {
    for (const { primitives } of json.meshes!)
      for (const { attributes } of primitives) delete attributes[name];
  };

  it("is found before an engine is started", async () => {
    const sound = await found(() => {});
    expect(sound).toBe("");
    expect(await found(without("TANGENT"))).toContain("without tangents");
    expect(await found(without("NORMAL"))).toContain("no normals");
    expect(await found(without("TEXCOORD_0"))).toContain("no UVs");
    expect(
      await found((json) => {
        for (const { primitives } of json.meshes!)
          for (const each of primitives) delete each.material;
      }),
    ).toContain("no material");
    expect(
      await found(() => {}, BOUNDS, [
        [60, 32],
        [9000, 64],
      ]),
    ).toMatch(/normal is 60 × 32.*occlusion is 9000 × 64: more than/);
    expect(
      await found(() => {}, BOUNDS, [
        [0, 0],
        [64, 32],
      ]),
    ).toContain("normal can't be opened");
    expect(
      await found((json) => {
        json.scenes![0].nodes = json.scenes![0].nodes!.filter(
          (at) => !hullNodes(json).includes(at),
        );
      }),
    ).toContain("no collision hulls");
    expect(
      await found(() => {}, { min: [0, 0, 0], max: [4000, 200, 200] }),
    ).toContain("is it in metres?");
    expect(
      await found(() => {}, { min: [0, -1, 0], max: [2, 1, 2] }),
    ).toContain("sinks in");
    expect(await found(() => {}, { min: [0, 1, 0], max: [2, 3, 2] })).toContain(
      "floats",
    );
    expect(
      await found((json) => {
        const part = drawnParts(json)[0];
        delete json.nodes![part.nodes[0]].extras;
      }),
    ).toContain("nothing says from where its levels set in");
    expect(
      await found((json) => {
        const [part] = drawnParts(json);
        const [near, far] = part.nodes.map((at) => json.nodes![at]);
        [near.mesh, far.mesh] = [far.mesh, near.mesh];
      }),
    ).toContain("level 1 is no lighter");
    expect(
      factsOf({}, [], { min: [0, 0, 0], max: [0, 0, 0] }).findings,
    ).toEqual(
      expect.arrayContaining([
        { tone: "bad", text: "nothing in it is drawn: there is no mesh" },
      ]),
    );
  });
});
