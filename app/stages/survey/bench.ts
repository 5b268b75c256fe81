import { placeIn, defectRows } from "./defect-rows";
import { settledRows, noiseRows } from "./settled-rows";
import type { FoundDefect } from "../../../core/survey/methods/finding";
import type { Floaters } from "../../../core/asset/floaters";
import type { Gap } from "../../../core/survey/methods/gaps";
import type { FoundFamily } from "../../../core/survey/methods/repeat-families";
import { counted, length, percent, spaced } from "../../shared/figures";
import type { FigureRow, Finding } from "../../shared/figures";
import type { BenchPlan } from "../../shared/bench";
import { foreseenRows } from "../knee-row";
import { needSource, numbersOf } from "../../shared/bench";

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
