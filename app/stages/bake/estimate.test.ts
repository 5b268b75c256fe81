import { describe, expect, it } from "vitest";
import { createAsset, createPart } from "../../../core/asset/asset";
import { toDocument } from "../../../core/asset/document";
import type { AssetDocument } from "../../../core/asset/document";
import { sphere } from "../../../tests/shapes";
import { estimateWords } from "./estimate";

const plain = (text: string) => text.replace(/[\u2009\u00a0\u202f]/g, " ");
const options = { normal: true, ao: true, also: [], rays: 64, samples: 2 };

/** Two parts that fill a fifth and half of the sheet; baked before as `bake` says. */
function document(bake?: object): AssetDocument {
  const ball = sphere(60, 80);
  const made = toDocument(
    createAsset("pot", [
      createPart("lid", 0, { source: ball, game: sphere(6, 8) }),
      createPart("body", 1, { source: ball, game: sphere(6, 8) }),
    ]),
    () => {},
  );
  const parts = [
    { part: "lid", share: 0.2 },
    { part: "body", share: 0.5 },
  ];
  return {
    ...made,
    results: {
      unwrap: { report: { fill: 0.7, parts } },
      ...(bake && { bake: { options, report: bake } }),
    } as never,
  };
}
const words = (of: AssetDocument, more = {}, parts: string[] = []) =>
  plain(estimateWords(of, { ...options, ...more }, parts, 2));
const seconds = (text: string) => {
  const [, minutes, rest] = /about (?:(\d+) min ?)?(?:([\d.]+) s)?/.exec(text)!;
  return 60 * Number(minutes ?? 0) + Number(rest ?? 0);
};

describe("the words of what a bake will take", () => {
  it("say time and memory in two digits, of all or of what is chosen", () => {
    expect(words(document())).toMatch(
      /^A whole bake takes about \d\d s and \d{3} MB of memory\.$/,
    );
    const lid = words(document(), {}, ["lid"]);
    expect(lid).toMatch(/^The chosen parts take/);
    expect(seconds(lid)).toBeLessThan(0.5 * seconds(words(document())));
  });

  it("follow the settings", () => {
    const whole = seconds(words(document()));
    expect(seconds(words(document(), { fraction: "4" }))).toBeLessThan(
      0.2 * whole,
    );
    expect(seconds(words(document(), { rays: 256 }))).toBeGreaterThan(
      2 * whole,
    );
    expect(seconds(words(document(), { ao: false }))).toBeLessThan(0.4 * whole);
    expect(seconds(words(document(), { also: ["thickness"] }))).toBeGreaterThan(
      1.3 * whole,
    );
    expect(words(document(), { depth: "8" })).not.toBe(words(document()));
  });

  it("go by the pace of a whole bake before, and not by one of some maps or parts", () => {
    const whole = seconds(words(document()));
    const before = {
      ...{ seconds: 1.6 * whole, maps: ["normal", "ao"] },
      ...{ bakedMaps: ["normal", "ao", "status"] },
      ...{ baked: ["lid", "body"], counts: [{}, {}] },
    };
    const slow = seconds(words(document(before)));
    expect(slow / whole).toBeGreaterThan(1.4);
    for (const more of [
      { baked: ["lid"] },
      { bakedMaps: ["ao"] },
      { maps: [] },
    ])
      expect(seconds(words(document({ ...before, ...more })))).toBe(whole);
  });

  it("are none before anything is laid out", () => {
    expect(words({ ...document(), results: {} })).toBe("");
  });
});
