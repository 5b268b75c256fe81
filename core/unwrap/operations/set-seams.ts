import { chosenFaces } from "../../asset/chosen-faces";
import { requireMeshes, chosenParts } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { edgesByPart, marksOfEdges } from "../../asset/chosen-edges";
import { onGames } from "../../asset/other-mesh";
import { MissingInputError } from "../../base/errors";
import { edgesOfFaces } from "../../mesh/edges-of-faces";
import type { Mesh } from "../../mesh/mesh";
import { defineOperation, field } from "../../asset/operation";
import { chosenGames, IslandOptions } from "../methods/island-options";
import { reportUnwrap } from "../methods/report";
import { sheetOf } from "../methods/sheet";
import { unfoldSeams } from "../methods/unfold-seams";

export type SeamWish = "seam" | "no seam" | "as found" | "joined";

class SetSeamsOptions extends IslandOptions {
  @field({
    kind: "edges",
    label: "Edges",
    help: "Edges as part:vertex-vertex; where faces are chosen instead, those round them, or for “no seam” within them; where only parts are, all of theirs.",
  })
  edges: string[] = [];

  @field({
    kind: "choice",
    label: "Make them",
    help: "A seam parts the UVs, “no seam” forbids one, “joined” takes a seam away, “as found” forgets what was said.",
    choices: [
      { value: "seam", label: "seams" },
      { value: "joined", label: "joined" },
      { value: "no seam", label: "never seams" },
      { value: "as found", label: "as it comes" },
    ],
  })
  to: SeamWish = "seam";

  @field({
    kind: "flag",
    label: "Unfold",
    help: "Lays islands that change flat at once, beside where they were.",
  })
  unfold = true;
}

export const setSeams = defineOperation({
  id: "unwrap/set-seams",
  stage: "unwrap",
  title: "Set seams",
  about:
    "Sets, forbids or removes seams along chosen edges or round chosen faces, and unfolds what changes.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: SetSeamsOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    const wanted = new Map<string, Uint8Array>();
    for (const [name, keys] of edgesByPart(asset, options.edges)) {
      const { game } = asset.parts.find((part) => part.name === name)!;
      wanted.set(name, marksOfEdges(game!, name, keys));
    }
    if (options.faces.length)
      for (const { part, mesh, marks } of chosenFaces(
        asset,
        onGames(asset, options),
      ))
        wanted.set(
          part.name,
          edgesOfFaces(mesh, marks, options.to === "no seam"),
        );
    else if (!wanted.size && options.parts.length)
      for (const { name, mesh, marks } of chosenGames(asset, options, false))
        if (marks.some((mark) => mark))
          wanted.set(name, edgesOfFaces(mesh, marks, true));
    if (!wanted.size) throw new MissingInputError("no edges are chosen");
    const may = chosenParts(asset, []);
    let count = 0;
    const sheet = sheetOf(asset);
    const next = mapParts(asset, (part) => {
      const marks = wanted.get(part.name);
      if (!part.game || !marks || !may.has(part.name)) return part;
      const { mesh, changed } = markOn(part.game, marks, options.to);
      count += changed;
      const parts = options.to === "seam" || options.to === "joined";
      return {
        ...part,
        game:
          options.unfold && parts && part.game.uvs
            ? unfoldSeams(mesh, sheet).mesh
            : mesh,
      };
    });
    const told = reportUnwrap(next, sheet, 0);
    return {
      asset: next,
      headline: told.headline,
      report: { edges: count, to: options.to, ...told.report },
    };
  },
});

const CODES: Record<SeamWish, number> = {
  seam: 1,
  "no seam": 2,
  "as found": 0,
  joined: 0,
};

/** What an artist wants of edges, as `cuts`; seams that are set or joined show in `seams` at once. */
function markOn(mesh: Mesh, marks: Uint8Array, to: SeamWish) {
  const cuts =
    mesh.seamOverrides?.slice() ?? new Uint8Array(mesh.corners.length);
  const seams = mesh.seams?.slice() ?? new Uint8Array(mesh.corners.length);
  let changed = 0;
  marks.forEach((mark, c) => {
    if (!mark) return;
    cuts[c] = CODES[to];
    if (to === "seam") seams[c] = 1;
    if (to === "joined" || to === "no seam") seams[c] = 0;
    changed++;
  });
  return {
    mesh: {
      ...mesh,
      seamOverrides: cuts.some((mark) => mark) ? cuts : null,
      seams,
    },
    changed: changed / 2,
  };
}
