import { writeMeshFile } from "../../core/formats/index";
import { UsageError, wholeNumber } from "../arguments";
import { defineCommand } from "../command";
import { writeWhole } from "../files";
import { namedMeshes, outFlag } from "../output";

export const reduce = defineCommand({
  name: "reduce",
  words: "FILE --triangles N --out FILE",
  about: "to the budget, over all parts together",
  flags: {
    triangles: { takes: "N", required: true, about: "budget over all parts" },
    out: outFlag,
  },
  files: 1,
  async run(call, session) {
    const triangles = wholeNumber(call, "triangles", 0, 4, 2_000_000);
    const out = String(call.flags.out);
    await session.load(call.files[0], "source");
    const { report } = await session.run("reduce/to-budget", { triangles });
    const parts = namedMeshes(session.asset, "game");
    if (!parts.length)
      throw new UsageError(
        `--triangles ${triangles} leaves nothing of this mesh`,
      );
    writeWhole(out, await writeMeshFile(out, parts));
    return report;
  },
});
