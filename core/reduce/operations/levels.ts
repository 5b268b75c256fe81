import type { Asset, Part } from "../../asset/asset";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { allocationOf, previewOf } from "../../decimate/kept-record";
import { mapParts, totalTriangles } from "../../asset/parts";
import { PartsOptions } from "../../asset/parts-options";
import { followRepeats } from "../../asset/repeats";
import { MissingInputError, OptionsError } from "../../base/errors";
import { allocateBudget } from "../../decimate/collapse-record";
import { collapseWithUvs } from "../../decimate/collapse-with-uvs";
import { buildEdges } from "../../mesh/edges";
import type { Mesh } from "../../mesh/mesh";
import { triangleCount } from "../../mesh/mesh";
import { defineOperation, field } from "../../asset/operation";
import type { Context } from "../../base/context";
import { spanOf } from "../../base/context";
import { judgeSurfaces, surfaceOf } from "./judge";

class LevelsOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "Levels by",
    help: "Triangles of each level, or how many pixels high the asset is on the screen when a level sets in.",
    choices: [
      { value: "triangles", label: "triangles" },
      { value: "screen size", label: "screen size" },
    ],
  })
  by: "triangles" | "screen size" = "triangles";

  @field({
    kind: "text",
    label: "Levels (empty: brief)",
    help: "Falling triangles such as 3000, 800, or falling pixels such as 400, 150, 60; empty takes the brief's levels, or halves three times.",
    max: 200,
  })
  levels = "";

  @field({
    kind: "flag",
    label: "Share UVs and maps",
    help: "Keeps the first level's UVs, seams and borders, so that its maps serve all levels.",
  })
  share = true;

  @field({
    kind: "flag",
    label: "Hold borders",
    help: "Leaves open borders as they are on every level, so that parts of different levels still meet without a gap.",
  })
  holdBorders = true;

  @field({
    kind: "number",
    label: "Seen off by",
    help: "A level sets in where its distance from the source is this many pixels on the screen.",
    unit: "px",
    min: 0.1,
    max: 8,
    step: 0.1,
    folded: true,
  })
  pixels = 1;

  @field({
    kind: "integer",
    label: "Screen height",
    help: "Pixels of the screen the asset is meant for.",
    unit: "px",
    min: 240,
    max: 4320,
    folded: true,
  })
  screen = 1080;

  @field({
    kind: "number",
    label: "Field of view",
    help: "Upright angle that the screen shows.",
    unit: "°",
    min: 10,
    max: 120,
    folded: true,
  })
  fov = 50;
}

/** Levels that are asked for at the most. */
const MOST = 8;

export const makeLevels = defineOperation({
  id: "reduce/levels",
  stage: "reduce",
  title: "Levels of detail",
  about:
    "A chain of lighter game meshes from the present one, with the distances at which they set in.",
  runs: "heavy",
  takes: "game",
  makesResult: false,
  keepsReport: true,
  madeFrom: [
    "names of parts",
    "source meshes",
    "game meshes",
    "hard edges",
    "UVs",
    "levels wanted",
  ],
  Options: LevelsOptions,
  run(asset, options, context) {
    requireMeshes(asset, "game");
    const chosen = chosenParts(asset, options.parts);
    const parts = asset.parts.filter(
      (part) => part.game && chosen.has(part.name),
    );
    if (!parts.length)
      throw new MissingInputError("no chosen part has a game mesh");
    const first = parts.reduce(
      (sum, part) => sum + triangleCount(part.game!),
      0,
    );
    const size = heightOf(asset);
    const budgets =
      options.by === "triangles"
        ? budgetsOf(options.levels, asset, first)
        : budgetsAt(options, asset, size, first);
    const shares = budgets.map((budget) => dealTo(asset, parts, budget, first));
    const thin = (some: readonly Part[], from: number, to: number) =>
      some.map((part, i): [string, Mesh[]] => {
        const step = spanOf(
          context,
          from + ((to - from) * i) / some.length,
          from + ((to - from) * (i + 1)) / some.length,
        );
        step.progress(0, `thinning ${part.name}`);
        const counts = shares.map((share) => share.get(part.name) ?? 4);
        return [part.name, thinned(asset, part, counts, options, context)];
      });
    const made = new Map(thin(parts, 0, 0.5));
    // Some parts cannot be made as light as their share: what they take too much the others give.
    const lighter = takeBack(parts, made, shares, budgets);
    for (const [name, levels] of thin(lighter, 0.5, 0.7))
      made.set(name, levels);
    const next = followRepeats(
      mapParts(asset, (part) =>
        made.has(part.name) ? { ...part, levels: made.get(part.name)! } : part,
      ),
      asset,
    );
    const levels = budgets.map((budget, l) => {
      context.check();
      context.progress(
        0.7 + (0.3 * l) / budgets.length,
        `measuring level ${l + 1}`,
      );
      return {
        level: l + 1,
        wanted: budget,
        ...measureLevel(
          parts,
          parts.map((part) => made.get(part.name)![l]),
          options,
          size,
        ),
      };
    });
    return {
      asset: next,
      headline: `${levels.length} levels`,
      report: {
        levels,
        shared: options.share,
        summary: levels.map(summaryOf).join(", "),
      },
    };
  },
});

/**
 * Takes what some parts are over their share off the shares of the others, level by level.
 * @param shares triangles of each part, by level; changed here
 * @returns the parts that are to be made lighter
 */
function takeBack(
  parts: readonly Part[],
  made: ReadonlyMap<string, readonly Mesh[]>,
  shares: readonly Map<string, number>[],
  budgets: readonly number[],
): Part[] {
  const lighter = new Set<Part>();
  shares.forEach((share, l) => {
    const counts = parts.map(({ name }) => triangleCount(made.get(name)![l]));
    const over = counts.reduce((sum, count) => sum + count, -budgets[l]);
    if (over <= 0) return;
    const willing = parts.filter(
      ({ name }, i) => counts[i] <= share.get(name)! && counts[i] > 4,
    );
    const left = willing.reduce((sum, part) => sum + share.get(part.name)!, 0);
    for (const part of willing) {
      const own = share.get(part.name)!;
      share.set(part.name, Math.max(4, Math.floor(own - (over * own) / left)));
      lighter.add(part);
    }
  });
  return parts.filter((part) => lighter.has(part));
}

/** A part's levels. @param counts triangles wanted of each, lightened where that is more than the level above has */
function thinned(
  asset: Asset,
  part: Part,
  counts: number[],
  options: LevelsOptions,
  context: Context,
): Mesh[] {
  // Each level starts from the one above it, so no level may ask for more than that has.
  for (let l = 1; l < counts.length; l++)
    counts[l] = Math.min(counts[l], counts[l - 1]);
  // The record knows nothing of borders that are to be held.
  const held = options.holdBorders && isOpen(part.game!);
  const own =
    options.share || held ? null : fromRecord(asset, part.name, counts);
  const mesh = options.share ? part.game! : { ...part.game!, uvs: null };
  return (
    own ??
    collapseWithUvs(mesh, counts, { holdBorders: options.holdBorders }, () =>
      context.check(),
    )
  );
}

/**
 * How far a level is off its sources, and where it sets in.
 * @param size height of the asset, metres
 */
function measureLevel(
  parts: readonly Part[],
  meshes: readonly Mesh[],
  options: LevelsOptions,
  size: number,
) {
  const shown = shownOf(options);
  const against = surfaceOf(parts.map((part) => part.source ?? part.game));
  const judged = judgeSurfaces(against, surfaceOf(meshes), "all round");
  const off = judged.rms * judged.diagonal;
  const distance = (off * shown) / options.pixels;
  return {
    triangles: meshes.reduce((sum, mesh) => sum + triangleCount(mesh), 0),
    rms: judged.rms,
    max: judged.max,
    silhouette: judged.silhouetteMean,
    /** Metres from the eye, and how high the asset is on the screen there, px. */
    distance,
    screenSize: distance > 0 ? (size * shown) / distance : options.screen,
  };
}

const summaryOf = (made: {
  level: number;
  triangles: number;
  distance: number;
}) =>
  `level ${made.level}: ${spaced(made.triangles)} from ${made.distance.toFixed(1)} m`;

/** Pixels on the screen of a metre that is a metre away. */
const shownOf = ({ screen, fov }: LevelsOptions) =>
  screen / 2 / Math.tan((fov * Math.PI) / 360);

const isOpen = (mesh: Mesh) => buildEdges(mesh).uses.includes(1);

/** The levels of a part from the kept record, or null where it is not in there. */
function fromRecord(
  asset: Asset,
  name: string,
  counts: readonly number[],
): Mesh[] | null {
  const { record } = asset;
  if (!record?.parts.some((part) => part.name === name || part.twin === name))
    return null;
  const found = counts.map(
    (count) =>
      previewOf(
        record,
        Number.MAX_SAFE_INTEGER,
        Object.fromEntries(record.parts.map((part) => [part.name, count])),
      ).get(name) ?? null,
  );
  return found.every((mesh) => mesh !== null) ? found : null;
}

/** @throws OptionsError for a list that is no falling row of numbers */
function numbersOf(text: string, most: number): number[] {
  const numbers = text
    .split(/[,;\s]+/)
    .filter(Boolean)
    .map(Number);
  const wrong = numbers.some(
    (n, i) =>
      !Number.isFinite(n) ||
      n < 4 ||
      n > most ||
      (i > 0 && n >= numbers[i - 1]),
  );
  if (wrong || numbers.length > MOST)
    throw new OptionsError("reduce/levels", {
      levels: `takes up to ${MOST} falling numbers below ${spaced(most)}, not "${text.slice(0, 60)}"`,
    });
  return numbers;
}

function budgetsOf(text: string, asset: Asset, first: number): number[] {
  const given = numbersOf(text, first);
  if (given.length) return given.map(Math.floor);
  const brief = asset.brief.levels.filter((n) => n < first);
  if (brief.length) return [...brief];
  return [2, 4, 8].map((by) => Math.floor(first / by)).filter((n) => n >= 4);
}

/** Triangles that keep the estimated distance below the allowed pixels at each screen size. */
function budgetsAt(
  options: LevelsOptions,
  asset: Asset,
  size: number,
  first: number,
): number[] {
  const curve = (
    asset.results.reduce?.report as
      { curve?: { triangles: number[]; rms: number[] } } | undefined
  )?.curve;
  if (!curve)
    throw new MissingInputError(
      "screen sizes need the curve of error against triangles: reduce to the budget first",
    );
  const sizes = numbersOf(options.levels, 100_000);
  if (!sizes.length)
    throw new OptionsError("reduce/levels", {
      levels: "say from which heights on the screen, such as 400, 150, 60",
    });
  return sizes.map((pixels) => {
    const allowed = (options.pixels * size) / pixels;
    const at = curve.rms.findIndex((rms) => rms <= allowed);
    const wanted = at < 0 ? first : curve.triangles[at];
    return Math.max(4, Math.min(first - 1, wanted));
  });
}

function heightOf(asset: Asset): number {
  let low = Infinity;
  let high = -Infinity;
  for (const { game } of asset.parts)
    if (game)
      for (let i = 1; i < game.positions.length; i += 3) {
        low = Math.min(low, game.positions[i]);
        high = Math.max(high, game.positions[i]);
      }
  return high > low ? high - low : 1;
}

/** What each part gets of a level: as the record deals it out, else in proportion to what it has. */
function dealTo(
  asset: Asset,
  parts: readonly Part[],
  budget: number,
  first: number,
): Map<string, number> {
  const found = new Map<string, number>();
  const { record } = asset;
  const known =
    record &&
    parts.every((part) => record.parts.some(({ name }) => name === part.name));
  if (known && parts.length === record.parts.length) {
    const all = totalTriangles(asset, "game") / first;
    const { triangles } = allocateBudget(
      record.record,
      allocationOf(record.parts, Math.floor(budget * all), {}, {}),
    );
    record.parts.forEach(({ name, halved }, m) =>
      found.set(name, triangles[m] * (halved ? 2 : 1)),
    );
  }
  for (const part of parts) {
    const own = triangleCount(part.game!);
    const even = Math.floor((own * budget) / first);
    found.set(
      part.name,
      Math.max(2, Math.min(own, found.get(part.name) ?? even)),
    );
  }
  return found;
}
