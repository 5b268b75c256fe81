import { describe, expect, it } from "vitest";
import { cube, sphere } from "../../tests/shapes";
import type { Asset } from "./asset";
import { createAsset, createPart, chosenParts } from "./asset";
import { spaced } from "../base/wording";
import { streamRef, streamsOf, toDocument } from "./document";
import { decodeStream, fromDocument } from "./read-document";
import { STAGES } from "./stages";
import { stageStates, willRedo } from "./stale";
import { CancelledError, OptionsError } from "../base/errors";
import { fieldsOf, readOptions } from "./operation";
import { checkFlag, plainContext, spanOf } from "../base/context";
import { KERNELS, OPERATIONS, findOperation } from "../operations";
import {
  bringUpToDate,
  describe as documentOf,
  runOperation,
  staleStages,
} from "../route";

const box = (): Asset =>
  createAsset("box", [
    createPart("lid", 0, { source: cube() }),
    createPart("body", 1, { source: cube(), game: cube() }),
  ]);

describe("declarations", () => {
  it("cover all nine stages with ids of their own", () => {
    expect(new Set(OPERATIONS.map((operation) => operation.stage))).toEqual(
      new Set(STAGES),
    );
    expect(new Set(OPERATIONS.map((operation) => operation.id)).size).toBe(
      OPERATIONS.length,
    );
    expect(() => findOperation("reduce/nothing")).toThrow(/no operation/);
  });

  it("give every option a label, help and a default that passes its own check", () => {
    for (const operation of OPERATIONS) {
      for (const field of fieldsOf(operation)) {
        expect(
          field.label.length,
          `${operation.id} ${field.name}`,
        ).toBeGreaterThan(2);
        expect(
          field.help.length,
          `${operation.id} ${field.name}`,
        ).toBeGreaterThan(5);
      }
      expect(() => readOptions(operation, {})).not.toThrow();
    }
  });

  it("refuse options that are unknown, of the wrong kind or out of range, by name", () => {
    const reduce = findOperation("reduce/to-budget");
    const wrong = (raw: unknown) => {
      try {
        readOptions(reduce, raw);
      } catch (error) {
        return Object.keys((error as OptionsError).fields);
      }
      return [];
    };
    expect(wrong({ triangles: -1 })).toEqual(["triangles"]);
    expect(wrong({ triangles: 1.5, measure: "yes" })).toEqual([
      "triangles",
      "measure",
    ]);
    expect(wrong({ triangles: Number.NaN })).toEqual(["triangles"]);
    expect(wrong({ tris: 5 })).toEqual(["tris"]);
    expect(wrong([])).toEqual(["options"]);
    expect(wrong({ __proto__: null, constructor: 1 })).toEqual(["constructor"]);
    expect(wrong({ triangles: 100 })).toEqual([]);
  });
});

describe("contexts", () => {
  it("map the progress of a step into its span", () => {
    const said: number[] = [];
    const context = {
      ...plainContext(),
      progress: (share: number) => said.push(share),
    };
    spanOf(context, 0.5, 0.75).progress(0.5, "half");
    expect(said).toEqual([0.625]);
  });

  it("stop once the flag is set", () => {
    const flag = new Int32Array(new SharedArrayBuffer(4));
    const check = checkFlag(flag);
    expect(check).not.toThrow();
    flag[0] = 1;
    expect(check).toThrow(CancelledError);
    expect(() => checkFlag(null)()).not.toThrow();
  });
});

describe("an option that nobody gave", () => {
  it("has its default, be it a number or none", () => {
    const reduce = findOperation("reduce/to-budget");
    for (const triangles of [null, undefined])
      expect(readOptions(reduce, { triangles })).toMatchObject({
        triangles: 0,
      });
    const look = findOperation("finish/look");
    expect(readOptions(look, { opacity: null })).toMatchObject({
      opacity: null,
    });
    expect(() => readOptions(look, { opacity: 2 })).toThrow("opacity");
  });

  it("is told in words where its number stands for something else", () => {
    for (const operation of OPERATIONS)
      for (const { label, help, empty, brief, kind } of fieldsOf(operation)) {
        expect(label, operation.id).not.toMatch(/\b0\b/);
        if (/; 0 (takes|for|leaves|finds|shares|keeps)/.test(help))
          expect(brief ?? empty, `${operation.id}: ${label}`).toBeTruthy();
        if (brief) expect(["integer", "number"]).toContain(kind);
        if (empty) expect(["integer", "number", "choices"]).toContain(kind);
      }
  });
});

describe("documents", () => {
  it("name equal streams once and give back the same asset", () => {
    const asset = box();
    const blobs = new Map<string, Uint8Array>();
    const document = toDocument(asset, (hash, bytes) =>
      blobs.set(hash, bytes.slice()),
    );
    expect(document.parts[0].source!.streams.positions).toEqual(
      document.parts[1].game!.streams.positions,
    );
    expect(new Set(streamsOf(document).map((ref) => ref.hash)).size).toBe(
      blobs.size,
    );
    const back = fromDocument(
      JSON.parse(JSON.stringify(document)) as typeof document,
      (hash) => blobs.get(hash)!,
    );
    expect([...back.parts[1].game!.corners]).toEqual([
      ...asset.parts[1].game!.corners,
    ]);
    expect(documentOf(back)).toEqual(document);
  });

  it("find damage", () => {
    const ref = streamRef(new Float32Array([1, 2, 3]));
    expect(() => decodeStream(ref, new Uint8Array(8))).toThrow(/damaged/);
    const odd = new Uint8Array(13).subarray(1);
    expect(decodeStream(ref, odd).length).toBe(3);
  });
});

describe("what is stale", () => {
  const state = (asset: Asset, stage: string) =>
    stageStates(documentOf(asset)).find((each) => each.stage === stage)!;

  it("follows from what a result was made from", async () => {
    const context = plainContext(KERNELS);
    let asset = (
      await runOperation(
        findOperation("reduce/to-budget"),
        box(),
        { triangles: 20 },
        context,
      )
    ).asset;
    asset = (
      await runOperation(
        findOperation("edges/hard-by-angle"),
        asset,
        { angle: 30 },
        context,
      )
    ).asset;
    asset = (
      await runOperation(
        findOperation("unwrap/unwrap"),
        asset,
        { size: 256 },
        context,
      )
    ).asset;
    expect(state(asset, "unwrap").state).toBe("current");
    expect(state(asset, "bake").state).toBe("empty");
    const tighter = { ...asset, brief: { ...asset.brief, triangles: 16 } };
    expect(state(tighter, "reduce")).toEqual({
      stage: "reduce",
      state: "stale",
      changed: ["triangle budget"],
    });
    expect(state(tighter, "unwrap").state).toBe("current");
    const again = (
      await runOperation(
        findOperation("reduce/to-budget"),
        tighter,
        { triangles: 12 },
        context,
      )
    ).asset;
    expect(staleStages(again)).toEqual(["edges", "unwrap"]);
    const fresh = await bringUpToDate(again, context);
    expect(fresh.redone).toEqual(["edges", "unwrap"]);
    expect(staleStages(fresh.asset)).toEqual([]);
    expect(fresh.asset.results.edges!.options).toEqual({
      angle: 30,
      parts: [],
    });
  });

  it("goes on from results kept with options that are no more", async () => {
    const context = plainContext(KERNELS);
    const run = (asset: Asset, id: string, options: object = {}) =>
      runOperation(findOperation(id), asset, options, context);
    const hard = await run(box(), "edges/hard-by-angle", { angle: 30 });
    const { edges } = hard.asset.results;
    const old = {
      ...hard.asset,
      results: {
        edges: { ...edges!, options: { ...edges!.options, smoothing: 3 } },
      },
    };
    const marked = await run(old, "edges/mark", {
      edges: ["body:0-1"],
    });
    expect(state(marked.asset, "edges").state).toBe("current");
  });

  it("redoes a stage once more that reads what a later one has made", async () => {
    const context = plainContext(KERNELS);
    let asset = createAsset("box", [
      createPart("body", 0, { source: sphere(8, 12) }),
    ]);
    for (const [id, options] of [
      ["reduce/to-budget", { triangles: 60 }],
      ["unwrap/unwrap", { size: 256, rounds: 1 }],
      ["edges/hard-at-islands", {}],
      ["reduce/to-budget", { triangles: 40 }],
    ] as const)
      asset = (await runOperation(findOperation(id), asset, options, context))
        .asset;
    const fresh = await bringUpToDate(asset, context);
    expect(fresh.redone).toEqual(["edges", "unwrap"]);
    expect(staleStages(fresh.asset)).toEqual([]);
    const { hard, seams } = fresh.asset.parts[0].game!;
    expect(hard).toEqual(seams);
  });

  it("says before all that bringing up to date will redo", async () => {
    const context = plainContext(KERNELS);
    let asset = createAsset("box", [
      createPart("body", 0, { source: sphere(12, 16) }),
    ]);
    for (const [id, options] of [
      ["survey/count", {}],
      ["reduce/to-budget", { triangles: 80 }],
      ["edges/hard-by-angle", {}],
      ["unwrap/unwrap", { size: 64, rounds: 1 }],
      ["bake/maps", { size: 64, ao: false, samples: 1 }],
      ["collide/hulls", {}],
      ["ship/archive", { obj: false }],
    ] as const)
      asset = (await runOperation(findOperation(id), asset, options, context))
        .asset;
    expect(willRedo(documentOf(asset))).toEqual([]);
    const changes: Asset[] = [
      (
        await runOperation(
          findOperation("reduce/paint-density"),
          asset,
          { faces: ["body:0-40"], wish: "finer", strength: 0.5 },
          context,
        )
      ).asset,
      { ...asset, brief: { ...asset.brief, sheetSize: 512, padding: 2 } },
      { ...asset, brief: { ...asset.brief, hulls: 3 } },
    ];
    const told = changes.map((each) => willRedo(documentOf(each)));
    expect(told.map((each) => each.length)).toEqual([6, 3, 2]);
    const done: string[][] = [];
    for (const changed of changes)
      done.push((await bringUpToDate(changed, context)).redone);
    expect(done.map((each) => each.toSorted())).toEqual([
      told[0].toSorted(),
      told[1].toSorted(),
      // One hull holds the ball whatever is allowed, but the delivery's check list tells how many are.
      told[2].toSorted(),
    ]);
  });

  it("keeps the unwrap current when island borders are made hard", async () => {
    const context = plainContext(KERNELS);
    const asset = (
      await runOperation(
        findOperation("unwrap/unwrap"),
        box(),
        { size: 256 },
        context,
      )
    ).asset;
    const hard = (
      await runOperation(
        findOperation("edges/hard-at-islands"),
        asset,
        {},
        context,
      )
    ).asset;
    expect(staleStages(hard)).toEqual([]);
    expect(hard.results.edges!.report.hardWithoutSplit).toBe(0);
  });
});

describe("parts", () => {
  it("are chosen by name, all where none is named, never locked ones", () => {
    const asset = box();
    const locked = {
      ...asset,
      parts: [{ ...asset.parts[0], locked: true }, asset.parts[1]],
    };
    expect([...chosenParts(locked, [])]).toEqual(["body"]);
    expect([...chosenParts(asset, ["lid"])]).toEqual(["lid"]);
    expect(() => chosenParts(asset, ["foot"])).toThrow(/no part "foot"/);
  });

  it("show thousands apart", () => {
    expect(spaced(1234567)).toBe("1\u2009234\u2009567");
    expect(spaced(999)).toBe("999");
  });
});
