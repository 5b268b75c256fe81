import type { Asset, Part, StageResult } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { followRepeats } from "../../asset/repeats";
import type { OperationResult } from "../../asset/operation";
import { field } from "../../asset/operation";
import type { Context } from "../../base/context";
import { MissingInputError } from "../../base/errors";
import type { Hull } from "../../mesh/hull";
import type { HullPromise } from "./hull-result";
import { hullResult } from "./hull-result";

/** The option of every operation that works hulls by hand. */
export class HandOptions {
  @field({
    kind: "hulls",
    label: "Hulls",
    help: "Names of hulls; several parted by commas.",
  })
  hulls: string[] = [];
}

/** What hulls are held against where they were never made. */
const PLAIN: HullPromise = {
  kind: "hulls",
  maxHulls: 0,
  error: 0,
  smallestGap: 0,
  from: "game",
  smallestPiece: 0,
  unseenToo: false,
};

/** Hulls that are listed where one is not there. */
const LISTED = 8;

/** A name for one more hull of a part that no hull has. */
export function freeName(
  asset: Asset,
  label: string,
  taken: readonly string[] = [],
): string {
  const known = new Set([
    ...asset.parts.flatMap(({ hulls }) => hulls.map(({ name }) => name)),
    ...taken,
  ]);
  for (let number = 1; ; number++) {
    const name = `${label}_hull_${number}`;
    if (!known.has(name)) return name;
  }
}

/**
 * The hulls of those names, in that order, each with its part.
 * @throws MissingInputError where there is none, where its part is locked, or is a repeat, whose hulls follow its original
 */
export function chosenHulls(
  asset: Asset,
  names: readonly string[],
): { part: Part; hull: Hull }[] {
  if (!names.length) throw new MissingInputError("no hulls are chosen");
  return names.map((name) => {
    for (const part of asset.parts) {
      const hull = part.hulls.find((each) => each.name === name);
      if (!hull) continue;
      if (part.locked)
        throw new MissingInputError(
          `${name} is of ${part.name}, which is locked: unlock it first`,
        );
      if (part.repeat)
        throw new MissingInputError(
          `${name} follows ${part.repeat.of}, which ${part.name} repeats: work the hulls of ${part.repeat.of}`,
        );
      return { part, hull };
    }
    const known = asset.parts.flatMap(({ hulls }) => hulls.map((h) => h.name));
    throw new MissingInputError(
      `there is no hull named ${name}; ${known.length ? `there are ${known.slice(0, LISTED).join(", ")}` : "there are none yet"}${known.length > LISTED ? " and more" : ""}`,
    );
  });
}

/**
 * The asset with other hulls in some parts, which are by hand from now on, and the figures of all of them.
 * @param change gives the hulls of a part; the same array leaves it as it is
 */
export function withHandHulls(
  asset: Asset,
  change: (part: Part) => Hull[],
  context: Context,
): OperationResult {
  const changed = mapParts(asset, (part) => {
    const hulls = part.repeat ? part.hulls : change(part);
    return hulls === part.hulls ? part : { ...part, hulls };
  });
  const next = followRepeats(changed, asset);
  return { asset: next, ...renewed(next, asset.results.collide, context) };
}

/** The figures of all hulls, held against what was asked for when they were made. */
function renewed(
  asset: Asset,
  before: StageResult | undefined,
  context: Context,
) {
  const asked: HullPromise = { ...PLAIN, ...before?.options };
  const { headline, report } = hullResult(asset, asset.parts, asked, () =>
    context.check(),
  );
  const byHand = asset.parts
    .filter(({ repeat, hulls }) => !repeat && hulls.some((each) => each.byHand))
    .map(({ name }) => name);
  return {
    headline,
    report: { ...report, flat: before?.report.flat ?? [], byHand },
  };
}

/** Puts others in the place of chosen hulls, where they stand. */
export const replaceHulls = (
  asset: Asset,
  names: readonly string[],
  by: (hull: Hull, part: Part) => Hull[],
  context: Context,
): OperationResult => {
  const chosen = new Set(chosenHulls(asset, names).map(({ hull }) => hull));
  return withHandHulls(
    asset,
    (part) =>
      part.hulls.some((hull) => chosen.has(hull))
        ? part.hulls.flatMap((hull) =>
            chosen.has(hull)
              ? by(hull, part).map((each) => ({
                  ...each,
                  byHand: true as const,
                }))
              : [hull],
          )
        : part.hulls,
    context,
  );
};
