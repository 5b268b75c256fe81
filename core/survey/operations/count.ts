import { foresee } from "../../asset/foresee";
import { INPUTS } from "../../asset/stale";
import { PartsOptions } from "../../asset/parts-options";
import type { Asset } from "../../asset/asset";
import { requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { MissingInputError } from "../../base/errors";
import { defineOperation, field } from "../../asset/operation";
import { spanOf } from "../../base/context";
import type { Context } from "../../base/context";
import { boundsOf, diagonalOf } from "../../space/bounds";
import type { FoundDefect } from "../methods/finding";
import { findFloaters } from "../../asset/floaters";
import { findGaps } from "../methods/gaps";
import type { MeshAnalysis } from "../../mesh/mesh-analysis";
import type { Piece } from "../../asset/pieces";
import { PieceDistances, piecesOf } from "../../asset/pieces";
import { familiesOf } from "../methods/repeat-families";
import { edgeLengths } from "../methods/shape-figures";
import type { MeshSurvey } from "../methods/survey-mesh";
import { surveyMesh } from "../methods/survey-mesh";

/** Sources of so many triangles are collapsed in about a second. */
const LIGHT = 300_000;

class SurveyOptions extends PartsOptions {
  @field({
    kind: "number",
    label: "Tolerance",
    help: "Vertices nearer than this count as coincident, pieces this alike as repeats.",
    unit: "mm",
    min: 0,
    max: 100,
    step: 0.01,
  })
  tolerance = 0.01;

  @field({
    kind: "number",
    label: "Gaps up to",
    empty: "½ % of the asset",
    help: "Pieces this near without touching were meant to touch; 0 takes half a percent of the asset.",
    unit: "mm",
    min: 0,
    max: 1000,
    folded: true,
  })
  gap = 0;

  @field({
    kind: "flag",
    label: "Self-intersections",
    help: "Looks for faces that pass through their own piece; takes longest.",
    folded: true,
  })
  crossings = true;

  @field({
    kind: "flag",
    label: "Floaters, gaps and repeats",
    help: "Compares the pieces with each other.",
    folded: true,
  })
  pieces = true;

  @field({
    kind: "choice",
    label: "Where shapes break",
    help: "Collapses the sources once, to say before they are reduced below how many triangles shapes break.",
    choices: [
      { value: "light", label: `up to ${spaced(LIGHT)} triangles` },
      { value: "always", label: "always looked for" },
      { value: "never", label: "not looked for" },
    ],
    folded: true,
  })
  ahead: "light" | "always" | "never" = "light";
}

export interface PartSurvey extends MeshSurvey {
  part: string;
}

/**
 * Where shapes break hangs on more than the rest of a survey: kept with it, and no longer told once one of these has
 * changed. Parts that got shapes since, or are only baked, are seen to.
 */
const FORESEEN = INPUTS.reduce.filter(
  (name) =>
    name !== "triangle budget" &&
    name !== "stand-in shapes" &&
    name !== "what is only baked",
);

/** Most gaps that a report lists. */
const MOST_LISTED = 200;

export const countParts = defineOperation({
  id: "survey/count",
  stage: "survey",
  title: "Survey the source",
  about:
    "Counts, defects and where they are, shading, floating detail, gaps and repeats.",
  runs: "heavy",
  takes: "source",
  makesResult: true,
  tellsOf: FORESEEN,
  Options: SurveyOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    for (const name of options.parts)
      if (!asset.parts.some((part) => part.name === name))
        throw new MissingInputError(`there is no part "${name}"`);
    const parts: PartSurvey[] = [];
    const findings: FoundDefect[] = [...fromReading(asset)];
    const looks: MeshAnalysis[] = [];
    asset.parts.forEach((part, i) => {
      context.check();
      context.progress(
        (0.7 * i) / asset.parts.length,
        `looking ${part.name} over`,
      );
      if (!part.source || part.repeat) return;
      if (options.parts.length && !options.parts.includes(part.name)) return;
      const found = surveyMesh(
        part.name,
        part.source,
        options.tolerance / 1000,
        options.crossings,
        context.check,
      );
      parts.push({ part: part.name, ...found.survey });
      findings.push(...found.findings);
      looks.push(found.look);
    });
    if (!parts.length)
      throw new MissingInputError(
        "none of the chosen parts has a source mesh of its own; repeats are surveyed with the part that they repeat",
      );
    const total = totalOf(parts, findings);
    const defects = findings
      // What reading settled has no place left to look at, and open borders may be meant.
      .filter(({ kind, places }) => kind !== "borders" && places.length > 0)
      .reduce((sum, { count }) => sum + count, 0);
    const { triangles: budget } = asset.brief;
    const most = { light: LIGHT, always: Infinity, never: 0 }[options.ahead];
    // Parts share the budget: of some of them alone there is nothing to foresee.
    const knee =
      !options.parts.length &&
      total.triangles > budget &&
      total.triangles <= most
        ? {
            ...foresee(asset, budget, spanOf(context, 0.7, 0.85)),
            kneeFor: budget,
          }
        : null;
    const lengths = edgeLengths(looks, total.shortestEdge, total.longestEdge);
    return {
      asset,
      headline: defects ? `${spaced(defects)} defects` : "clean",
      report: {
        ...total,
        defects,
        findings,
        edgeLengths: lengths,
        ...(options.pieces
          ? comparePieces(asset, options, context)
          : { floaters: [], gaps: [], repeats: [] }),
        ...knee,
        perPart: parts,
      },
    };
  },
});

/** What reading the files already mended or wrote into the vertices: found, with nothing left to mend. */
function fromReading(asset: Asset): FoundDefect[] {
  const read = (asset.results.intake?.report.found ?? []) as FoundDefect[];
  return read.filter(({ part }) =>
    asset.parts.some((each) => each.name === part),
  );
}

function comparePieces(asset: Asset, options: SurveyOptions, context: Context) {
  const { diagonal, pieces } = piecesAndSize(asset);
  context.progress(0.86, "comparing pieces");
  const repeats = familiesOf(
    asset,
    pieces,
    options.tolerance / 1000,
    context.check,
  );
  if (pieces.length < 2) return { floaters: [], gaps: [], repeats };
  const distances = new PieceDistances(pieces);
  context.progress(0.9, "looking for floating detail");
  const { groups } = findFloaters(pieces, distances, context.check);
  context.progress(0.94, "looking for gaps");
  const gaps = findGaps(
    pieces,
    distances,
    options.gap / 1000 || 0.005 * diagonal,
    context.check,
  );
  return {
    floaters: groups,
    repeats,
    gapCount: gaps.length,
    gaps: gaps.slice(0, MOST_LISTED).map(({ vertices, ...gap }) => ({
      ...gap,
      count: vertices.length,
    })),
  };
}

/** The pieces of an asset and the diagonal of all of it. */
export function piecesAndSize(asset: Asset): {
  pieces: Piece[];
  diagonal: number;
} {
  return {
    pieces: piecesOf(asset),
    diagonal: diagonalOf(
      boundsOf(
        ...asset.parts.flatMap((part) =>
          part.source ? [part.source.positions] : [],
        ),
      ),
    ),
  };
}

function totalOf(
  parts: readonly PartSurvey[],
  findings: readonly FoundDefect[],
) {
  const sum = (key: keyof MeshSurvey) =>
    parts.reduce(
      (total, part) => total + ((part[key] as number | null) ?? 0),
      0,
    );
  const looked = parts.some((part) => part.selfIntersections !== null);
  const read = (kind: string) =>
    findings
      .filter((finding) => finding.kind === kind && !finding.places.length)
      .reduce((total, { count }) => total + count, 0);
  return {
    parts: parts.length,
    triangles: sum("triangles"),
    threes: sum("threes"),
    quads: sum("quads"),
    ngons: sum("ngons"),
    vertices: sum("vertices"),
    borderEdges: sum("borderEdges"),
    nonManifoldEdges: sum("nonManifoldEdges"),
    nonManifoldVertices: sum("nonManifoldVertices"),
    degenerateFaces: sum("degenerateFaces") + read("zeroArea"),
    flippedFaces: sum("flippedFaces"),
    duplicateVertices: sum("duplicateVertices"),
    duplicateFaces: sum("duplicateFaces"),
    looseVertices: sum("looseVertices"),
    selfIntersections: looked ? sum("selfIntersections") : null,
    crossingPieces: looked ? sum("crossingPieces") : null,
    disagreeingNormals: sum("disagreeingNormals"),
    nodeScales: findings.filter(({ kind }) => kind === "nodeScale").length,
    nameClashes: findings.filter(({ kind }) => kind === "names").length,
    slivers: sum("slivers"),
    shortestEdge: parts.reduce(
      (least, part) => Math.min(least, part.shortestEdge),
      Infinity,
    ),
    longestEdge: parts.reduce(
      (most, part) => Math.max(most, part.longestEdge),
      0,
    ),
    components: sum("components"),
    closed: parts.length > 0 && parts.every((part) => part.closed),
  };
}
