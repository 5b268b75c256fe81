import { oneOf, realNumber, wholeNumber } from "../arguments";
import { briefOf } from "../brief";
import { defineCommand, MESH_FILES } from "../command";
import { checkOut, outFlag, writeHulls, writeProject } from "../output";

const KINDS = [
  "best",
  "box",
  "sphere",
  "capsule",
  "prism",
  "hull",
  "hulls",
  "ground",
] as const;

export const collide = defineCommand({
  name: "collide",
  words:
    "FILE… --out FILE [--kind best|box|sphere|capsule|prism|hull|hulls|ground] [--max-hulls N] [--max-vertices N] [--error MM] [--smallest-gap MM]",
  about: "collision shapes as named nodes or objects",
  flags: {
    out: outFlag,
    kind: { takes: "KIND", about: KINDS.join(", ") },
    "max-hulls": { takes: "N", about: "hulls at the most" },
    "max-vertices": { takes: "N", about: "vertices of a hull at the most" },
    error: { takes: "MM", about: "how far a shape may stand off" },
    "smallest-gap": { takes: "MM", about: "narrower gaps may be covered" },
    together: {
      takes: "part|group|asset",
      about: "what shapes are made for: each part, each group, all",
    },
    from: {
      takes: "game|source|1|2|3",
      about: "the mesh, or level, they are made from",
    },
  },
  files: MESH_FILES,
  async run(call, session) {
    const out = String(call.flags.out);
    checkOut(out);
    const options = {
      kind: oneOf(call, "kind", "hulls", KINDS),
      together: oneOf(call, "together", "part", ["part", "group", "asset"]),
      from: oneOf(call, "from", "game", ["game", "source", "1", "2", "3"]),
      vertices: wholeNumber(call, "max-vertices", 32, 4, 255),
      error: realNumber(call, "error", 0, 0, 100_000),
      smallestGap: realNumber(call, "smallest-gap", 0, 0, 100_000),
    };
    session.brief(briefOf(call, session.files));
    await session.load(call.files, "game");
    const { report } = await session.run("collide/hulls", options);
    if (!writeProject(session.files, out, session.asset))
      await writeHulls(session.files, out, session.asset);
    return report;
  },
});
