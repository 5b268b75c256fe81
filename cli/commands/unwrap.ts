import type { Call } from "../arguments";
import { oneOf, realNumber, wholeNumber } from "../arguments";
import { defineCommand, MESH_FILES } from "../command";
import { briefOf } from "../brief";
import { checkOut, outFlag, writeWithLevels } from "../output";

const SHARE = { never: "never", unseen: "never seen together", all: "all" };
const ROTATE = { any: "any", right: "right angles", none: "none" };

/** What the flags say of the operation's options; what they leave out keeps its default. */
function optionsOf(call: Call): Record<string, unknown> {
  const rotate = oneOf(call, "rotate", "any", Object.keys(ROTATE));
  // A switch without a word shares what nobody can tell.
  const share = oneOf(call, "share", "never", Object.keys(SHARE));
  return {
    islands: wholeNumber(call, "islands", 0, 0, 10000),
    stretch: realNumber(call, "stretch", 1.08, 1.01, 2),
    hide: realNumber(call, "hide", 0.8, 0, 1),
    keep: call.flags["keep-seams"] ? "all" : "hand",
    share: SHARE[share as keyof typeof SHARE],
    rotate: ROTATE[rotate as keyof typeof ROTATE],
    tiles: wholeNumber(call, "tiles", 1, 1, 100),
    density: realNumber(call, "density", 0, 0, 100000),
    seconds: realNumber(call, "seconds", 0, 0, 3600),
  };
}

export const unwrap = defineCommand({
  name: "unwrap",
  words:
    "FILE… --out FILE [--size 2048] [--padding 8] [--islands N] [--stretch N] [--share unseen|all] [--tiles N] [--density N] [--keep-seams] [--rotate any|right|none] [--seconds N]",
  about: "seams, islands, density, packing",
  flags: {
    out: outFlag,
    size: { takes: "PX", about: "width of the sheet" },
    height: {
      takes: "PX",
      about: "height of the sheet, where it is not square",
    },
    padding: { takes: "PX", about: "free texels round every island" },
    islands: { takes: "N", about: "islands at most, whatever they stretch" },
    stretch: { takes: "N", about: "L2 stretch an island may have" },
    hide: { takes: "N", about: "0 to 1: how much seams hide" },
    share: {
      takes: "WHICH",
      about: "unseen or all: lays like islands on one another",
    },
    tiles: { takes: "N", about: "sheets, as UDIM tiles" },
    density: { takes: "N", about: "texels per metre; 0 for as many as fit" },
    "keep-seams": { about: "keeps the seams of the file's UVs" },
    rotate: { takes: "HOW", about: "any, right or none" },
    seconds: { takes: "N", about: "time for a tighter packing" },
  },
  files: MESH_FILES,
  async run(call, session) {
    const out = String(call.flags.out);
    checkOut(out, true);
    session.brief(briefOf(call, session.files));
    const options = optionsOf(call);
    await session.load(call.files, "game");
    const { report } = await session.run("unwrap/unwrap", options);
    await writeWithLevels(session.files, out, session.asset, "game");
    return report;
  },
});
