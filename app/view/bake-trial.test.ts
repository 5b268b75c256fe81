import type { Texture } from "three";
import { beforeEach, describe, expect, it } from "vitest";
import { cube } from "../../tests/shapes";
import { createAsset, createPart } from "../../core/asset/asset";
import { toDocument } from "../../core/asset/document";
import type { BakedKind, BakedMap } from "../../core/base/pictures";
import type { BakeTrialFigures, FromView } from "../shared/messages";
import type {
  BakeTrialInput,
  BakeTrialOutput,
  BakeTrialWorker,
} from "./bake-trial";
import { BakeTrial } from "./bake-trial";

const document = toDocument(
  createAsset("pot", [
    createPart("lid", 0, { source: cube(), game: cube() }),
    createPart("knob", 1, {
      game: cube(),
      repeat: { of: "lid", matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0] },
    }),
    createPart("body", 2, { source: cube(), game: cube() }),
  ]),
  () => {},
);
const figures: BakeTrialFigures = {
  ...{ width: 2, height: 2, missed: 0, overhanging: 0, last: false },
  ...{ full: 4, light: false, milliseconds: 1 },
};
const map = (kind: BakedKind, ink: number, tile = 0): BakedMap => ({
  ...{ kind, width: 2, height: 2, channels: kind === "normal" ? 3 : 1 },
  ...{ depth: 8, tile },
  pixels: new Uint8Array(kind === "normal" ? 12 : 4).fill(ink),
});

const imageOf = (texture: Texture | null) =>
  texture!.image as { width: number; data: Uint8Array };

let asked: BakeTrialInput[] = [];
let told: FromView[] = [];
let ended = 0;
let changes = 0;
let worker: BakeTrialWorker;
const made = () =>
  new BakeTrial(
    () =>
      (worker = {
        postMessage: (input) => asked.push(input),
        terminate: () => ended++,
        onmessage: null,
      }),
    (message) => told.push(message),
    () => changes++,
  );
const answers = (output: BakeTrialOutput) =>
  worker.onmessage!({ data: output } as MessageEvent<BakeTrialOutput>);
const wish = (parts: string[] = [], distance = 0) => ({
  options: { distance },
  parts,
});

beforeEach(() => {
  asked = [];
  told = [];
  ended = changes = 0;
});

describe("a bake that is tried in the view", () => {
  it("is asked for once, and anew where a setting, the choice or the document changes", () => {
    const trial = made();
    trial.want(document, wish());
    trial.want(document, wish());
    expect(asked.length).toBe(1);
    trial.want(document, wish([], 2));
    trial.want(document, wish(["lid"], 2));
    trial.want({ ...document }, wish(["lid"], 2));
    expect(asked.map(({ turn }) => turn)).toEqual([1, 2, 3, 4]);
    expect(asked[3]).toMatchObject({
      parts: ["lid"],
      options: { distance: 2 },
    });
  });

  it("shows the newest alone, on the chosen parts and on what repeats them", () => {
    const trial = made();
    trial.want(document, wish());
    trial.want(document, wish(["knob"]));
    answers({ kind: "maps", turn: 1, maps: [map("normal", 9)], figures });
    expect([trial.normal, changes]).toEqual([null, 0]);
    expect(trial.shows("lid")).toBe(false);
    answers({ kind: "maps", turn: 2, maps: [map("normal", 7)], figures });
    expect(imageOf(trial.normal).data[0]).toBe(7);
    expect(trial.picture).not.toBeNull();
    expect(["lid", "knob", "body"].map((name) => trial.shows(name))).toEqual([
      ...[true, true],
      false,
    ]);
    expect(told).toEqual([{ kind: "bake-trial", figures, refused: "" }]);
  });

  it("has masks of cards, and sheets side by side", () => {
    const trial = made();
    trial.want(document, wish());
    const maps = [map("normal", 7), map("normal", 8, 1), map("opacity", 255)];
    answers({ kind: "maps", turn: 1, maps, figures });
    expect(imageOf(trial.normal).width).toBe(4);
    expect(imageOf(trial.normal).data[8]).toBe(8);
    expect(imageOf(trial.opacity).width).toBe(2);
    expect(trial.shows("body")).toBe(true);
  });

  it("says why it can't be tried, and keeps what it showed", () => {
    const trial = made();
    trial.want(document, wish());
    answers({ kind: "maps", turn: 1, maps: [map("normal", 7)], figures });
    trial.want(document, wish([], 3));
    answers({ kind: "failed", turn: 2, message: "no UVs" });
    expect(told.at(-1)).toEqual({
      ...{ kind: "bake-trial", figures: null, refused: "no UVs" },
    });
    expect(trial.shows("lid")).toBe(true);
  });

  it("ends with its worker, and shows what was baked again", () => {
    const trial = made();
    trial.want(document, null);
    expect([asked.length, ended, told.length]).toEqual([0, 0, 0]);
    trial.want(document, wish());
    const { onmessage } = worker;
    answers({ kind: "maps", turn: 1, maps: [map("normal", 7)], figures });
    trial.want(document, null);
    expect([ended, changes, trial.normal]).toEqual([1, 2, null]);
    onmessage!({
      data: { kind: "maps", turn: 1, maps: [map("normal", 7)], figures },
    } as MessageEvent<BakeTrialOutput>);
    expect(trial.normal).toBeNull();
  });
});
