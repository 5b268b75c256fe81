import type { Mend } from "../../core/survey/methods/mend";
import { MENDS } from "../../core/survey/methods/mend";
import { UsageError } from "../arguments";
import { defineCommand, MESH_FILES } from "../command";
import { writeWithLevels } from "../output";

/** Findings that go by another name than what mends them. */
const MENDED_BY: Record<string, Mend> = {
  nonManifoldEdges: "nonManifold",
  nonManifoldVertices: "nonManifold",
};

export const survey = defineCommand({
  name: "survey",
  words:
    "FILE… [--repair LIST [--holes MM] --out FILE] [--unseen [--from WHERE]]",
  about:
    "counts, defects and where they are; mends them; finds what nobody sees",
  flags: {
    repair: {
      takes: "LIST",
      about: `what to mend: all, or some of ${MENDS.map(({ value }) => value).join(",")}`,
    },
    holes: {
      takes: "MM",
      about: "closes holes up to this wide; all but those that may be meant",
    },
    out: { takes: "FILE", about: "where the mended meshes go" },
    tolerance: {
      takes: "MM",
      about: "vertices nearer than this coincide; 0.01",
    },
    unseen: {
      about: "lists the faces nobody sees and what removing them frees",
    },
    from: {
      takes: "WHERE",
      about: "all-round, on-a-floor, against-a-wall, or a path of x,y,z;x,y,z",
    },
    transparent: {
      takes: "LIST",
      about: "materials and parts that hide nothing",
    },
  },
  files: MESH_FILES,
  async run(call, session) {
    const { repair, out } = call.flags;
    if ((repair === undefined) !== (out === undefined))
      throw new UsageError("--repair and --out go together");
    const mends = repair === undefined ? [] : mendsOf(String(repair));
    const tolerance = millimetres("tolerance", call.flags.tolerance, 0.01, 100);
    await session.load(call.files, "source", false);
    session.hullsAreSources();
    let mended = {};
    if (repair !== undefined) {
      const done = await session.run("survey/repair", {
        mend: mends,
        tolerance,
        holes: millimetres("holes", call.flags.holes, 0, 1e6),
      });
      const { mended: counts, open, crossing, scraps, cut } = done.report;
      mended = {
        mended: counts,
        leftUnmended: { open, crossing, scraps, cut },
      };
      await writeWithLevels(
        session.files,
        String(out),
        session.asset,
        "source",
      );
    }
    if (call.flags.unseen) {
      const { report } = await session.run("survey/unseen", {
        ...outside(String(call.flags.from ?? "all-round")),
        transparent: String(call.flags.transparent ?? ""),
      });
      return { ...mended, ...report };
    }
    const { report } = await session.run("survey/count", { tolerance });
    const settled = await session.run("survey/settle", {});
    return { ...mended, ...report, settled: settled.report };
  },
});

function mendsOf(list: string): Mend[] {
  if (list === "all") return MENDS.map(({ value }) => value);
  const known = MENDS.map(({ value }) => value as string);
  const words = list
    .split(",")
    .filter(Boolean)
    .map((word) => MENDED_BY[word] ?? word);
  const strange = words.find((word) => !known.includes(word));
  if (strange !== undefined || !words.length)
    throw new UsageError(
      `--repair takes all, or some of ${known.join(",")}, not "${strange ?? list}"`,
    );
  return [...new Set(words)] as Mend[];
}

function millimetres(
  flag: string,
  text: string | boolean | undefined,
  otherwise: number,
  most: number,
): number {
  if (text === undefined) return otherwise;
  const value = Number(text);
  if (!(value >= 0 && value <= most))
    throw new UsageError(
      `--${flag} takes millimetres from 0 to ${most}, not "${String(text)}"`,
    );
  return value;
}

function outside(where: string) {
  const kinds = ["all round", "on a floor", "against a wall"];
  const kind = kinds.find((each) => each === where.replaceAll("-", " "));
  return kind ? { from: kind } : { from: "from a path", path: where };
}
