import { counted, length, percent, spaced, time } from "../../shared/figures";
import type { TooSmallCounts } from "../../../core/decimate/too-small";
import { tooSmallWords } from "../../../core/decimate/too-small";
import type { UnbrokenCounts } from "../../../core/reduce/methods/broken-words";
import { unbrokenWords } from "../../../core/reduce/methods/broken-words";
import type { ClingFinding } from "../../../core/reduce/operations/cling";
import type { FigureRow, Finding } from "../../shared/figures";
import type { Judgement } from "../../../core/reduce/operations/judge";
import { agedBy } from "../../../core/asset/stale";
import type { BenchPlan } from "../../shared/bench";
import { needSource, numbersOf } from "../../shared/bench";
import { judgementOf } from "./figures";
import { foreseenRows, kneeRows, lastOptions } from "../knee-row";
import type { AssetState } from "../../shared/types";
import type { Place } from "../../shared/messages";

export const reduce: BenchPlan = {
  about: "The best game meshes that the budget can buy.",
  main: "reduce/to-budget",
  more: ["intake/part-rules"],
  groups: [
    {
      title: "Other ways to a low mesh",
      operations: [
        "reduce/thin-loops",
        "reduce/loops",
        "reduce/even-quads",
        "reduce/skin-over",
        "reduce/stand-in",
        "reduce/cling",
        "reduce/mend-cling",
      ],
    },
    {
      title: "Density",
      operations: ["reduce/paint-density", "reduce/compute-density"],
    },
    {
      title: "Leave out",
      operations: ["reduce/find-spares", "reduce/try-both", "reduce/leave-out"],
    },
    { title: "Levels of detail", operations: ["reduce/levels"] },
  ],
  missing: needSource,
  figures({ document }, { report }) {
    const triangles = document.parts.reduce(
      (sum, { game }) => sum + (game?.triangles ?? 0),
      0,
    );
    const budget = document.brief.triangles;
    return [
      {
        label: "Triangles",
        value: spaced(triangles),
        limit: `≤ ${spaced(budget)}`,
        state: triangles > budget ? "bad" : "good",
      },
      ...judgedRows(judgementOf(document)),
      { label: "Time", value: time(Number(report.seconds ?? 0)) },
    ];
  },
  findings(asset) {
    const made: ToBudget = asset.document.results.reduce?.report ?? {};
    const hidden = hiddenNames(made);
    // A part without a curve was not worked: it is for the source only, locked, or a repeat.
    const worked = (made.parts ?? []).filter(({ curve }) => curve);
    const dropped = asset.document.parts
      .filter(
        ({ name, game }) =>
          !game &&
          worked.some(({ part }) => part === name) &&
          !hidden.includes(name) &&
          !made.unbroken?.baked.includes(name),
      )
      .map((part): Finding => ({
        tone: "warn",
        text: `${part.name} is too small for this budget: it is baked only. A budget of its own brings it back`,
        parts: [part.name],
        mend: {
          label: "Stand-in shape",
          operation: "reduce/stand-in",
          options: { parts: [part.name] },
        },
      }));
    const report = agedBy(asset.document, "reduce/cling")
      ? {}
      : (asset.document.reports["reduce/cling"]?.report ?? {});
    return [
      ...promiseRows(asset, made),
      ...dropped,
      ...((report.findings ?? []) as ClingFinding[]).map((found) =>
        clingRow(found, report),
      ),
    ];
  },
};

/** How well the game meshes stand for their sources; that nobody knows once either has changed. */
function judgedRows(judged: Partial<Judgement> | null): FigureRow[] {
  if (!judged) return [{ label: "Distance", value: "not judged as it is" }];
  const n = numbersOf(judged as Record<string, unknown>);
  return [
    {
      label: "Distance, rms",
      value: length(n("rms") * n("diagonal")),
      limit: `${percent(n("rms"), 3)} of the diagonal`,
    },
    {
      label: "Distance, largest",
      value: length(n("max") * n("diagonal")),
      limit: percent(n("max"), 2),
    },
    {
      label: "Normals, mean",
      value: `${n("normalMean").toFixed(1)}°`,
      limit: `95 %: ${n("normal95").toFixed(1)}°`,
    },
    {
      label: "Silhouette",
      value: percent(n("silhouetteMean"), 2),
      limit: `worst ${percent(n("silhouetteMax"), 2)}`,
    },
    {
      label: "Slivers",
      value: percent(n("slivers"), 2),
      limit: "≤ 2 %",
      state: n("slivers") > 0.02 ? "warn" : "good",
    },
    { label: "Unevenness", value: n("unevenness").toFixed(2) },
    ...("quads" in judged
      ? [{ label: "Quads", value: percent(n("quads"), 1) }]
      : []),
  ];
}

interface ToBudget {
  failed?: string;
  budget?: number;
  knee?: number | null;
  breaking?: string[];
  hidden?: { part: string; triangles: number }[];
  tooSmall?: TooSmallCounts & { places: Spot[] };
  unbroken?: UnbrokenCounts;
  /** Parts that even quads could not be laid over. */
  asTriangles?: string[];
  parts?: { part: string; curve: object | null }[];
}

/** That shapes break: under the budget that was worked to, and under the brief's that is to be. */
function breakingRows(asset: AssetState, report: ToBudget): Finding[] {
  const { brief } = asset.document;
  const { budget, knee } = report;
  if (budget === undefined) return foreseenRows(asset);
  return [
    ...kneeRows(asset, report, budget, "reduce/to-budget"),
    ...(brief.triangles === budget
      ? []
      : kneeRows(asset, { knee }, brief.triangles, null)),
  ];
}

const hiddenNames = ({ hidden = [] }: ToBudget) =>
  hidden.map(({ part }) => part);

/** What a budget could not keep, what breaks under it, and what gets nothing as nobody sees it. */
function promiseRows(asset: AssetState, report: ToBudget): Finding[] {
  const { failed, hidden = [], tooSmall, unbroken, asTriangles = [] } = report;
  const rows: Finding[] = [];
  if (failed) rows.push({ tone: "bad", text: failed });
  if (asTriangles.length)
    rows.push({
      tone: "note",
      text: `too small for quads, left as triangles: ${asTriangles.join(", ")}`,
      parts: asTriangles,
    });
  rows.push(...breakingRows(asset, report));
  if (hidden.length)
    rows.push({
      tone: "note",
      text: `nobody sees ${hidden.length <= 3 ? hidden.map(({ part }) => part).join(", ") : counted(hidden.length, "part")} from outside: ${spaced(hidden.reduce((sum, { triangles }) => sum + triangles, 0))} triangles of the sources that get none`,
      parts: hidden.map(({ part }) => part),
      mend: {
        label: "Delete",
        operation: "survey/delete-parts",
        options: { parts: hidden.map(({ part }) => part) },
      },
    });
  const instead = unbroken && unbrokenWords(unbroken);
  if (instead)
    rows.push({
      tone: "note",
      text: instead,
      parts: [...unbroken.shapes.map(({ part }) => part), ...unbroken.baked],
      mend: {
        label: "Reduce them anyway",
        operation: "reduce/to-budget",
        options: {
          ...lastOptions(asset.document, "reduce/to-budget"),
          broken: true,
        },
      },
    });
  const small = tooSmall && tooSmallWords(tooSmall);
  if (small)
    rows.push({
      tone: "note",
      text: small,
      places: placesAt(tooSmall.places),
      mend: {
        label: "Keep them",
        operation: "reduce/to-budget",
        options: {
          ...lastOptions(asset.document, "reduce/to-budget"),
          smallest: true,
        },
      },
    });
  return rows;
}

type Spot = Pick<Place, "part" | "at" | "radius">;

/** Places without faces or edges of their own. */
const placesAt = (places: readonly Spot[]): Place[] =>
  places.map((spot) => ({
    ...spot,
    faces: "",
    edges: [],
    vertices: [],
  }));

const WRONG: Record<ClingFinding["kind"], string> = {
  wrong: "points landed on the wrong limb",
  folded: "faces folded over",
  stretched: "faces are stretched",
  missed: "points found no source within reach",
};

/** What went wrong where a mesh clings, with its three mends. */
function clingRow(
  found: ClingFinding,
  { offset = 0, onto = "own" }: Record<string, unknown>,
): Finding {
  const mend = (label: string, how: string) => ({
    label,
    operation: "reduce/mend-cling",
    options: {
      faces: [`${found.part}:${found.faces}`],
      mesh: "game",
      how,
      offset,
      onto,
    },
  });
  return {
    tone: found.kind === "missed" ? "note" : "warn",
    text: `${found.part}: ${spaced(found.count)} ${WRONG[found.kind]}`,
    onGame: true,
    places: placesAt(
      found.places.map((place) => ({ ...place, part: found.part })),
    ),
    mend: mend("Normals", "normals"),
    others: [mend("Reach", "limit"), mend("Hold", "hold")],
  };
}
