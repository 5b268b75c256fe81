import { describe, expect, it } from "vitest";
import { cube, moved, sphere } from "../../tests/shapes";
import type { Asset, Part } from "../../core/asset/asset";
import { createAsset, createPart } from "../../core/asset/asset";
import type { AssetDocument } from "../../core/asset/document";
import { toDocument } from "../../core/asset/document";
import { streamsIn, trialDocument } from "./trial-document";

const mesh = (x: number) => moved(cube(), x, 0, 0);
const light = sphere(6, 8);

/** A lid, a body with a light stand-in, a knob that repeats the lid, and rivets that are only baked. */
function document(more: Partial<Asset> = {}, body: Partial<Part> = {}) {
  const parts = [
    createPart("lid", 0, { source: mesh(1), game: mesh(2) }),
    createPart("body", 1, {
      ...{ source: mesh(3), light, game: mesh(4), levels: [mesh(5)] },
      ...body,
    }),
    createPart("knob", 2, {
      source: mesh(6),
      game: mesh(7),
      repeat: { of: "lid", matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0] },
    }),
    createPart("rivets", 3, { source: mesh(8) }),
  ];
  return toDocument({ ...createAsset("pot", parts), ...more }, () => {});
}
/** Which meshes a document names, by part. */
const meshesOf = ({ parts }: AssetDocument) =>
  Object.fromEntries(
    parts.map(({ name, source, game }) => [
      name,
      `${source ? "source" : ""} ${game ? "game" : ""}`.trim(),
    ]),
  );
const trial = (parts: string[] = [], options = {}, of = document()) =>
  trialDocument(of, options, parts);

describe("what a trial of a bake loads", () => {
  it("is all that can be baked where nothing is chosen, and nothing else", () => {
    const made = trial();
    expect(made).toMatchObject({ only: [], light: false });
    expect(meshesOf(made.document)).toEqual({
      ...{ lid: "source game", body: "source game" },
      ...{ knob: "source game", rivets: "source" },
    });
    const [, body] = document().parts;
    const named = streamsIn(made.document);
    expect(named).toContain(body.source!.streams.positions!.hash);
    for (const other of [body.light!, body.levels[0]])
      expect(named).not.toContain(other.streams.positions!.hash);
  });

  it("is the chosen parts, what is only baked, and what they catch", () => {
    expect(meshesOf(trial(["body"]).document)).toEqual({
      ...{ lid: "", body: "source game", knob: "", rivets: "source" },
    });
    const catches = { catches: "body: lid" };
    expect(meshesOf(trial(["body"], catches).document).lid).toBe("source game");
    // A repeat is worked at the part that it repeats.
    expect(trial(["knob"]).only).toEqual(["lid"]);
    expect(meshesOf(trial(["knob"]).document).lid).toBe("source game");
  });

  it("is all parts where they are spread: what is only baked goes with one of them", () => {
    const spread = trial(["body"], { spread: true });
    expect(spread.only).toEqual(["body"]);
    expect(meshesOf(spread.document).lid).toBe("source game");
  });

  it("takes light meshes for sources that are too much for a page", () => {
    const [, body] = document().parts;
    const heavy = document();
    heavy.parts[1].source!.triangles = 3e6;
    const made = trial([], {}, heavy);
    expect(made.light).toBe(true);
    const [, taken] = made.document.parts;
    expect(taken.source!.streams.positions!.hash).toBe(
      body.light!.streams.positions!.hash,
    );
    expect(taken.settled).toEqual({ mesh: null, faces: null, done: [] });
    expect(trial(["lid"], {}, heavy).light).toBe(false);
  });

  it("takes what lies under a new skin as it is", () => {
    const skinned = document({}, { dense: mesh(9), skinned: true });
    skinned.parts[1].dense!.triangles = 3e6;
    const { document: made, light: isLight } = trial([], {}, skinned);
    expect(isLight).toBe(false);
    expect(made.parts[1].dense!.streams.positions!.hash).toBe(
      skinned.parts[1].dense!.streams.positions!.hash,
    );
  });
});
