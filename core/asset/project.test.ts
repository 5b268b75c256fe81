import { unzipSync, zipSync } from "fflate";
import { beforeAll, describe, expect, it } from "vitest";
import { run } from "../../tests/one-part";
import { withEveryStream } from "../../tests/every-stream";
import { cube, moved, sphere } from "../../tests/shapes";
import { plainContext } from "../base/context";
import { IDENTITY } from "../mesh/transform";
import { validateGlb } from "../ship/methods/validate";
import type { Asset } from "./asset";
import { createAsset, createPart } from "./asset";
import type { AssetDocument } from "./document";
import { streamsOf, toDocument } from "./document";
import { packProject, unpackProject } from "./project";

let asset: Asset;
let archive: Uint8Array;

const pack = (given: Asset) => packProject(given, plainContext());
const documentOf = (given: Asset) => toDocument(given, () => {});

/** The archive with one of its files in another form. */
function changed(
  name: RegExp,
  change: (bytes: Uint8Array<ArrayBuffer>) => Uint8Array<ArrayBuffer> | null,
): Uint8Array {
  const files = unzipSync(archive);
  const found = Object.keys(files).find((each) => name.test(each))!;
  const bytes = change(files[found]);
  if (bytes) files[found] = bytes;
  else delete files[found];
  return zipSync(files);
}

/** The archive with something else in its document. */
const told = (change: (document: AssetDocument) => void) =>
  changed(/project\.json/, (bytes) => {
    const head = JSON.parse(new TextDecoder().decode(bytes)) as {
      document: AssetDocument;
    };
    change(head.document);
    return new TextEncoder().encode(JSON.stringify(head));
  });

beforeAll(async () => {
  asset = createAsset("Kit", [
    createPart("ball", 0, { source: sphere(20, 24) }),
    createPart("box", 1, { source: moved(cube(), 3, 0, 0) }),
  ]);
  asset = {
    ...asset,
    brief: { ...asset.brief, triangles: 300, sheetSize: 64 },
  };
  for (const [id, options] of [
    ["reduce/to-budget", {}],
    ["unwrap/unwrap", { seconds: 0 }],
    ["reduce/levels", { levels: "150" }],
    ["bake/maps", { rays: 4, depth: "map" }],
    ["collide/hulls", {}],
    ["finish/look", { colour: "#336699" }],
  ] as const)
    asset = (await run(id, asset, options)).asset;
  archive = pack(asset);
});

describe("a project archive", () => {
  it("brings back every stream and every word, and is the same bytes again", () => {
    const back = unpackProject("kit.zip", archive);
    expect(documentOf(back)).toEqual(documentOf(asset));
    expect(streamsOf(documentOf(back)).length).toBeGreaterThan(30);
    expect(Buffer.compare(pack(back), archive)).toBe(0);
  });

  it("brings back every stream that a mesh can have, pictures, repeats and names of any kind", () => {
    const [ball, box] = asset.parts;
    const game = withEveryStream(ball.game!, 3);
    const cage = new Float32Array(3 * game.corners.length).fill(0.25);
    const rounds = new Uint16Array(game.corners.length).fill(700);
    const bytes = (...values: number[]) => Uint8Array.from(values);
    const full: Asset = {
      ...asset,
      name: "Kit ".repeat(80),
      parts: [
        {
          ...ball,
          game: {
            ...game,
            ...{ cage, rounds, materials: ["", "wood ".repeat(90)] },
          },
          previousUnwrap: ball.game,
          dense: ball.source,
        },
        { ...box, repeat: { of: "ball", matrix: IDENTITY } },
      ],
      looks: [
        {
          ...asset.looks[0],
          material: "",
          pictures: {
            colour: { name: "a.png", kind: "png", bytes: bytes(1, 2) },
          },
        } as unknown as Asset["looks"][number],
      ],
      references: [
        {
          name: "b.png",
          bytes: bytes(3),
        } as unknown as Asset["references"][number],
      ],
      painted: { bytes: bytes(4, 5) } as unknown as Asset["painted"],
    };
    const back = unpackProject("kit.zip", pack(full));
    expect(documentOf(back)).toEqual(documentOf(full));
  });

  it("holds meshes as GLB that anything shows, and maps as PNG", async () => {
    const files = unzipSync(archive);
    const names = Object.keys(files);
    expect(names.filter((name) => name.startsWith("meshes/"))).toEqual([
      "meshes/001 ball.glb",
      "meshes/002 box.glb",
    ]);
    expect(names).toContain("maps/001 normal.png");
    expect(names).toContain("maps/002 ao.png");
    for (const name of names.filter((each) => each.endsWith(".glb")))
      expect(await validateGlb(name, files[name])).toMatchObject({
        errors: 0,
        warnings: 0,
      });
  });

  it("goes on being worked: nothing is stale", async () => {
    const back = unpackProject("kit.zip", archive);
    const shipped = await run("ship/archive", back, { page: false });
    expect(shipped.report.failed).toBeUndefined();
    const stale = (
      shipped.report.checks as { name: string; ok: boolean }[]
    ).find(({ name }) => name === "Stale")!;
    expect(stale.ok).toBe(true);
  });

  it.each([
    ["no archive", () => new Uint8Array([1, 2, 3]), /no archive, or a damaged/],
    ["cut off", () => archive.subarray(0, archive.length / 2), /no archive/],
    [
      "another archive",
      () => zipSync({ "a.txt": new Uint8Array(3) }),
      /no project: project\.json is missing/,
    ],
    [
      "no JSON",
      () => changed(/project\.json/, () => new Uint8Array([123])),
      /project\.json is no JSON/,
    ],
    [
      "a later version",
      () =>
        changed(/project\.json/, (bytes) =>
          new TextEncoder().encode(
            new TextDecoder()
              .decode(bytes)
              .replace('"version": 1', '"version": 7'),
          ),
        ),
      /project of version 7; version 1 is read/,
    ],
    [
      "a missing mesh",
      () => changed(/ball\.glb/, () => null),
      /parts\[0\]\.\w+.*its bytes are not in the archive/,
    ],
    [
      "a damaged stream",
      () =>
        changed(/ball\.glb/, (bytes) => {
          const other = bytes.slice();
          other[Math.floor(0.4 * other.length)] ^= 1;
          return other;
        }),
      /is damaged|corner|number|face/,
    ],
    [
      "a damaged picture",
      () => changed(/normal\.png/, (bytes) => bytes.subarray(0, 40)),
      /normal\.png: it is no PNG/,
    ],
    [
      "a mesh file that is none",
      () => changed(/box\.glb/, () => new Uint8Array(40)),
      /box\.glb: this is no GLB/,
    ],
  ])("is refused with its place: %s", (_, bytes, words) => {
    expect(() => unpackProject("kit.zip", bytes())).toThrow(words);
  });

  type Change = (document: AssetDocument) => void;
  const set =
    (path: string, value: unknown): Change =>
    (document) => {
      const steps = path.split(".");
      const last = steps.pop()!;
      const at = steps.reduce<Record<string, unknown>>(
        (each, step) => each[step] as Record<string, unknown>,
        document as unknown as Record<string, unknown>,
      );
      at[last] = value;
    };

  it.each<[string, unknown, RegExp]>([
    ["name", 7, /name: a name is expected/],
    ["brief.triangles", "many", /brief\.triangles: a number/],
    ["brief.levels", [-1], /brief\.levels\[0\]/],
    ["parts", {}, /parts: a list/],
    ["parts.1.name", "ball", /parts\[1\]\.name: another part/],
    ["parts.0.colour", "red", /parts\[0\]\.colour: a colour/],
    [
      "parts.0.repeat",
      { of: "lid", matrix: [] },
      /repeat\.of: there is no such/,
    ],
    ["parts.0.game.streams.corners.length", 3, /corners\.length: there are/],
    ["parts.0.game.streams.uvs.kind", "u8", /uvs\.kind: f32 is expected/],
    ["parts.0.game.materials", [], /materials: at least one/],
    ["parts.0.hulls.0.kind", "cloud", /hulls\[0\]\.kind/],
    ["parts.0.hulls.0.contact", "jelly", /hulls\[0\]\.contact: wood, metal/],
    ["parts.0.hulls.0.level", 0.5, /hulls\[0\]\.level: a level of detail/],
    ["parts.0.hulls.0.byHand", "maybe", /hulls\[0\]\.byHand: is true/],
    ["maps.0.width", 7, /maps\[0\]\.pixels/],
    ["maps.0.kind", "smell", /maps\[0\]\.kind: there is no such map/],
    ["looks.0.colour", "#12", /looks\[0\]\.colour/],
    ["results.bake.report", null, /results\.bake\.report/],
    ["results.lunch", {}, /results\.lunch: there is no such stage/],
    ["record.centre", [1], /record\.centre: 3 numbers/],
  ])(
    "is refused where its %s is not what it should be",
    (path, value, words) => {
      const bytes = told(set(path, value));
      expect(() => unpackProject("kit.zip", bytes)).toThrow(words);
      expect(() => unpackProject("kit.zip", bytes)).toThrow(
        /^kit\.zip: project\.json/,
      );
    },
  );

  it("is refused where faces name corners that are not there", () => {
    const bytes = told((document) => {
      const { game, source } = document.parts[0];
      // The corners of the larger mesh on the places of the smaller one.
      game!.streams.corners = source!.streams.corners;
      game!.streams.faceStarts = source!.streams.faceStarts;
    });
    expect(() => unpackProject("kit.zip", bytes)).toThrow(
      /parts\[0\]\.game\.streams\.corners: number \d+ names corner/,
    );
  });
});
