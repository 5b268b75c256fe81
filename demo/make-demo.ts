import { mkdirSync, writeFileSync } from "node:fs";
import { join, resolve } from "node:path";
import { encode } from "fast-png";
import type { Asset } from "../core/asset/asset";
import { ArnikError } from "../core/base/errors";
import { faceCount } from "../core/mesh/mesh";
import type { OperationResult } from "../core/asset/operation";
import type { Context } from "../core/base/context";
import { findOperation } from "../core/operations";
import { runOperation } from "../core/route";
import { runRoute } from "../core/run-route";
import { portrait } from "../core/asset/portrait";
import { writeMeshFile } from "../core/formats/index";
import { threadWorkers } from "../host/workers";
import { Store } from "../server/store/store";
import { DEMO_ASSETS } from "./index";

/** Fills an empty store with the Sorrel Quay set, or with `--files DIR` writes it as GLB files. */

const LOOKS: Record<string, [string, number, number]> = {
  brass: ["#b98a45", 0.35, 1],
  iron: ["#4c4f52", 0.55, 0.9],
  steel: ["#80858a", 0.4, 1],
  glass: ["#cfe0de", 0.12, 0],
  wood: ["#7d5637", 0.7, 0],
  hemp: ["#b79c6c", 0.9, 0],
  "red paint": ["#a8402f", 0.5, 0],
  rubber: ["#2f3335", 0.85, 0],
  cork: ["#a9825b", 0.95, 0],
};

/** What each asset of the demo is brought to, and what its Survey offers that is taken up before the route is run. */
const ASSETS: Record<
  string,
  {
    triangles: number;
    sheetSize: number;
    /** Parts that bake onto others and get no triangles. */
    sourceOnly?: string[];
    steps?: [string, object][];
  }
> = {
  "storm-lamp": {
    triangles: 5000,
    sheetSize: 2048,
    sourceOnly: ["rivets"],
    // Posts and rings of the cage are worked once.
    steps: [["survey/link-repeats", { parts: ["cage"] }]],
  },
  "mooring-bollard": { triangles: 4000, sheetSize: 1024 },
  "horn-shell": { triangles: 5000, sheetSize: 1024 },
  "channel-buoy": {
    triangles: 9000,
    sheetSize: 2048,
    sourceOnly: ["bolts"],
    steps: [
      [
        "survey/link-repeats",
        { parts: ["bulkheads", "tower", "braces", "ladder rails", "rungs"] },
      ],
      ["survey/unseen", { transparent: "glass" }],
      ["survey/paint-ids", { by: "parts" }],
    ],
  },
  "fish-crate": {
    triangles: 3000,
    sheetSize: 1024,
    steps: [["survey/link-repeats", {}]],
  },
  "net-panel": {
    triangles: 2000,
    sheetSize: 2048,
    // Knots lie on the card that stands for the strands.
    sourceOnly: ["knots"],
    steps: [
      [
        "reduce/stand-in",
        { parts: ["strands"], shape: "card", rings: 12, each: false },
      ],
    ],
  },
};

/** Rays a texel for occlusion: half of what is usual, as filling the store should not take long. */
const RAYS = 32;

async function writeFiles(folder: string): Promise<void> {
  for (const [name, make] of Object.entries(DEMO_ASSETS)) {
    const parts = make().parts.map((part) => ({
      name: part.name,
      mesh: part.source!,
    }));
    writeFileSync(
      join(folder, `${name}.glb`),
      await writeMeshFile(`${name}.glb`, parts),
    );
  }
}

async function fillStore(folder: string): Promise<void> {
  const store = await Store.open(folder, "the making of the demo");
  try {
    if ((await store.list()).length) return;
    const workers = threadWorkers(
      new URL("./kernel-worker.mjs", import.meta.url),
    );
    const context: Context = { progress() {}, check() {}, workers };
    for (const [name, route] of Object.entries(ASSETS)) {
      const { triangles, sheetSize, sourceOnly = [], steps = [] } = route;
      process.stdout.write(`making ${name.replace("-", " ")}\n`);
      const made = DEMO_ASSETS[name]();
      let asset: Asset = {
        ...made,
        brief: { ...made.brief, triangles, sheetSize },
      };
      asset = { ...asset, results: { intake: intakeResult(asset) } };
      const row = await store.createAsset(asset, "Brought files in");
      let revision = row.head;
      const faces = asset.parts.flatMap(({ name: part, source }) =>
        source && sourceOnly.includes(part)
          ? [`${part}:0-${faceCount(source) - 1}`]
          : [],
      );
      const all: [string, object][] = [
        ...(faces.length
          ? [["survey/source-only", { faces, on: true }] as [string, object]]
          : []),
        ...steps,
      ];
      const keep = async (id: string, result: OperationResult) => {
        asset = result.asset;
        revision = await store.commit(
          row.id,
          revision,
          asset,
          `${findOperation(id).title}: ${result.headline || String(result.report.summary ?? "")}`,
        );
      };
      const run = async (id: string, options: object) => {
        process.stdout.write(`  ${id}\n`);
        await keep(
          id,
          await runOperation(findOperation(id), asset, options, context),
        );
      };
      for (const [id, options] of all) await run(id, options);
      for (const material of materialsOf(asset))
        await run("finish/look", lookOf(material));
      await runRoute(
        asset,
        context,
        {
          begins: (stage) => void process.stdout.write(`  ${stage}\n`),
          made: (result, { operation }) => keep(operation, result),
        },
        { bake: { rays: RAYS } },
      );
      const pixels = portrait(asset, 320, 240);
      if (pixels)
        await store.setPicture(
          row.id,
          encode({
            width: 320,
            height: 240,
            data: pixels,
            channels: 3,
            depth: 8,
          }),
        );
    }
    await workers.close();
  } finally {
    await store.close();
  }
}

const materialsOf = (asset: Asset) => [
  ...new Set(asset.parts.flatMap((part) => part.source?.materials ?? [])),
];

function lookOf(material: string) {
  const [colour, roughness, metalness] = LOOKS[material] ?? ["#b8b2a6", 0.6, 0];
  return { material, colour, roughness, metalness };
}

const intakeResult = (asset: Asset) => ({
  operation: "intake/bring-in",
  options: {},
  report: { parts: asset.parts.length, repairs: [] },
  headline: `${asset.parts.length} ${asset.parts.length === 1 ? "part" : "parts"}`,
  madeFrom: {},
});

const filesAt = process.argv.indexOf("--files");
if (filesAt > 0) {
  const folder = resolve(process.argv[filesAt + 1] ?? ".");
  mkdirSync(folder, { recursive: true });
  await writeFiles(folder);
} else
  await fillStore(resolve(process.env.ARNIK_DATA ?? "data")).catch(
    (error: unknown) => {
      if (!(error instanceof ArnikError)) throw error;
      process.stderr.write(`arnik: ${error.message}\n`);
      process.exitCode = 1;
    },
  );
