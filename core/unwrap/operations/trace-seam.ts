import { partOf } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { MissingInputError, OptionsError } from "../../base/errors";
import { vertexCount } from "../../mesh/mesh";
import { defineOperation, field } from "../../asset/operation";
import { prepareUnwrap } from "../methods/chart";
import { reportUnwrap } from "../methods/report";
import { exposureOf, exposureRanks } from "../methods/seams/exposure";
import { tracePath } from "../methods/seams/trace";
import { sheetOf } from "../methods/sheet";
import { unfoldSeams } from "../methods/unfold-seams";

class TraceSeamOptions {
  @field({
    kind: "text",
    label: "Part",
    help: "Whose game mesh the seam runs over.",
  })
  part = "";

  @field({
    kind: "text",
    label: "Waypoints",
    help: "Vertices the seam goes through, parted by commas.",
    max: 4000,
  })
  through = "";

  @field({
    kind: "number",
    label: "Hide",
    help: "How much the way goes through what shows little.",
    min: 0,
    max: 1,
    step: 0.1,
  })
  hide = 0.5;
}

export const traceSeam = defineOperation({
  id: "unwrap/trace-seam",
  stage: "unwrap",
  title: "Trace a seam",
  about:
    "Sets a seam through waypoints, along the best path between them: creases, seams there are, and what shows little come first.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: TraceSeamOptions,
  run(asset, options, context) {
    const { game, locked } = partOf(asset, options.part);
    if (locked) throw new MissingInputError(`${options.part} is locked`);
    if (!game) throw new MissingInputError(`${options.part} has no game mesh`);
    const points = options.through
      .split(",")
      .filter((word) => word.trim())
      .map(Number);
    if (
      points.length < 2 ||
      points.some(
        (v) => !Number.isInteger(v) || v < 0 || v >= vertexCount(game),
      )
    )
      throw new OptionsError("unwrap/trace-seam", {
        through: `give two or more vertices from 0 to ${vertexCount(game) - 1}, parted by commas`,
      });
    const { areas } = prepareUnwrap(game);
    const [ranks] = exposureRanks(
      exposureOf([game], "standing", () => context.check()),
      [areas],
    );
    const m = prepareUnwrap(game, null, { ranks, hide: options.hide });
    const cuts =
      game.seamOverrides?.slice() ?? new Uint8Array(game.corners.length);
    const seams = game.seams?.slice() ?? new Uint8Array(game.corners.length);
    let count = 0;
    for (let k = 1; k < points.length; k++) {
      const path = tracePath(m, points[k - 1], points[k]);
      if (!path.length && points[k - 1] !== points[k])
        throw new MissingInputError(
          `no edges lead from vertex ${points[k - 1]} to ${points[k]}`,
        );
      for (const e of path) {
        count++;
        for (const c of [m.edges.first[e], m.edges.second[e]])
          if (c >= 0) cuts[c] = seams[c] = 1;
      }
    }
    const sheet = sheetOf(asset);
    const marked = { ...game, seamOverrides: cuts, seams };
    const next = mapParts(asset, (part) =>
      part.name === options.part
        ? { ...part, game: game.uvs ? unfoldSeams(marked, sheet).mesh : marked }
        : part,
    );
    const told = reportUnwrap(next, sheet, 0);
    return {
      asset: next,
      headline: told.headline,
      report: { ...told.report, edges: count },
    };
  },
});
