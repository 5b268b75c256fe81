import { realNumber } from "../arguments";
import { briefOf } from "../brief";
import { defineCommand, MESH_FILES } from "../command";

export const drop = defineCommand({
  name: "drop",
  words: "FILE… [--max-hulls N] [--slope DEGREES] [--friction N] [--ball MM]",
  about:
    "the drop test on the hulls of a file, or on those made for it where it has none: when it rests, how deep it lies, whether it stands",
  flags: {
    "max-hulls": {
      takes: "N",
      about: "hulls that are made at the most where the file has none",
    },
    slope: { takes: "DEGREES", about: "how steep the slope is" },
    ball: {
      takes: "MM",
      about:
        "diameter of a ball that is fired through gaps; a tenth of the asset's size where left out",
    },
    friction: { takes: "N", about: "0.6 is wood on stone, 0.1 is ice" },
  },
  files: MESH_FILES,
  writes: () => [],
  async run(call, session) {
    const options = {
      slope: realNumber(call, "slope", 15, 0, 60),
      friction: realNumber(call, "friction", 0.6, 0, 2),
      ball: realNumber(call, "ball", 0, 0, 1e6),
    };
    session.brief(briefOf(call, session.files));
    await session.load(call.files, "game");
    if (session.asset.parts.every(({ hulls }) => !hulls.length))
      await session.run("collide/hulls", {});
    const { report } = await session.run("collide/drop", options);
    return report;
  },
});
