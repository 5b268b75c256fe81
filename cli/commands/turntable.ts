import { join } from "node:path";
import { unzipFiles } from "../../core/formats/archive";
import { oneOf, realNumber, wholeNumber } from "../arguments";
import { defineCommand, MESH_FILES } from "../command";

const LOOKS = ["baked", "plain", "wire", "checker"] as const;

export const turntable = defineCommand({
  name: "turntable",
  words:
    "FILE…|PROJECT.zip --out DIR [--frames N] [--size N] [--look baked|plain|wire|checker] [--above DEGREES]",
  about: "pictures of the asset from all round, and one that moves",
  flags: {
    out: { takes: "DIR", required: true, about: "folder for the pictures" },
    frames: { takes: "N", about: "pictures of a whole turn, 24" },
    size: { takes: "N", about: "edge of each picture, px, 384" },
    look: { takes: "LOOK", about: LOOKS.join(", ") },
    above: { takes: "DEGREES", about: "how steeply it is looked down on, 18" },
  },
  files: MESH_FILES,
  writes: () => [],
  async run(call, session) {
    const options = {
      frames: wholeNumber(call, "frames", 24, 4, 120),
      size: wholeNumber(call, "size", 384, 64, 1024),
      look: oneOf(call, "look", "baked", LOOKS),
      above: realNumber(call, "above", 18, -80, 80),
    };
    await session.load(call.files, "game");
    const { files, report } = await session.run("ship/turntable", options);
    const [archive] = files ?? [];
    const pictures = unzipFiles(archive.name, archive.bytes);
    for (const [name, bytes] of Object.entries(pictures))
      session.files.write(join(String(call.flags.out), name), bytes);
    return report;
  },
});
