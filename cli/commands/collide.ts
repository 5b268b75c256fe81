import { hullMeshes, writeMeshFile } from "../../core/formats/index";
import { oneOf } from "../arguments";
import { briefOf } from "../brief";
import { defineCommand, MESH_FILES } from "../command";
import { checkOut, outFlag, writeProject } from "../output";

export const collide = defineCommand({
  name: "collide",
  words:
    "FILE… --out FILE [--kind hulls|hull|box|sphere|capsule] [--max-hulls N]",
  about: "collision shapes as named nodes or objects",
  flags: {
    out: outFlag,
    kind: { takes: "KIND", about: "hulls, hull, box, sphere or capsule" },
    "max-hulls": { takes: "N", about: "hulls at the most" },
  },
  files: MESH_FILES,
  async run(call, session) {
    const out = String(call.flags.out);
    checkOut(out);
    const kind = oneOf(call, "kind", "hulls", [
      "hulls",
      "hull",
      "box",
      "sphere",
      "capsule",
    ]);
    session.brief(briefOf(call));
    await session.load(call.files, "game");
    const { report } = await session.run("collide/hulls", { kind });
    if (!writeProject(session.files, out, session.asset))
      session.files.write(
        out,
        await writeMeshFile(
          out,
          hullMeshes(session.asset.parts.flatMap((part) => part.hulls)),
        ),
      );
    return report;
  },
});
