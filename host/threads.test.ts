import { existsSync } from "node:fs";
import { pathToFileURL } from "node:url";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { Asset } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import { toDocument } from "../core/asset/document";
import type { Workers } from "../core/base/context";
import { plainContext } from "../core/base/context";
import { findOperation, KERNELS } from "../core/operations";
import { runOperation } from "../core/route";
import { joined, moved, sphere, torus } from "../tests/shapes";
import { threadWorkers } from "./workers";

const script = pathToFileURL("dist/kernel-worker.mjs");
const pools = [1, 2, 5].map((threads) => threadWorkers(script, threads));
afterAll(() => Promise.all(pools.map((pool) => pool.close())));

/** Hashes of all that an asset holds after an operation. */
async function hashes(
  asset: Asset,
  id: string,
  options: object,
  workers: Workers,
): Promise<string> {
  const { asset: made } = await runOperation(
    findOperation(id),
    asset,
    options,
    { ...plainContext(KERNELS), workers },
  );
  // Reports hold times; streams are named by their hashes.
  const { parts, maps } = toDocument(made, () => {});
  return JSON.stringify({ parts, maps });
}

describe.runIf(existsSync(script))("1, 2 and 5 threads", () => {
  let unwrapped: Asset;
  beforeAll(async () => {
    const source = joined(
      sphere(40, 50, 1, (a, h) => 0.05 * Math.sin(9 * a) * Math.cos(7 * h)),
      moved(torus(24, 12, 0.6, 0.15), 0.4, 0.2, 0),
    );
    let asset = createAsset("knot", [createPart("knot", 0, { source })]);
    asset = { ...asset, brief: { ...asset.brief, sheetSize: 128, padding: 2 } };
    for (const [id, options] of [
      ["reduce/to-budget", { triangles: 600 }],
      ["unwrap/unwrap", {}],
    ] as const)
      ({ asset } = await runOperation(
        findOperation(id),
        asset,
        options,
        plainContext(KERNELS),
      ));
    unwrapped = asset;
  });

  for (const [id, options] of [
    ["bake/maps", { rays: 8, samples: 2 }],
    ["survey/unseen", {}],
    ["unwrap/pack", {}],
  ] as const)
    it(`give the same bytes: ${id}`, async () => {
      const plain = plainContext(KERNELS).workers;
      const one = await hashes(unwrapped, id, options, plain);
      for (const pool of pools)
        expect(await hashes(unwrapped, id, options, pool)).toBe(one);
    });
});
