import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { KeptExtras } from "./kept-extras";
import { readKept, writeKept } from "./kept-extras";
import { writePng } from "./png";

const bytes = writePng({
  ...{ kind: "ao", width: 2, height: 3, channels: 1, depth: 8 },
  pixels: new Uint8Array(6).fill(9),
});
const picture = {
  ...{ name: "front.png", width: 2, height: 3, bytes },
  kind: "png",
} as const;
const KEPT: KeptExtras = {
  palette: [{ name: "rope", colour: "#aabbcc" }],
  repeats: [
    {
      part: "peg 2",
      of: "peg",
      matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 3, 0, -2.5, 1],
    },
  ],
  references: [
    { ...picture, plane: "side", size: 1.5, at: [0, 1, -2], opacity: 0.4 },
  ],
  painted: picture,
};
const NOTHING = { palette: [], repeats: [], references: [], painted: null };
const throughText = (said: unknown) =>
  readKept({ arnik: JSON.parse(JSON.stringify(said)) as unknown });

describe("what a file keeps of an asset besides its meshes", () => {
  it("comes back as it was, and is nothing where there is nothing to say", () => {
    expect(throughText(writeKept(KEPT))).toEqual(KEPT);
    expect(writeKept(NOTHING)).toBe(undefined);
    for (const extras of [undefined, null, 7, "arnik", [], { arnik: 3 }])
      expect(readKept(extras)).toEqual(NOTHING);
  });

  it("is left out where it is not sound, entry by entry", () => {
    const said = writeKept(KEPT)!;
    const spoilt: [keyof KeptExtras, unknown[]][] = [
      ["repeats", [{ matrix: [1] }, { of: "peg 2" }, { part: "" }, { of: 4 }]],
      ["repeats", [{ matrix: new Array(16).fill(null) }]],
      [
        "references",
        [
          { plane: "under" },
          { size: 0 },
          { size: 1e9 },
          { at: [0, 1] },
          { at: [0, "1", 2] },
          { opacity: 2 },
          { picture: "no picture" },
          { picture: btoa("no picture") },
          { picture: 5 },
          { name: "x".repeat(81) },
        ],
      ],
    ];
    for (const [list, changes] of spoilt)
      for (const change of changes) {
        const [sound] = said[list] as object[];
        const both = {
          ...said,
          [list]: [{ ...sound, ...(change as object) }, sound],
        };
        expect(throughText(both), JSON.stringify(change)).toEqual(KEPT);
      }
    // Numbers of IDs would slip.
    const palette = [...KEPT.palette, { name: "x", colour: "red" }];
    expect(throughText({ ...said, palette }).palette).toEqual([]);
    const many = new Array(10_001).fill(KEPT.repeats[0]);
    expect(throughText({ repeats: many }).repeats).toEqual([]);
  });

  it("never throws, whatever stands there", () => {
    fc.assert(
      fc.property(fc.jsonValue(), fc.jsonValue(), (a, b) => {
        const kept = readKept({
          arnik: { palette: a, repeats: [b], references: [a, b], painted: b },
        });
        expect(kept.references).toEqual([]);
      }),
      { numRuns: 200 },
    );
  });
});
