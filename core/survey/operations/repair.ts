import { PartsOptions } from "../../asset/parts-options";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { mapParts } from "../../asset/parts";
import { mayBeMeant } from "../../mesh/fill-holes";
import type { MeshPlace } from "../../mesh/places";
import { defineOperation, field } from "../../asset/operation";
import { spanOf } from "../../base/context";
import type { Mend, Mended } from "../methods/mend";
import { MENDS, mendMesh } from "../methods/mend";

class RepairOptions extends PartsOptions {
  @field({
    kind: "choices",
    label: "Mend",
    help: "What to mend; nothing chosen mends everything.",
    choices: MENDS,
  })
  mend: Mend[] = [];

  @field({
    kind: "number",
    label: "Tolerance",
    help: "Vertices nearer than this become one; nothing moves farther.",
    unit: "mm",
    min: 0,
    max: 100,
    step: 0.01,
  })
  tolerance = 0.01;

  @field({
    kind: "number",
    label: "Close holes up to",
    empty: "what is not meant",
    help: "Wider ones are left open and named; 0 leaves only those that may be meant: wider than half the part, of many edges.",
    unit: "mm",
    min: 0,
    max: 1000000,
    step: 1,
  })
  holes = 0;

  @field({
    kind: "choice",
    label: "Meshes",
    help: "Which meshes are mended.",
    choices: [
      { value: "source", label: "source" },
      { value: "game", label: "game" },
    ],
    folded: true,
  })
  mesh: "source" | "game" = "source";
}

export const repair = defineOperation({
  id: "survey/repair",
  stage: "survey",
  title: "Mend what was found",
  about:
    "Welds, stitches, parts, turns and closes what is wrong with the meshes; nothing moves farther than the tolerance.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: RepairOptions,
  run(asset, options, context) {
    requireMeshes(asset, options.mesh);
    const chosen = chosenParts(asset, options.parts);
    const mends = new Set(
      options.mend.length ? options.mend : MENDS.map(({ value }) => value),
    );
    const total = Object.fromEntries(
      MENDS.map(({ value }) => [value, 0]),
    ) as Mended;
    const left: LeftUnmended = { open: [], crossing: [], scraps: [], cut: [] };
    const count = asset.parts.filter(
      (part) => chosen.has(part.name) && part[options.mesh],
    ).length;
    let done = 0;
    const next = mapParts(asset, (part) => {
      const mesh = part[options.mesh];
      if (!mesh || !chosen.has(part.name)) return part;
      const step = spanOf(context, done / count, ++done / count);
      const { name } = part;
      const found = mendMesh(mesh, mends, {
        tolerance: options.tolerance / 1000,
        wanted: (hole) =>
          options.holes
            ? hole.width <= options.holes / 1000
            : !mayBeMeant(mesh, hole),
        check: () => context.check(),
        progress: (share) => step.progress(share, `mending ${name}`),
      });
      for (const { value } of MENDS) total[value] += found.mended[value];
      for (const { width } of found.open) left.open.push({ part: name, width });
      if (found.crossing)
        left.crossing.push({ part: name, faces: found.crossing });
      const { pieces, faces, places } = found.scraps;
      if (pieces) left.scraps.push({ part: name, pieces, faces, places });
      if (found.cut.pieces) left.cut.push({ part: name, ...found.cut });
      return found.mesh === mesh
        ? part
        : { ...part, [options.mesh]: found.mesh };
    });
    return {
      asset: next,
      headline: "",
      report: { mended: total, ...left, summary: summaryOf(total, left) },
    };
  },
});

/** What mending left, or took out whole. */
export interface LeftUnmended {
  /** Holes wider than asked for, metres. */
  open: { part: string; width: number }[];
  /** Faces that still pass through their own piece. */
  crossing: { part: string; faces: number }[];
  /** Tiny open pieces that went, and where they were. */
  scraps: GonePieces[];
  /** What was cut off where faces crossed, and where it was. */
  cut: GonePieces[];
}

interface GonePieces {
  part: string;
  pieces: number;
  faces: number;
  places: readonly MeshPlace[];
}

function summaryOf(
  total: Mended,
  { open, crossing, scraps, cut }: LeftUnmended,
) {
  const sum = (list: readonly number[]) => list.reduce((all, n) => all + n, 0);
  const words = MENDS.filter(({ value }) => total[value]).map(
    ({ value, label }) => `${label}: ${spaced(total[value])}`,
  );
  const gone = (list: readonly GonePieces[], label: string, one: string) => {
    const pieces = sum(list.map((each) => each.pieces));
    if (!pieces) return;
    const faces = spaced(sum(list.map((each) => each.faces)));
    const parts = list.map(({ part }) => part).join(", ");
    words.push(
      `${label}: ${spaced(pieces)} ${one}${pieces === 1 ? "" : "s"} of ${faces} faces, of ${parts}`,
    );
  };
  gone(scraps, "left out", "open scrap");
  gone(cut, "cut off where faces crossed", "piece");
  if (open.length)
    words.push(
      `left open: ${spaced(open.length)} holes up to ${(1000 * Math.max(...open.map(({ width }) => width))).toFixed(0)} mm wide, of ${[...new Set(open.map(({ part }) => part))].join(", ")}: close wider ones to fill them`,
    );
  if (crossing.length)
    words.push(
      `${spaced(sum(crossing.map(({ faces }) => faces)))} faces still pass through their piece, of ${crossing.map(({ part }) => part).join(", ")}: a new skin takes them out`,
    );
  return words.join("; ") || "nothing to mend";
}
