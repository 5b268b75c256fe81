import { PartsOptions } from "../../asset/parts-options";
import type { Asset } from "../../asset/asset";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { mapParts } from "../../asset/parts";
import { MissingInputError } from "../../base/errors";
import { Collapser } from "../../decimate/collapse";
import type { Mesh } from "../../mesh/mesh";
import { triangleCount } from "../../mesh/mesh";
import { gatherSoup, scatterSoup } from "../../decimate/soup";
import { triangulate } from "../../mesh/triangulate";
import type { Context } from "../../base/context";
import { defineOperation, field } from "../../asset/operation";
import { boundsOf, diagonalOf } from "../../space/bounds";
import type { Surface } from "../../space/deviation";
import { measureDeviation } from "../../space/deviation";
import { triangleArea } from "../../space/sample";

class LightenOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "Down to",
    help: "A share of the triangles, or as few as a deviation allows.",
    choices: [
      { value: "deviation", label: "a deviation" },
      { value: "share", label: "a share of the triangles" },
    ],
  })
  by: "deviation" | "share" = "deviation";

  @field({
    kind: "number",
    label: "Deviation",
    empty: "half a texel",
    help: "Farthest the surface may move; 0 takes half a texel of the brief's sheet, less than a map can show.",
    unit: "mm",
    min: 0,
    max: 1000,
    step: 0.01,
  })
  deviation = 0;

  @field({
    kind: "number",
    label: "Share",
    help: "Share of the triangles that stay.",
    unit: "%",
    min: 0.1,
    max: 100,
  })
  share = 25;
}

/** Each try keeps this share of the triangles of the one before. */
const STEP = 0.7;
/** Below this nothing is gained by less. */
const FEWEST = 2000;

export const lighten = defineOperation({
  id: "survey/lighten",
  stage: "survey",
  title: "Lighten a source",
  about:
    "Reduces a source that is denser than any map can show; the original is kept and can be put back.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: LightenOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const chosen = chosenParts(asset, options.parts);
    const limit = options.deviation / 1000 || halfTexel(asset);
    let before = 0;
    let after = 0;
    let farthest = 0;
    const next = mapParts(asset, (part) => {
      if (!part.source || !chosen.has(part.name)) return part;
      before += triangleCount(part.source);
      const made =
        options.by === "share"
          ? toShare(part.source, options.share / 100, context)
          : withinDeviation(part.source, limit, context);
      after += triangleCount(made.mesh);
      farthest = Math.max(farthest, made.deviation);
      return made.mesh === part.source
        ? part
        : { ...part, source: made.mesh, dense: part.dense ?? part.source };
    });
    return {
      asset: next,
      headline: "",
      report: {
        before,
        triangles: after,
        deviation: farthest,
        limit: options.by === "deviation" ? limit : null,
        summary: `${spaced(before)} triangles became ${spaced(after)}, at most ${(1000 * farthest).toFixed(3)} mm off`,
      },
    };
  },
});

/** Half the edge of a texel, metres, on the brief's sheet filled to three fifths. */
function halfTexel(asset: Asset): number {
  const { texelsPerMetre, sheetSize } = asset.brief;
  if (texelsPerMetre) return 0.5 / texelsPerMetre;
  let area = 0;
  for (const { source } of asset.parts) {
    if (!source) continue;
    const { vertices, faces } = triangulate(source);
    for (let t = 0; t < faces.length; t++)
      area += triangleArea(source.positions, vertices, t);
  }
  return (0.5 * Math.sqrt(area / 0.6)) / sheetSize;
}

interface Lightened {
  mesh: Mesh;
  /** Largest distance to the original, metres. */
  deviation: number;
}

const hooks = (context: Context) => ({
  check: () => context.check(),
  progress() {},
});

function toShare(mesh: Mesh, share: number, context: Context): Lightened {
  const budget = Math.max(4, Math.floor(share * triangleCount(mesh)));
  if (budget >= triangleCount(mesh)) return { mesh, deviation: 0 };
  const soup = gatherSoup([mesh]);
  const collapser = new Collapser(soup, 1);
  collapser.run(budget, hooks(context));
  const [light] = scatterSoup(soup, [mesh.materials]);
  if (!light) return { mesh, deviation: 0 };
  return { mesh: light, deviation: deviationOf(mesh, light) };
}

/** One run of collapses, stopped now and then to measure; the last state within the limit is taken. */
function withinDeviation(
  mesh: Mesh,
  limit: number,
  context: Context,
): Lightened {
  const soup = gatherSoup([mesh]);
  const collapser = new Collapser(soup, 1);
  let best: Lightened = { mesh, deviation: 0 };
  for (
    let wanted = triangleCount(mesh) * STEP;
    wanted > FEWEST;
    wanted *= STEP
  ) {
    context.check();
    context.progress(
      Math.min(0.95, 1 - wanted / triangleCount(mesh)),
      `trying ${spaced(wanted)} triangles`,
    );
    collapser.run(Math.floor(wanted), hooks(context));
    const [light] = scatterSoup(soup, [mesh.materials]);
    if (!light) break;
    const deviation = deviationOf(mesh, light);
    if (deviation > limit) break;
    best = { mesh: light, deviation };
  }
  return best;
}

const surfaceOf = (mesh: Mesh): Surface => ({
  positions: mesh.positions,
  triangles: triangulate(mesh).vertices,
});

const deviationOf = (dense: Mesh, light: Mesh) =>
  measureDeviation(surfaceOf(dense), surfaceOf(light)).max *
  diagonalOf(boundsOf(dense.positions));

export const restoreDense = defineOperation({
  id: "survey/restore-dense",
  stage: "survey",
  title: "Put the dense source back",
  about: "Undoes lightening and new skins, however long ago that was.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: PartsOptions,
  run(asset, options) {
    const chosen = chosenParts(asset, options.parts);
    let count = 0;
    const next = mapParts(asset, (part) => {
      if (!part.dense || !chosen.has(part.name)) return part;
      count++;
      return { ...part, source: part.dense, dense: null, skinned: false };
    });
    if (!count)
      throw new MissingInputError(
        "no chosen part has been lightened or skinned",
      );
    return {
      asset: next,
      headline: "",
      report: { restored: count, summary: `${count} sources are dense again` },
    };
  },
});
