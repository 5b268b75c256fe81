import { join } from "node:path";
import type { Stage } from "../../core/asset/stages";
import { ROUTE } from "../../core/run-route";
import { nameFor } from "../arguments";
import { briefOf, PROFILE_WORDS } from "../brief";
import { defineCommand, MESH_FILES } from "../command";
import { bakeOptions, mapFlags } from "./bake";

export const make = defineCommand({
  name: "make",
  words:
    "FILE… --triangles N --out DIR [--size N] [--padding N] [--maps …] [--samples N] [--max-hulls N] [--profile NAME|FILE] [--levels N,N]",
  about:
    "the whole route: ASSET.glb, the maps, levels of detail, report.html and report.json",
  flags: {
    triangles: { takes: "N", required: true, about: "budget over all parts" },
    out: { takes: "DIR", required: true, about: "folder for the files" },
    size: { takes: "PX", about: "edge of the sheet" },
    padding: { takes: "PX", about: "free texels round every island" },
    ...mapFlags,
    unseen: {
      about: "deals triangles out to what nobody sees from outside as well",
    },
    broken: {
      about:
        "keeps what a budget under the knee breaks, where shapes would stand for it or it would only be baked",
    },
    smallest: {
      about: "keeps pieces and handles far smaller than a triangle will be",
    },
    "max-hulls": { takes: "N", about: "hulls at the most" },
    levels: {
      takes: "N,N",
      about: "triangles of further levels of detail, falling",
    },
    profile: {
      takes: "NAME|FILE",
      about: PROFILE_WORDS,
    },
  },
  files: MESH_FILES,
  writes: (call) =>
    [`${nameFor(call)}.glb`, "report.json"].map((name) =>
      join(String(call.flags.out), name),
    ),
  async run(call, session) {
    const maps = bakeOptions(call);
    const out = String(call.flags.out);
    session.brief(briefOf(call, session.files));
    const intake = await session.load(call.files, "source");
    // Where shapes break is known from reducing.
    const survey = await session.run("survey/count", { ahead: "never" });
    const settle = await session.run("survey/settle", {});
    const step = (stage: Stage, options: object) =>
      session.runStep({ stage, operation: ROUTE[stage]!, options });
    const reduce = session.asset.parts.some(({ game }) => !game)
      ? await step("reduce", {
          unseen: Boolean(call.flags.unseen),
          smallest: Boolean(call.flags.smallest),
          broken: Boolean(call.flags.broken),
        })
      : { report: {} };
    if (session.failure) return { files: [], reduce: reduce.report };
    const edges = await step("edges", {});
    const unwrap = await step("unwrap", {});
    const levels = call.flags.levels
      ? await session.levels(String(call.flags.levels))
      : { report: {} };
    const bake = await step("bake", maps);
    const collide = await step("collide", {});
    const { files, report } = await session.ship({});
    const figures = {
      intake: intake.report,
      survey: survey.report,
      settle: settle.report,
      reduce: reduce.report,
      levels: levels.report,
      edges: edges.report,
      unwrap: unwrap.report,
      bake: bake.report,
      collide: collide.report,
      ship: {
        triangles: report.triangles,
        hulls: report.hulls,
        validator: report.validator,
        checks: report.checks,
      },
    };
    for (const file of files) {
      const bytes =
        file.name === "report.json"
          ? new TextEncoder().encode(
              `${JSON.stringify({ ...report, stages: figures }, null, 2)}\n`,
            )
          : file.bytes;
      session.files.write(join(out, file.name), bytes);
    }
    return { files: files.map((file) => file.name), ...figures };
  },
});
