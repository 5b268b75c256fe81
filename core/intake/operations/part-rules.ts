import { PartsOptions } from "../../asset/parts-options";
import { budgetOf } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { mapParts } from "../../asset/parts";
import { MissingInputError, OptionsError } from "../../base/errors";
import { defineOperation, field } from "../../asset/operation";

class PartRulesOptions extends PartsOptions {
  @field({
    kind: "integer",
    label: "Own budget",
    empty: "shares the asset's",
    help: "Triangles these parts get each; 0 shares the asset's budget.",
    unit: "triangles",
    min: 0,
    max: 2000000,
  })
  budget = 0;

  @field({
    kind: "flag",
    label: "At most",
    help: "The own budget or share is a ceiling only: these parts still share with the others below it.",
  })
  capped = false;

  @field({
    kind: "number",
    label: "Own share",
    empty: "what others leave",
    help: "Share of the asset's triangles these parts get each; 0 shares what the others leave.",
    unit: "%",
    min: 0,
    max: 100,
  })
  share = 0;

  @field({
    kind: "flag",
    label: "Locked",
    help: "Locked parts are left as they are by every operation.",
  })
  locked = false;
}

/** Whose rules they are and what they say: `lid: 400 triangles of its own, locked`. */
function wordsOf({
  parts,
  budget,
  share,
  capped,
  locked,
}: PartRulesOptions): string {
  const whose = parts.length > 3 ? `${parts.length} parts` : parts.join(", ");
  const most = capped ? " at most" : "";
  const own = budget
    ? `${spaced(budget)} triangles${most} ${parts.length === 1 ? "of its own" : "each"}`
    : share
      ? `${share}\u2009% of the budget${most}`
      : "shares the budget";
  return `${whose || "all parts"}: ${own}${locked ? ", locked" : ""}`;
}

export const setPartRules = defineOperation({
  id: "intake/part-rules",
  stage: "intake",
  title: "Set part budgets and locks",
  about: "Gives parts a budget of their own, or locks them.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: PartRulesOptions,
  run(asset, options) {
    for (const name of options.parts)
      if (!asset.parts.some((part) => part.name === name))
        throw new MissingInputError(`there is no part "${name}"`);
    if (options.budget && options.share)
      throw new OptionsError("intake/part-rules", {
        share: "a part has a fixed budget or a share, not both",
      });
    const meant = (name: string) =>
      !options.parts.length || options.parts.includes(name);
    const next = mapParts(asset, (part) =>
      meant(part.name)
        ? {
            ...part,
            budget: options.budget,
            capped: options.capped,
            share: options.share / 100,
            locked: options.locked,
          }
        : part,
    );
    const fixed = next.parts.reduce(
      (sum, part) => sum + (part.capped ? 0 : budgetOf(next, part)),
      0,
    );
    return {
      asset: next,
      headline: "",
      report: {
        fixedTriangles: fixed,
        summary: wordsOf(options),
      },
    };
  },
});
