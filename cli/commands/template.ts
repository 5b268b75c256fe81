import { endingOf } from "../../core/formats/index";
import { UsageError, oneOf, wholeNumber } from "../arguments";
import { briefOf } from "../brief";
import { defineCommand } from "../command";

export const template = defineCommand({
  name: "template",
  words:
    "FILE --out PNG|SVG [--size 2048] [--lines island|seam|hard] [--names] [--ids]",
  about: "draws the UVs of a file as a picture to paint after",
  flags: {
    out: {
      takes: "FILE",
      required: true,
      about: "where to write: .png or .svg",
    },
    size: { takes: "PX", about: "width of the picture" },
    lines: { takes: "BY", about: "what lines are coloured by" },
    names: { about: "writes the names of the parts" },
    ids: { about: "fills faces by ID" },
    tile: { takes: "N", about: "UDIM number of the tile" },
  },
  files: 1,
  async run(call, session) {
    const out = String(call.flags.out);
    const format = endingOf(out);
    if (format !== "png" && format !== "svg")
      throw new UsageError(`--out ${out}: written are .png and .svg`);
    const size = wholeNumber(call, "size", 2048, 16, 8192);
    session.brief(briefOf(call, session.files));
    await session.load(call.files[0], "game");
    const { report, files } = await session.run("unwrap/template", {
      format,
      size,
      lines: oneOf(call, "lines", "island", ["island", "seam", "hard"]),
      names: call.flags.names === true,
      fillIds: call.flags.ids === true,
      tile: wholeNumber(call, "tile", 1001, 1001, 1100),
    });
    session.files.write(out, files![0].bytes);
    return { ...report, file: out };
  },
});
