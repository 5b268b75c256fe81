import { MissingInputError } from "../../core/base/errors";
import type { Call } from "../arguments";
import { oneOf, realNumber, UsageError, wholeNumber } from "../arguments";
import { defineCommand, MESH_FILES } from "../command";
import { checkOut, namedMeshes, outFlag, writeWithLevels } from "../output";
import type { Session } from "../session";

const METHODS = ["to-budget", "quads", "skin", "thin"];

/** The measure's weights that a weights file may set. */
const WEIGHTS = [
  "outline",
  "card",
  "normals",
  "border",
  "crease",
  "region",
  "seam",
  "evenness",
] as const;

export const reduce = defineCommand({
  name: "reduce",
  words:
    "FILE… --triangles N --out FILE [--method to-budget|quads|skin|thin] [--parts LIST] [--weights FILE] [--symmetric] [--levels LIST]",
  about: "to the budget, over all parts together, or another way",
  flags: {
    triangles: { takes: "N", required: true, about: "budget over all parts" },
    out: outFlag,
    method: {
      takes: "METHOD",
      about: "to-budget, quads (even quads), skin (skin over) or thin (loops)",
    },
    parts: { takes: "LIST", about: "only these parts, parted by commas" },
    weights: {
      takes: "FILE",
      about:
        'JSON: the measure\'s weights, and by part "budgets" and "density" (−1 coarser … 1 finer, or "leave")',
    },
    symmetric: { about: "finds the mirror plane and keeps both sides alike" },
    unseen: {
      about: "deals triangles out to what nobody sees from outside as well",
    },
    broken: {
      about:
        "keeps what a budget under the knee breaks, where shapes would stand for it or it would only be baked",
    },
    smallest: {
      about: "keeps pieces and handles far smaller than a triangle will be",
    },
    pure: { about: "quads: leaves no triangle" },
    grading: {
      takes: "N",
      about:
        "quads: longest edges against shortest where the surface bends, 1 (even) to 4, 2 by default",
    },
    cells: { takes: "N", about: "skin: cells along the longest side" },
    levels: {
      takes: "LIST",
      about: "further levels, such as 8000,3000,800: written as FILE_lod1 …",
    },
  },
  files: MESH_FILES,
  async run(call, session) {
    const triangles = wholeNumber(call, "triangles", 0, 4, 2_000_000);
    const out = String(call.flags.out);
    const method = oneOf(call, "method", "to-budget", METHODS);
    checkOut(out);
    const levels = levelsOf(call, triangles);
    // A project keeps what it was made to.
    session.brief({ triangles });
    const weights =
      call.flags.weights === undefined
        ? {}
        : session.files.readJson(String(call.flags.weights));
    await session.load(call.files, "source");
    onlyParts(call, session);
    const measure = await takeWeights(weights, session, call);
    const report = await reduceBy(method, call, session, triangles, measure);
    if (!namedMeshes(session.asset, "game").length)
      throw new UsageError(
        `--triangles ${triangles} leaves nothing of this mesh`,
      );
    const made = levels.length ? await session.levels(levels.join(",")) : null;
    const files = await writeWithLevels(
      session.files,
      out,
      session.asset,
      "game",
    );
    return made ? { ...report, levels: made.report.levels, files } : report;
  },
});

/** Flags that only one method heeds. */
const ONLY_WITH: Record<string, string> = {
  symmetric: "to-budget",
  unseen: "to-budget",
  smallest: "to-budget",
  broken: "to-budget",
  pure: "quads",
  grading: "quads",
  cells: "skin",
};

async function reduceBy(
  method: string,
  call: Call,
  session: Session,
  triangles: number,
  measure: Record<string, number>,
) {
  const symmetric = Boolean(call.flags.symmetric);
  for (const [flag, goes] of Object.entries(ONLY_WITH))
    if (call.flags[flag] !== undefined && method !== goes)
      throw new UsageError(`--${flag} goes with --method ${goes}`);
  if (method === "quads")
    return (
      await session.run("reduce/even-quads", {
        triangles,
        pure: Boolean(call.flags.pure),
        grading: realNumber(call, "grading", 2, 1, 4),
      })
    ).report;
  if (method === "skin")
    return (
      await session.run("reduce/skin-over", {
        triangles,
        cells: wholeNumber(call, "cells", 160, 8, 384),
      })
    ).report;
  if (method === "thin")
    return (await session.run("reduce/thin-loops", { triangles })).report;
  return (
    await session.run("reduce/to-budget", {
      triangles,
      symmetry: symmetric ? "find" : "off",
      unseen: Boolean(call.flags.unseen),
      smallest: Boolean(call.flags.smallest),
      broken: Boolean(call.flags.broken),
      ...measure,
    })
  ).report;
}

/** Leaves only the parts that are named. @throws UsageError for one that is not there */
function onlyParts(call: Call, session: Session): void {
  if (call.flags.parts === undefined) return;
  const names = String(call.flags.parts).split(",").filter(Boolean);
  const there = session.asset.parts.map((part) => part.name);
  const strange = names.find((name) => !there.includes(name));
  if (strange !== undefined || !names.length)
    throw new UsageError(
      `--parts names parts of ${there.join(", ")}, not "${strange ?? ""}"`,
    );
  session.asset = {
    ...session.asset,
    parts: session.asset.parts.filter((part) => names.includes(part.name)),
  };
}

/** Sets budgets and density by part; returns the weights of the measure. @throws UsageError */
async function takeWeights(
  given: Record<string, unknown>,
  session: Session,
  call: Call,
): Promise<Record<string, number>> {
  const file = String(call.flags.weights);
  const measure: Record<string, number> = {};
  for (const [key, value] of Object.entries(given)) {
    if ((WEIGHTS as readonly string[]).includes(key)) {
      if (typeof value !== "number")
        throw new UsageError(`${file}: "${key}" must be a number`);
      measure[key] = value;
    } else if (key !== "budgets" && key !== "density")
      throw new UsageError(
        `${file}: there is no weight "${key}"; there are ${WEIGHTS.join(", ")}, budgets and density`,
      );
  }
  const byPart = (key: string) => {
    const list = given[key] ?? {};
    if (typeof list !== "object" || Array.isArray(list))
      throw new UsageError(`${file}: "${key}" must list parts by name`);
    return Object.entries(list as Record<string, unknown>);
  };
  try {
    for (const [part, budget] of byPart("budgets"))
      await session.run("intake/part-rules", { parts: [part], budget });
    for (const [part, wish] of byPart("density"))
      await session.run("reduce/paint-density", {
        parts: [part],
        wish:
          wish === "leave" ? "leave" : Number(wish) < 0 ? "coarser" : "finer",
        ...(wish === "leave" ? {} : { strength: Math.abs(Number(wish)) }),
      });
  } catch (error) {
    if (error instanceof MissingInputError)
      throw new UsageError(`${file}: ${error.message}`);
    throw error;
  }
  return measure;
}

/** @throws UsageError for a list that does not fall, or begins above the budget */
function levelsOf(call: Call, triangles: number): number[] {
  if (call.flags.levels === undefined) return [];
  const levels = String(call.flags.levels).split(",").map(Number);
  const first = levels[0] === triangles ? levels.slice(1) : levels;
  const falls = first.every(
    (n, i) =>
      Number.isInteger(n) && n >= 4 && n < (i ? first[i - 1] : triangles),
  );
  if (!falls || first.length > 8)
    throw new UsageError(
      `--levels takes up to 8 falling numbers below ${triangles}, not "${String(call.flags.levels)}"`,
    );
  return first;
}
