import { FaceOptions, MESH_OF_FACES } from "../../asset/chosen-faces";
import { mapParts } from "../../asset/parts";
import { MissingInputError } from "../../base/errors";
import { edgesOfFaces } from "../../mesh/edges-of-faces";
import { defineOperation, field } from "../../asset/operation";
import { prepareUnwrap } from "../methods/chart";
import { chosenGames } from "../methods/island-options";
import { reportUnwrap } from "../methods/report";
import { regionAt } from "../methods/seams/trace";
import { sheetOf } from "../methods/sheet";
import { unfoldSeams } from "../methods/unfold-seams";

class CutOutOptions extends FaceOptions {
  @field(MESH_OF_FACES)
  override mesh: "source" | "game" = "game";
}

export const cutOut = defineOperation({
  id: "unwrap/cut-out",
  stage: "unwrap",
  title: "Cut a region out",
  about:
    "Sets seams round the cap, pocket or lobe that each chosen face belongs to: up to sharp edges, or up to the neck.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: CutOutOptions,
  run(asset, options, context) {
    if (!options.faces.length)
      throw new MissingInputError("choose a face of what is to be cut out");
    const games = chosenGames(asset, { ...options, parts: [] }, false).filter(
      ({ marks }) => marks.some((mark) => mark),
    );
    const sheet = sheetOf(asset);
    let regions = 0;
    const made = new Map(
      games.map(({ name, mesh, marks }) => {
        const m = prepareUnwrap(mesh);
        const cuts =
          mesh.seamOverrides?.slice() ?? new Uint8Array(mesh.corners.length);
        const seams =
          mesh.seams?.slice() ?? new Uint8Array(mesh.corners.length);
        const done = new Uint8Array(marks.length);
        marks.forEach((mark, f) => {
          if (!mark || done[f]) return;
          context.check();
          const region = regionAt(m, f);
          if (!region) return;
          regions++;
          const own = new Uint8Array(marks.length);
          for (const each of region) own[each] = done[each] = 1;
          edgesOfFaces(mesh, own, false).forEach((edge, c) => {
            if (edge) cuts[c] = seams[c] = 1;
          });
        });
        const marked = { ...mesh, seamOverrides: cuts, seams };
        return [
          name,
          mesh.uvs ? unfoldSeams(marked, sheet).mesh : marked,
        ] as const;
      }),
    );
    if (!regions)
      throw new MissingInputError(
        "no region ends near the chosen faces: neither sharp edges nor a neck",
      );
    const next = mapParts(asset, (part) =>
      made.has(part.name) ? { ...part, game: made.get(part.name)! } : part,
    );
    const told = reportUnwrap(next, sheet, 0);
    return {
      asset: next,
      headline: told.headline,
      report: { ...told.report, regions },
    };
  },
});
