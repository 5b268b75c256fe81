import { WebIO } from "@gltf-transform/core";
import { ALL_EXTENSIONS } from "@gltf-transform/extensions";
import { MeshoptDecoder } from "meshoptimizer";
import {
  afterEach,
  beforeAll,
  beforeEach,
  describe,
  expect,
  it,
  vi,
} from "vitest";
import { glbJson } from "../../../tests/glb-json";
import { laidOn, squareSheet } from "../../../tests/laid";
import { run } from "../../../tests/one-part";
import { cube, moved, sphere } from "../../../tests/shapes";
import { shippedFiles } from "../../../tests/shipped";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { followRepeats } from "../../asset/repeats";
import type { BakedMap } from "../../base/pictures";
import { readMeshFiles } from "../../formats/index";
import { CONTACTS } from "../../mesh/contacts";
import { PHYSICS, SHAPES } from "../../formats/gltf-physics";
import { triangleCount } from "../../mesh/mesh";
import { multiply, rotation, translation } from "../../mesh/transform";
import { HULL_KINDS } from "../../mesh/hull";
import type { ShipOptions } from "./ship-options";

const SIZE = 16;
const map = (kind: BakedMap["kind"], channels: 1 | 3): BakedMap => ({
  kind,
  width: SIZE,
  height: SIZE,
  channels,
  depth: 8,
  pixels: Uint8Array.from({ length: SIZE * SIZE * channels }, (_, i) =>
    kind === "normal" ? [128, 128, 255][i % 3] : 40 + (i % 200),
  ),
});

/** A ball with levels, a box, and three more of it: turned, mirrored, and slanted, which no instance can be. */
let asset: Asset;

beforeAll(async () => {
  const [ball, box, level] = laidOn(
    [moved(sphere(10, 12), 2, 1, 0), cube(), moved(sphere(6, 8), 2, 1, 0)],
    squareSheet(256),
  );
  const repeat = (name: string, n: number, matrix: readonly number[]) =>
    createPart(name, n, { repeat: { of: "box", matrix } });
  const flip = [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
  const slant = [1, 0, 0, 0, 0.4, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
  asset = followRepeats(
    createAsset("Quay", [
      createPart("ball", 0, {
        game: ball,
        levels: [level],
      }),
      createPart("box", 1, { game: box }),
      repeat(
        "box turned",
        2,
        multiply(translation(3, 0, 1), rotation([0.6, 0, 0.8], 0.7)),
      ),
      repeat("box flipped", 3, multiply(translation(-3, 0, 0), flip)),
      repeat("box slanted", 4, multiply(translation(0, 0, 5), slant)),
    ]),
  );
  asset = (
    await run("finish/look", asset, {
      colour: "#336699",
      roughness: 0.25,
      metalness: 1,
    })
  ).asset;
  const hulled = await run("collide/hulls", asset, { kind: "box" });
  const more = await Promise.all(
    ["sphere", "capsule", "hull", "prism"].map(async (kind) => ({
      kind,
      made: await run("collide/hulls", asset, { kind, parts: ["ball"] }),
    })),
  );
  asset = {
    ...hulled.asset,
    maps: [map("normal", 3), map("ao", 1)],
    parts: hulled.asset.parts.map((part) =>
      part.name === "ball"
        ? {
            ...part,
            hulls: more.flatMap(({ made }, k) =>
              made.asset.parts[0].hulls.map((hull) => ({
                ...hull,
                name: `ball_hull_${k + 1}`,
                // Two of three say what they feel like.
                ...(k % 3 && { contact: k % 3 === 1 ? "wood" : "rope" }),
              })),
            ),
          }
        : part,
    ),
  };
  expect(
    new Set(asset.parts.flatMap((p) => p.hulls.map((h) => h.kind))).size,
  ).toBeGreaterThan(3);
});

const glbOf = async (options: Partial<ShipOptions>) => {
  const made = await shippedFiles(asset, { obj: false, ...options });
  expect(made.report.failed).toBeUndefined();
  return {
    ...made,
    bytes: made.files.find(({ name }) => name === "Quay.glb")!.bytes,
  };
};

/** The same file by a general library. */
async function byLibrary(bytes: Uint8Array) {
  await MeshoptDecoder.ready;
  return new WebIO()
    .registerExtensions(ALL_EXTENSIONS)
    .registerDependencies({ "meshopt.decoder": MeshoptDecoder })
    .readBinary(bytes);
}

// It says which extensions it does not know.
beforeEach(() => void vi.spyOn(console, "warn").mockImplementation(() => {}));
afterEach(() => void vi.restoreAllMocks());

const WAYS: [string, Partial<ShipOptions>][] = [
  ["as it is by itself", {}],
  ["quantised", { quantised: true }],
  ["compressed", { compressed: true }],
  ["with instances", { instances: true }],
  ["with physics", { hullsAs: "physics" }],
  ["with JPEG", { pictures: "jpeg" }],
  ["with WebP", { pictures: "webp" }],
  ["with KTX2", { pictures: "ktx2", gltf: true }],
  ["with a packed map", { packed: true }],
  ["without tangents and order", { tangents: false, ordered: false }],
  [
    "with all at once",
    {
      quantised: true,
      compressed: true,
      instances: true,
      hullsAs: "physics",
      pictures: "webp",
      packed: true,
      levels: "name",
      pivot: "bottom",
      gltf: true,
      nameMesh: "SM_{part}",
      nameLevel: "SM_{part}_L{level}",
      nameHull: "UC_{part}_{number:2}",
    },
  ],
];

describe("a delivery", () => {
  it.each(WAYS)("%s is clean and comes back as it was", async (_, options) => {
    const { report, bytes } = await glbOf(options);
    expect(report.validator).toMatchObject({ errors: 0, warnings: 0 });
    for (const back of report.readBack) expect(back.differs).toEqual([]);
    expect(report.readBack.every(({ uvs }) => uvs <= 1e-5)).toBe(true);
    // A general library finds the same triangles: those drawn several times are held once.
    const document = await byLibrary(bytes);
    const parts = document
      .getRoot()
      .listNodes()
      .filter(
        (node) =>
          node.getMesh() &&
          !(node.getExtras().arnik as { hull?: string } | undefined)?.hull,
      );
    const held = parts.reduce(
      (sum, node) =>
        sum +
        node
          .getMesh()!
          .listPrimitives()
          .reduce((n, p) => n + p.getIndices()!.getCount() / 3, 0),
      0,
    );
    const once = asset.parts
      .filter(
        ({ repeat, name }) =>
          !options.instances || !repeat || name === "box slanted",
      )
      .flatMap(({ game, levels }) => [game!, ...levels])
      .reduce((sum, mesh) => sum + triangleCount(mesh), 0);
    expect(held).toBe(once);
  });

  it("is lighter quantised, and lighter still compressed", async () => {
    const plain = (await glbOf({})).bytes.length;
    const quantised = (await glbOf({ quantised: true })).bytes.length;
    const both = (await glbOf({ quantised: true, compressed: true })).bytes
      .length;
    expect(quantised).toBeLessThan(plain);
    expect(both).toBeLessThan(quantised);
  });

  it("tells where repeats are, so that they are drawn in one call", async () => {
    const { bytes } = await glbOf({ instances: true });
    const { parts } = await readMeshFiles([{ name: "a.glb", bytes }]);
    const names = parts.flatMap(({ name, hull, level }) =>
      hull || level ? [] : [name],
    );
    expect(names).toEqual(["ball", "box", "box.2", "box.3", "box slanted"]);
    const document = await byLibrary(bytes);
    const [box] = document
      .getRoot()
      .listNodes()
      .filter((node) => node.getName() === "box");
    expect(
      box
        .getExtension<import("@gltf-transform/extensions").InstancedMesh>(
          "EXT_mesh_gpu_instancing",
        )!
        .getAttribute("TRANSLATION")!
        .getCount(),
    ).toBe(3);
    // The list of instances is what it hangs on: without them repeats don't make it stale.
    const made = await run("ship/archive", asset, { page: false, obj: false });
    expect(made.asset.results.ship!.madeFrom).not.toHaveProperty("repeats");
  });

  it("has hulls that physics engines read by themselves, of their kind and in their place", async () => {
    const { bytes, report } = await glbOf({ hullsAs: "physics" });
    const json = glbJson<GltfJson>(bytes);
    expect(json.extensionsUsed).toEqual(
      expect.arrayContaining([PHYSICS, SHAPES]),
    );
    const { shapes } = json.extensions[SHAPES] as {
      shapes: { type: string }[];
    };
    expect(new Set(shapes.map(({ type }) => type))).toEqual(
      new Set(["box", "sphere", "capsule"]),
    );
    const colliders = json.nodes.filter((node) => node.extensions?.[PHYSICS]);
    expect(colliders).toHaveLength(report.hulls);
    // What they feel like is said with them, each material once.
    const { physicsMaterials } = json.extensions[PHYSICS] as {
      physicsMaterials: object[];
    };
    expect(physicsMaterials).toEqual(
      [CONTACTS.wood, CONTACTS.rope].map(({ friction, restitution }) => ({
        staticFriction: friction,
        dynamicFriction: friction,
        restitution,
      })),
    );
    const of = colliders.flatMap((node) => {
      const { collider } = node.extensions![PHYSICS] as {
        collider: { physicsMaterial?: number };
      };
      return collider.physicsMaterial ?? [];
    });
    expect(new Set(of)).toEqual(new Set([0, 1]));
    // None of them is drawn.
    expect(colliders.every((node) => node.mesh === undefined)).toBe(true);
    const { parts } = await readMeshFiles([{ name: "a.glb", bytes }]);
    const given = asset.parts.flatMap(({ hulls }) => hulls);
    const read = parts.filter(({ hull }) => hull);
    expect(read.map(({ hull }) => hull!.kind).sort()).toEqual(
      given.map(({ kind }) => kind).sort(),
    );
    for (const { name, contact } of given)
      expect(read.find(({ written }) => written === name)!.hull!.contact).toBe(
        contact,
      );
    for (const hull of given) {
      const { mesh } = read.find(({ written }) => written === hull.name)!;
      const reach = (p: Float32Array, k: number) =>
        p.reduce((most, x, i) => (i % 3 === k ? Math.max(most, x) : most), -9);
      for (const k of [0, 1, 2])
        expect(
          Math.abs(reach(mesh.positions, k) - reach(hull.positions, k)),
          `${hull.kind} ${k}`,
        ).toBeLessThan(
          hull.kind === "box" || !/sphere|capsule/.test(hull.kind)
            ? 1e-4
            : 0.05,
        );
    }
    expect(HULL_KINDS).toContain("ground");
  });

  it("packs occlusion, roughness and metalness into one map, inside and as a file", async () => {
    const { bytes, files } = await glbOf({ packed: true });
    expect(files.map(({ name }) => name)).toContain("Quay_packed.png");
    const document = await byLibrary(bytes);
    for (const material of document.getRoot().listMaterials()) {
      expect(material.getOcclusionTexture()).toBe(
        material.getMetallicRoughnessTexture(),
      );
      expect(material.getRoughnessFactor()).toBe(1);
    }
  });

  it("cuts cards off under a share of their mask, where that is asked for", async () => {
    const [ball, box] = asset.parts;
    const carded: Asset = {
      ...createAsset("Quay", [
        {
          ...ball,
          levels: [],
          hulls: [],
          standIns: [
            {
              shape: "card",
              faces: "0",
              of: 1,
              each: false,
              made: "",
              triangles: 2,
              rms: 0,
              max: 0,
            },
          ] as never,
        },
        { ...box, hulls: [] },
      ]),
      maps: [map("opacity", 1)],
    };
    for (const cards of ["blend", "mask"] as const) {
      const { files } = await shippedFiles(carded, {
        obj: false,
        cards,
        cutOff: 0.3,
        pictures: "jpeg",
      });
      const json = glbJson<GltfJson>(
        files.find(({ name }) => name === "Quay.glb")!.bytes,
      );
      const material = json.materials.find(({ alphaMode }) => alphaMode);
      expect(material).toMatchObject(
        cards === "mask"
          ? { alphaMode: "MASK", alphaCutoff: 0.3 }
          : { alphaMode: "BLEND" },
      );
      // What has an alpha is no JPEG.
      expect(json.images.some(({ mimeType }) => mimeType === "image/png")).toBe(
        true,
      );
    }
  });
});

interface GltfJson {
  extensionsUsed: string[];
  extensions: Record<string, unknown>;
  nodes: { mesh?: number; extensions?: Record<string, unknown> }[];
  materials: { alphaMode?: string; alphaCutoff?: number }[];
  images: { mimeType: string }[];
}

it("hulls of levels go out with these, in their names, and come in again as such", async () => {
  const levelled = createAsset("Post", [
    createPart("post", 0, { game: sphere(12, 16), levels: [sphere(6, 8)] }),
  ]);
  const made = (
    await run("collide/hulls", levelled, { kind: "box", forLevels: true })
  ).asset;
  for (const hullsAs of ["name", "physics"] as const) {
    const read = async (options: Partial<ShipOptions>) => {
      const { files } = await shippedFiles(made, {
        obj: false,
        insist: true,
        hullsAs,
        ...options,
      });
      const { bytes } = files.find(({ name }) => name === "Post.glb")!;
      const back = await readMeshFiles([{ name: "Post.glb", bytes }]);
      return back.parts.flatMap(({ hull, written }) =>
        hull ? [[written, hull.level ?? 0]] : [],
      );
    };
    expect(await read({})).toEqual([
      ["post_hull_1", 0],
      ["post_lod1_hull_1", 1],
    ]);
    expect(await read({ levels: "none" })).toEqual([["post_hull_1", 0]]);
  }
});
