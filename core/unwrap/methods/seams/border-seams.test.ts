import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../../tests/laid";
import { sphere } from "../../../../tests/shapes";
import type { Asset } from "../../../asset/asset";
import { createAsset, createPart } from "../../../asset/asset";
import { buildEdges } from "../../../mesh/edges";
import { edgesOfFaces } from "../../../mesh/edges-of-faces";
import type { Mesh } from "../../../mesh/mesh";
import { faceCount, faceOfCorners } from "../../../mesh/mesh";
import { meshFromTriangles } from "../../../mesh/change-faces";
import { plainContext } from "../../../base/context";
import { findOperation } from "../../../operations";
import { runOperation } from "../../../route";

const context = plainContext();
const run = (asset: Asset, id: string, options: object) =>
  runOperation(findOperation(id), asset, options, context);

/** A ball with a square of another material on one side, another ID on the other, and a hard square between. */
function ball(): Mesh {
  const mesh = sphere(12, 16);
  const square = (at: number) =>
    [0, 1, 16, 17].map((step) => 16 * 5 + at + step);
  const faceMaterials = new Uint16Array(faceCount(mesh));
  const ids = new Uint16Array(faceCount(mesh));
  const folds = new Uint8Array(faceCount(mesh));
  for (const f of square(2)) faceMaterials[f] = 1;
  for (const f of square(6)) ids[f] = 1;
  for (const f of square(10)) folds[f] = 1;
  return {
    ...mesh,
    materials: ["bone", "rope"],
    faceMaterials,
    ids,
    hard: edgesOfFaces(mesh, folds, false),
  };
}

/** Edges at which each kind of border lies and UVs run on. */
function joinedAt(mesh: Mesh) {
  const edges = buildEdges(mesh);
  const face = faceOfCorners(mesh);
  const count = { materials: 0, ids: 0, hard: 0 };
  for (let e = 0; e < edges.count; e++) {
    const [c, d] = [edges.first[e], edges.second[e]];
    if (d < 0 || mesh.seams![c]) continue;
    const [f, g] = [face[c], face[d]];
    if (mesh.faceMaterials![f] !== mesh.faceMaterials![g]) count.materials++;
    if (mesh.ids![f] !== mesh.ids![g]) count.ids++;
    if (mesh.hard![c]) count.hard++;
  }
  return count;
}

const assetOf = (game: Mesh): Asset => {
  const asset = createAsset("float", [createPart("ball", 0, { game })]);
  return { ...asset, brief: { ...asset.brief, sheetSize: 256, padding: 2 } };
};

describe("seams along borders", () => {
  it("come with unwrapping: material borders unless refused, ID borders where asked for", async () => {
    const wanted: [object, (keyof ReturnType<typeof joinedAt>)[]][] = [
      [{}, ["materials", "hard"]],
      [{ atIds: true }, ["materials", "ids", "hard"]],
      [{ atMaterials: false }, ["hard"]],
    ];
    for (const [options, parted] of wanted) {
      const { asset } = await run(assetOf(ball()), "unwrap/unwrap", {
        ...{ rounds: 1, symmetric: false },
        ...options,
      });
      const left = joinedAt(asset.parts[0].game!);
      for (const kind of ["materials", "ids", "hard"] as const)
        if (parted.includes(kind)) expect(left[kind], kind).toBe(0);
        else expect(left[kind], kind).toBeGreaterThan(0);
      const { report } = asset.results.unwrap!;
      expect(report).toMatchObject({ overlap: 0, flipped: 0 });
    }
  });

  it("are split where UVs lie already, and nothing else is", async () => {
    const laid = laidOn([{ ...ball() }], squareSheet(256))[0];
    const before = joinedAt(laid);
    const split = await run(assetOf(laid), "unwrap/split-at", {
      hard: false,
      materials: true,
      ids: true,
    });
    expect(split.report.split).toBe(before.materials + before.ids);
    expect(joinedAt(split.asset.parts[0].game!)).toEqual({
      materials: 0,
      ids: 0,
      hard: before.hard,
    });
    // Where three faces meet UVs part anyhow: that is no border to be split.
    const three = meshFromTriangles(
      Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, -1, 0),
      Uint32Array.of(0, 1, 2, 1, 0, 3, 0, 1, 4),
    );
    const [fan] = laidOn([three], squareSheet(64));
    await expect(
      run(
        assetOf({ ...fan, seams: null, ids: Uint16Array.of(1, 2, 3) }),
        "unwrap/split-at",
        { hard: false, ids: true },
      ),
    ).rejects.toThrow("split already");
    await expect(
      run(split.asset, "unwrap/split-at", { hard: false, ids: true }),
    ).rejects.toThrow("every ID border is a UV split already");
  });
});
