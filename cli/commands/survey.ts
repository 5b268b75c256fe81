import { defineCommand } from "../command";

export const survey = defineCommand({
  name: "survey",
  words: "FILE",
  about: "counts and defects",
  flags: {},
  files: 1,
  async run(call, session) {
    await session.load(call.files[0], "source");
    const { report } = await session.run("survey/count", {});
    return report;
  },
});
