import { PartsOptions } from "../asset/parts-options";
import { chosenParts, requireMeshes, spaced } from "../asset/asset";
import { mapParts } from "../asset/parts";
import { defineOperation, field } from "../operation";
import type { Mend, Mended } from "./mend";
import { MENDS, mendMesh } from "./mend";

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
    "Welds, parts, turns and closes what is wrong with the meshes; nothing moves farther than the tolerance.",
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
    let done = 0;
    const next = mapParts(asset, (part) => {
      const mesh = part[options.mesh];
      if (!mesh || !chosen.has(part.name)) return part;
      context.check();
      context.progress(done++ / chosen.size, `mending ${part.name}`);
      const { mesh: mended, mended: counts } = mendMesh(mesh, mends, {
        tolerance: options.tolerance / 1000,
        check: context.check,
      });
      for (const { value } of MENDS) total[value] += counts[value];
      return mended === mesh ? part : { ...part, [options.mesh]: mended };
    });
    const words = MENDS.filter(({ value }) => total[value]).map(
      ({ value, label }) => `${label}: ${spaced(total[value])}`,
    );
    return {
      asset: next,
      headline: "",
      report: { mended: total, summary: words.join(", ") || "nothing to mend" },
    };
  },
});
