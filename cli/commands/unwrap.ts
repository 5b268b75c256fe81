import { writeMeshFile } from "../../core/formats/index";
import { wholeNumber } from "../arguments";
import { defineCommand } from "../command";
import { writeWhole } from "../files";
import { checkOut, namedMeshes, outFlag } from "../output";

export const unwrap = defineCommand({
  name: "unwrap",
  words: "FILE --out FILE [--size 2048] [--padding 8]",
  about: "seams, islands, density, packing",
  flags: {
    out: outFlag,
    size: { takes: "PX", about: "edge of the sheet" },
    padding: { takes: "PX", about: "free texels round every island" },
  },
  files: 1,
  async run(call, session) {
    const out = String(call.flags.out);
    checkOut(out, true);
    session.brief({
      sheetSize: wholeNumber(call, "size", 2048, 16, 8192),
      padding: wholeNumber(call, "padding", 8, 0, 64),
    });
    await session.load(call.files[0], "game");
    const { report } = await session.run("unwrap/unwrap", {});
    writeWhole(
      out,
      await writeMeshFile(out, namedMeshes(session.asset, "game")),
    );
    return report;
  },
});
