import { counted, percent, spaced } from "../../shared/figures";
import type { FigureRow, Finding, Mend } from "../../shared/figures";
import type { UvFault, UvFinding } from "../../../core/unwrap/methods/check";
import type { BenchPlan } from "../../shared/bench";
import { needGame, numbersOf } from "../../shared/bench";
import { tilesNeeded, udims } from "./figures";

export const unwrap: BenchPlan = {
  about: "Cut, unfold, even out, pack.",
  main: "unwrap/unwrap",
  more: ["unwrap/pack"],
  groups: [
    {
      title: "Seams",
      operations: [
        "unwrap/carry-seams",
        "unwrap/split-at",
        "unwrap/join-small",
      ],
    },
    {
      title: "Shape",
      operations: [
        "unwrap/unfold",
        "unwrap/project",
        "unwrap/straighten",
        "unwrap/stack-strips",
        "unwrap/start-clean",
      ],
    },
    {
      title: "Place",
      operations: ["unwrap/orient", "unwrap/move", "unwrap/to-tile"],
    },
    { title: "Texels", operations: ["unwrap/give-density"] },
    { title: "Share", operations: ["unwrap/find-repeats", "unwrap/share"] },
    { title: "Levels", operations: ["unwrap/levels"] },
    { title: "Paint", operations: ["unwrap/template"] },
  ],
  missing: needGame,
  figures(asset, { report }) {
    const n = numbersOf(report);
    const wanted = asset.document.brief.texelsPerMetre;
    const tiles = udims(asset.document);
    const needed = tilesNeeded(asset.document);
    const worst = n("worstStretch");
    const rows: FigureRow[] = [
      {
        label: "Fill",
        value: percent(n("fill")),
        limit: "≥ 75\u2009%",
        state: n("fill") >= 0.75 ? "good" : "warn",
      },
      {
        label:
          tiles.length > 1
            ? `Wasted of ${tiles.length} sheets`
            : "Wasted of the sheet",
        value: percent(1 - n("fill")),
      },
      {
        label: "Stretch, worst island",
        value: worst.toFixed(3),
        limit: "≤ 1.100",
        state: worst <= 1.1 ? "good" : "warn",
      },
      {
        label: "Density",
        value: `${spaced(n("density"))} texels/m`,
        limit: wanted ? `${spaced(wanted)} wanted` : "as fits",
        state: !wanted || n("density") >= 0.99 * wanted ? "good" : "warn",
      },
      {
        label: "Density spread",
        value: percent(n("densitySpread")),
        limit: "≤ 3\u2009%",
        state: n("densitySpread") <= 0.03 ? "good" : "warn",
      },
      { label: "Islands", value: spaced(n("islands")) },
      {
        label: "Overlap",
        value: percent(n("overlap"), 2),
        limit: "0",
        state: n("overlap") ? "bad" : "good",
      },
      {
        label: "Flipped",
        value: spaced(n("flipped")),
        limit: "0",
        state: n("flipped") ? "bad" : "good",
      },
    ];
    if (n("shared"))
      rows.push({ label: "Shared surface", value: percent(n("shared")) });
    if (tiles.length > 1)
      for (const { tile, fill } of tiles)
        rows.push({ label: `Tile ${tile}`, value: percent(fill) });
    if (needed > 1 || tiles.length > 1)
      rows.push({
        label: "Sheets for the density",
        value: needed ? spaced(needed) : "–",
        limit: `≤ ${asset.document.brief.sheets}`,
        state: needed > asset.document.brief.sheets ? "warn" : "good",
      });
    return rows;
  },
  findings(asset, result): Finding[] {
    const bare = asset.document.parts.filter(
      (part) => part.game && !part.repeat && !part.game.streams.uvs,
    );
    const rows: Finding[] = bare.length
      ? [
          {
            tone: "warn",
            text: `${bare.length} of ${asset.document.parts.length} parts have no UVs yet`,
            parts: bare.map((part) => part.name),
            mend: {
              label: "Unwrap",
              operation: "unwrap/unwrap",
              options: { parts: bare.map((part) => part.name) },
            },
          },
        ]
      : [];
    const bareLevels = asset.document.parts.filter(
      (part) => !part.repeat && part.levels.some((level) => !level.streams.uvs),
    );
    if (bareLevels.length)
      rows.push({
        tone: "warn",
        text: `levels of ${counted(bareLevels.length, "part")} have no UVs: they do not share the first level's`,
        parts: bareLevels.map((part) => part.name),
        mend: {
          label: "Unwrap levels",
          operation: "unwrap/levels",
          options: {},
        },
      });
    const found = (result?.report.findings ?? []) as UvFinding[];
    const changed = (result?.report.changed ?? []) as {
      part: string;
      before: number;
      islands: number;
    }[];
    const n = numbersOf(result?.report ?? {});
    // Where a density was asked for, the sheet may have room for more.
    if (n("fill") && n("fill") < 0.6 && !found.length)
      rows.push({
        tone: "note",
        text: `${percent(1 - n("fill"))} of the sheet is free`,
        mend: {
          label: "Scale up to use what is left",
          operation: "unwrap/pack",
          options: { density: 0 },
        },
      });
    return [
      ...rows,
      ...found.map(faultRow),
      ...changed
        .filter(({ before }) => before)
        .map(({ part, before, islands }): Finding => ({
          tone: "note",
          text: `${part}: ${islands} islands, ${before} before`,
          parts: [part],
        })),
    ];
  },
};

const FAULTS: Record<UvFault, (found: UvFinding) => string> = {
  overlap: (f) =>
    `${spaced(f.texels)} texels of ${f.part} are covered twice, ${islandsIn(f)}`,
  outside: (f) => `${islandsIn(f)} of ${f.part} lie on no sheet`,
  flipped: (f) => `${islandsIn(f)} of ${f.part} are mirrored and share nothing`,
  "no area": (f) => `${islandsIn(f)} of ${f.part} have no area on the sheet`,
  padding: (f) =>
    `${islandsIn(f)} of ${f.part} are nearer to others than the padding`,
  tiny: (f) =>
    `${islandsIn(f)} of ${f.part} have one or two faces: mostly the trace of a step done twice`,
  stretched: (f) =>
    `${islandsIn(f)} of ${f.part} stretch by more than 15\u2009%`,
};

const islandsIn = ({ islands }: UvFinding) =>
  islands === 1 ? "1 island" : `${spaced(islands)} islands`;

function faultRow(found: UvFinding): Finding {
  const faces = [`${found.part}:${found.faces}`];
  const on = { faces, mesh: "game" };
  const mends: Record<UvFault, Mend> = {
    overlap: { label: "Pack", operation: "unwrap/pack", options: {} },
    outside: {
      label: "Pack in",
      operation: "unwrap/pack",
      options: { which: "chosen", faces },
    },
    flipped: {
      label: "Mirror",
      operation: "unwrap/arrange",
      options: { ...on, how: "mirror across" },
    },
    "no area": { label: "Unfold", operation: "unwrap/unfold", options: on },
    padding: { label: "Pack", operation: "unwrap/pack", options: {} },
    tiny: { label: "Join", operation: "unwrap/join-small", options: on },
    stretched: { label: "Unfold", operation: "unwrap/unfold", options: on },
  };
  const bad = ["overlap", "outside", "flipped", "no area"].includes(found.kind);
  return {
    tone: bad ? "bad" : "warn",
    text: FAULTS[found.kind](found),
    onGame: true,
    faces: { [found.part]: found.faces },
    places: found.places.map((place) => ({
      ...place,
      part: found.part,
      faces: "",
      edges: [],
      vertices: [],
    })),
    mend: mends[found.kind],
  };
}
