import type { FoundDefect } from "../../../core/survey/methods/finding";
import type { AssetDocument } from "../../../core/asset/document";
import { SETTLE_RULES } from "../../../core/settle/settle";
import type { SettleRule } from "../../../core/settle/settle";
import type { Floaters } from "../../../core/asset/floaters";
import { changedSince } from "../../../core/asset/stale";
import type { Gap } from "../../../core/survey/methods/gaps";
import type { Mend } from "../../../core/survey/methods/mend";
import type { PartNoise } from "../../../core/survey/operations/take-noise-out";
import type { AssetState } from "../../shared/types";
import type { FoundFamily } from "../../../core/survey/methods/repeat-families";
import { counted, length, percent, spaced } from "../../shared/figures";
import type { FigureRow, Finding } from "../../shared/figures";
import type { Place } from "../../shared/messages";
import type { BenchPlan } from "../../shared/bench";
import { foreseenRows } from "../knee-row";
import { needSource, numbersOf } from "../../shared/bench";

/** What a finding is called, and what mends it. */
const KINDS: Record<
  FoundDefect["kind"],
  {
    tone: Finding["tone"];
    one: string;
    text: string;
    mend?: Mend;
    label?: string;
  }
> = {
  coincident: {
    tone: "warn",
    one: "coincident vertex",
    text: "coincident vertices",
    mend: "coincident",
    label: "Weld",
  },
  borders: {
    tone: "warn",
    one: "open edge",
    text: "open edges",
    mend: "borders",
    label: "Close holes",
  },
  nonManifoldEdges: {
    tone: "bad",
    one: "edge of more than two faces",
    text: "edges of more than two faces",
    mend: "nonManifold",
    label: "Split",
  },
  nonManifoldVertices: {
    tone: "warn",
    one: "vertex where surfaces only touch",
    text: "vertices where surfaces only touch",
    mend: "nonManifold",
    label: "Split",
  },
  winding: {
    tone: "bad",
    one: "turned face",
    text: "turned faces",
    mend: "winding",
    label: "Turn",
  },
  zeroArea: {
    tone: "warn",
    one: "face without area",
    text: "faces without area",
    mend: "zeroArea",
    label: "Dissolve",
  },
  loose: {
    tone: "warn",
    one: "loose vertex",
    text: "loose vertices",
    mend: "loose",
    label: "Drop",
  },
  duplicateFaces: {
    tone: "bad",
    one: "duplicate face",
    text: "duplicate faces",
    mend: "duplicateFaces",
    label: "Drop",
  },
  selfIntersections: {
    tone: "warn",
    one: "face that crosses its own piece",
    text: "faces that cross their own piece",
    mend: "selfIntersections",
    label: "Redo",
  },
  storedNormals: {
    tone: "bad",
    one: "face whose normals disagree",
    text: "faces whose normals disagree",
    mend: "storedNormals",
    label: "Renew",
  },
  nodeScale: { tone: "note", one: "node scale", text: "node scales" },
  names: { tone: "note", one: "clashing name", text: "clashing names" },
};

const placeIn = (
  part: string,
  at: [number, number, number],
  radius: number,
  rest: Partial<Place> = {},
): Place => ({ part, at, radius, faces: "", edges: [], vertices: [], ...rest });

function defect(found: FoundDefect): Finding {
  const { tone, one, text, mend, label } = KINDS[found.kind];
  const words = found.note
    ? `${found.part}: ${found.note}`
    : `${found.part}: ${counted(found.count, one, text)}`;
  return {
    tone,
    text: words,
    parts: [found.part],
    places: found.places.map(({ at, radius }) =>
      placeIn(found.part, at, radius, {
        faces: found.faces,
        edges: found.edges,
        vertices: found.vertices,
      }),
    ),
    ...(mend && found.places.length
      ? {
          mend: {
            label: label!,
            operation: "survey/repair",
            options: {
              parts: [found.part],
              mend: [mend],
              // A wide hole is closed by its own row alone.
              ...(found.widest && { holes: Math.ceil(1001 * found.widest) }),
            },
          },
        }
      : {}),
  };
}

/** Crossing faces beyond this share of a part speak of a folded, doubled scan. */
const FOLDED = 0.002;

/** A defect, and the offer of a new skin where mending face by face may not end. */
function defectRows(found: FoundDefect, triangles: number): Finding[] {
  const row = defect(found);
  return found.kind === "selfIntersections" && found.count > FOLDED * triangles
    ? [
        row,
        {
          tone: "note",
          text: `${found.part} is folded or doubled: what can't be mended face by face, a new skin takes out; the source as it came is baked`,
          parts: [found.part],
          mend: {
            label: "New skin",
            operation: "survey/new-skin",
            options: { parts: [found.part] },
          },
        },
      ]
    : [row];
}

function floater(found: Floaters): Finding {
  return {
    tone: "note",
    text: `${counted(found.pieces, "piece")} of ${found.part} lie on ${found.host} unjoined, ${spaced(found.triangles)} triangles${found.sourceOnly ? ": source only" : ""}`,
    parts: [found.part],
    mend: {
      label: found.sourceOnly ? "Count them" : "Source only",
      operation: "survey/source-only",
      options: {
        faces: [`${found.part}:${found.faces}`],
        on: !found.sourceOnly,
      },
    },
  };
}

type ListedGap = Omit<Gap, "vertices"> & { count: number };

/** Gaps of one kind between the same two parts are one row. */
function gapRows(gaps: readonly ListedGap[]): Finding[] {
  const rows = new Map<string, ListedGap[]>();
  for (const gap of gaps) {
    const key = `${gap.kind} ${gap.part} ${gap.of}`;
    rows.set(key, [...(rows.get(key) ?? []), gap]);
  }
  return [...rows.values()].map((list): Finding => {
    const [{ kind, part, of }] = list;
    const widest = Math.max(...list.map(({ width }) => width));
    const count = `${counted(list.length, "piece")} of ${part}`;
    const words = {
      slit: `${count}: a slit of up to ${length(widest)} to ${of}`,
      hovering: `${count} ${list.length === 1 ? "hovers" : "hover"} up to ${length(widest)} off ${of}`,
      "sticks out": `${count}: an end sticks ${length(widest)} out of ${of}`,
    }[kind];
    return {
      tone: "warn",
      text: words,
      parts: [part],
      places: list.map(({ at, radius }) => placeIn(part, at, radius)),
      mend: {
        label: "Push in",
        operation: "survey/close-gaps",
        options: { parts: [part] },
      },
    };
  });
}

/** Most families that get a row of their own. */
const MOST_FAMILIES = 12;

function repeatRows(families: readonly FoundFamily[]): Finding[] {
  const rows = families.slice(0, MOST_FAMILIES).map((family): Finding => {
    const more = [
      family.mirrored ? `${family.mirrored} mirrored` : "",
      family.scaled ? `${family.scaled} scaled` : "",
    ].filter(Boolean);
    return {
      tone: "note",
      text: `${family.part} occurs ${family.copies.length + 1} times${more.length ? `, ${more.join(", ")}` : ""}: ${spaced(family.triangles)} triangles each`,
      parts: [family.part],
      mend: {
        label: "Work once",
        operation: "survey/link-repeats",
        options: { parts: [family.part] },
      },
    };
  });
  const rest = families.length - rows.length;
  return rest > 0
    ? [...rows, { tone: "note", text: `and ${rest} more kinds of repeats` }]
    : rows;
}

/** Counts of one part, by the names of the report. */
type PartRow = { part: string } & Record<string, unknown>;

interface PartShading {
  part: string;
  triangles: number;
  shading: { says: string; faceted: number; smoothedSharp: number };
}

/** A source is faceted where shading breaks at most of its gentle edges. */
const FACETED = 0.5;

function shadingRows(parts: readonly PartShading[]): Finding[] {
  return parts.flatMap(({ part, shading }): Finding[] => {
    const mend = {
      label: "Shade anew",
      operation: "survey/set-shading",
      options: { parts: [part] },
    };
    if (shading.faceted > FACETED)
      return [
        {
          tone: "warn",
          text: `${part} is faceted: its shading breaks at ${percent(shading.faceted, 0)} of its gentle edges`,
          parts: [part],
          mend,
        },
      ];
    if (shading.says !== "nothing" && shading.smoothedSharp)
      return [
        {
          tone: "warn",
          text: `${part} is smoothed over ${spaced(shading.smoothedSharp)} sharp edges`,
          parts: [part],
          mend,
        },
      ];
    return [];
  });
}

/** What each rule of settling is called once it was done. */
const SETTLED: Record<SettleRule, string> = {
  coincident: "coincident vertices are joined",
  shortEdges: "edges too short to mean anything are collapsed",
  noArea: "faces without area are left out",
  layers: "faces that lie on each other are left out",
  stitch: "borders that meet are stitched",
  sheets: "fins are left out and shared edges parted",
  necks: "necks too thin to mean anything are cut",
};

/** What was settled before anything works on the sources: one row a rule, over all parts. */
function settledRows({
  parts,
  settleWithout,
}: Pick<AssetDocument, "parts" | "settleWithout">): Finding[] {
  const rest = SETTLE_RULES.map(({ value }) => value).filter(
    (rule) => !settleWithout.includes(rule),
  );
  const rows = rest.flatMap((rule): Finding[] => {
    const done = parts.flatMap(({ name, repeat, settled }) =>
      (repeat ? [] : (settled?.done ?? []))
        .filter((one) => one.rule === rule)
        .map(({ count, places }) => ({ name, count, places })),
    );
    if (!done.length) return [];
    const count = done.reduce((sum, one) => sum + one.count, 0);
    return [
      {
        tone: "note",
        text: `for all work: ${SETTLED[rule]}, ${spaced(count)} in ${counted(done.length, "part")}; the source stays`,
        parts: done.map(({ name }) => name),
        places: done
          .flatMap(({ name, places }) =>
            places.map(({ at, radius }) => placeIn(name, at, radius)),
          )
          .slice(0, 40),
        mend: {
          label: "Leave as they are",
          operation: "survey/settle",
          options: { rules: rest.filter((each) => each !== rule) },
        },
      },
    ];
  });
  const off = settleWithout.length;
  return off
    ? [
        ...rows,
        {
          tone: "note",
          text: `${counted(off, "rule")} of settling ${off === 1 ? "is" : "are"} turned off`,
          mend: { label: "Turn on", operation: "survey/settle", options: {} },
        },
      ]
    : rows;
}

export const NOISE = "survey/take-noise-out";

/** What taking noise out was found to do, where that was tried on the sources as they are. */
export function triedNoise({ document }: Pick<AssetState, "document">) {
  const tried = document.reports[NOISE];
  if (!tried?.report.only || changedSince(tried, document).length) return null;
  return {
    parts: (tried.report.parts ?? []) as PartNoise[],
    options: tried.options,
  };
}

function noiseRows(asset: Pick<AssetState, "document">): Finding[] {
  const tried = triedNoise(asset);
  if (!tried) return [];
  return tried.parts.map(({ part, largest, rms, places }): Finding => ({
    tone: "note",
    text: `${part}: taking noise out would move it by up to ${length(largest)}, ${length(rms)} in the mean`,
    parts: [part],
    places: places.map(({ at, radius }) => placeIn(part, at, radius)),
    mend: {
      label: "Take it out",
      operation: NOISE,
      options: { ...tried.options, parts: [part], only: false },
    },
  }));
}

export const survey: BenchPlan = {
  about:
    "What came in, what is wrong with it, and what makes it fit to work on.",
  main: "survey/count",
  more: ["survey/repair", "survey/settle"],
  groups: [
    {
      title: "Faces",
      operations: [
        "survey/delete-faces",
        "survey/source-only",
        "survey/split-off",
      ],
    },
    {
      title: "Parts",
      operations: [
        "survey/join-parts",
        "survey/duplicate-parts",
        "survey/mirror",
        "survey/rename-parts",
        "survey/group-parts",
        "survey/delete-parts",
      ],
    },
    {
      title: "Repeats and gaps",
      operations: [
        "survey/link-repeats",
        "survey/unlink-repeats",
        "survey/place-copies",
        "survey/close-gaps",
      ],
    },
    {
      title: "Source",
      operations: [
        "survey/set-shading",
        "survey/crease",
        "survey/subdivide",
        "survey/take-noise-out",
        "survey/new-skin",
        "survey/lighten",
        "survey/restore-dense",
        "survey/cut-pieces",
      ],
    },
  ],
  missing: needSource,
  figures(_, { report: whole }, selected) {
    // With parts chosen the figures are theirs.
    const chosen = ((whole.perPart ?? []) as PartRow[]).filter(({ part }) =>
      selected.includes(part),
    );
    const n = (name: string) =>
      chosen.length
        ? chosen.reduce((sum, row) => sum + Number(row[name] ?? 0), 0)
        : numbersOf(whole)(name);
    const faces = n("threes") + n("quads") + n("ngons");
    const share = (name: string) =>
      `${spaced(n(name))} · ${percent(faces ? n(name) / faces : 0, 0)}`;
    const wrong = (label: string, name: string): FigureRow => ({
      label,
      value: spaced(n(name)),
      limit: "0",
      state: n(name) ? "warn" : "good",
    });
    return [
      {
        label: chosen.length
          ? `Triangles of ${counted(chosen.length, "part")}`
          : "Triangles",
        value: spaced(n("triangles")),
      },
      { label: "Faces of three corners", value: share("threes") },
      { label: "Quads", value: share("quads") },
      { label: "N-gons", value: share("ngons") },
      { label: "Vertices", value: spaced(n("vertices")) },
      { label: "Components", value: spaced(n("components")) },
      { label: "Open edges", value: spaced(n("borderEdges")) },
      ...(chosen.length ? [] : [wrong("Defects", "defects")]),
      {
        label: "Slivers",
        value: spaced(n("slivers")),
      },
      ...(whole.crossingPieces === null
        ? []
        : [
            {
              label: "Pieces that pass through others",
              value: spaced(n("crossingPieces")),
            },
          ]),
    ];
  },
  findings(asset, result) {
    if (!result) return [];
    const { report } = result;
    const list = <T>(name: string) => (report[name] ?? []) as T[];
    const present = new Set(asset.document.parts.map((part) => part.name));
    return [
      ...foreseenRows(asset),
      ...list<FoundDefect>("findings").flatMap((found) =>
        defectRows(
          found,
          Number(
            list<PartRow>("perPart").find(({ part }) => part === found.part)
              ?.triangles ?? Infinity,
          ),
        ),
      ),
      ...shadingRows(list<PartShading>("perPart")),
      ...noiseRows(asset),
      ...settledRows(asset.document),
      ...gapRows(list<ListedGap>("gaps")),
      ...list<Floaters>("floaters").map(floater),
      ...repeatRows(list<FoundFamily>("repeats")),
    ].filter(({ parts }) => !parts || parts.every((part) => present.has(part)));
  },
};
