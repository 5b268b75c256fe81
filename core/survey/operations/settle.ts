import { PartsOptions } from "../../asset/parts-options";
import { requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { triangleCount } from "../../mesh/mesh";
import { SETTLE_RULES } from "../../settle/settle";
import type { Settled, SettleRule } from "../../settle/settle";
import { withSettledSources } from "../../asset/settled";
import { defineOperation, field } from "../../asset/operation";

class SettleOptions extends PartsOptions {
  @field({
    kind: "choices",
    label: "Rules",
    help: "What is done before anything works on the sources; they themselves stay as they came.",
    choices: SETTLE_RULES,
  })
  rules: SettleRule[] = SETTLE_RULES.map(({ value }) => value);
}

/** What settling did to one part. */
export interface SettledPart {
  part: string;
  /** Triangles of the source, and of what work is done on. */
  source: number;
  triangles: number;
  done: (Settled & { label: string })[];
}

export const settleSources = defineOperation({
  id: "survey/settle",
  stage: "survey",
  title: "Settle the sources",
  about:
    "Says what was done to the sources before they are worked on, and by which rules; reduction, unwrapping and baking then work on the settled view.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  keepsReport: true,
  Options: SettleOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const without = SETTLE_RULES.map(({ value }) => value).filter(
      (rule) => !options.rules.includes(rule),
    );
    const next = withSettledSources(
      { ...asset, settleWithout: without },
      asset,
      context,
    );
    const parts = next.parts.flatMap((part): SettledPart[] => {
      if (!part.source || part.repeat || !part.settled) return [];
      if (options.parts.length && !options.parts.includes(part.name)) return [];
      return [
        {
          part: part.name,
          source: triangleCount(part.source),
          triangles: triangleCount(part.settled.mesh ?? part.source),
          done: part.settled.done.map((one) => ({
            ...one,
            label: SETTLE_RULES.find(({ value }) => value === one.rule)!.label,
          })),
        },
      ];
    });
    const changes = parts.reduce(
      (sum, { done }) => sum + done.reduce((all, { count }) => all + count, 0),
      0,
    );
    return {
      asset: next,
      headline: changes ? `${spaced(changes)} settled` : "settled as it is",
      report: {
        changes,
        without,
        parts,
        summary: changes
          ? `${spaced(changes)} places were settled in ${parts.filter(({ done }) => done.length).length} of ${parts.length} sources`
          : "nothing had to be settled",
      },
    };
  },
});
