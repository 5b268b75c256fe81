import { basename } from "node:path";
import { isMeshFile } from "../core/formats/index";
import { ArnikError, OptionsError } from "../core/base/errors";
import { UsageError, flagList, nameFor, readCall } from "./arguments";
import type { Call } from "./arguments";
import type { Command } from "./command";
import { bake } from "./commands/bake";
import { collide } from "./commands/collide";
import { drop } from "./commands/drop";
import { make } from "./commands/make";
import { operations } from "./commands/operations";
import { project } from "./commands/project";
import { reduce } from "./commands/reduce";
import { run } from "./commands/run";
import { ship } from "./commands/ship";
import { store } from "./commands/store";
import { survey } from "./commands/survey";
import { template } from "./commands/template";
import { turntable } from "./commands/turntable";
import { unwrap } from "./commands/unwrap";
import { wordsOfCall } from "./paths";
import { Session } from "./session";

const COMMANDS: readonly Command[] = [
  survey,
  reduce,
  unwrap,
  template,
  bake,
  collide,
  drop,
  make,
  ship,
  turntable,
  operations,
  run,
  project,
  store,
];

function help(): string {
  const lines = COMMANDS.map(
    (command) =>
      `  arnik ${command.name} ${command.words}\n      ${command.about}`,
  );
  return `arnik: high-detail meshes in, game-ready ones out\n\n${lines.join("\n")}\n\narnik COMMAND --help lists its flags; every command takes --json. Exit codes: 0 done, 1 the work failed, 2 the call is wrong.\n`;
}

const flagsOf = (command: Command, words: readonly string[]) => ({
  ...command.flags,
  ...(words.length ? command.flagsFor?.(words) : {}),
});

/** What one command does, and its flags; of `run` those of the operation that is named. */
const helpOn = (command: Command, words: readonly string[]) =>
  `arnik ${command.name} ${command.words}\n  ${command.about}\n\n${flagList(flagsOf(command, words))}`;

/** Figures for people: one a line, lists and trees left to --json. */
function print(report: Record<string, unknown>): string {
  return Object.entries(report)
    .filter(
      ([, value]) =>
        (typeof value !== "object" && value !== undefined) ||
        value === null ||
        (Array.isArray(value) &&
          value.every((each) => typeof each !== "object")),
    )
    .map(
      ([key, value]) =>
        `${key}: ${Array.isArray(value) ? value.join(", ") : String(value)}\n`,
    )
    .join("");
}

async function main(words: string[]): Promise<number> {
  const [name, ...rest] = words;
  if (!name || name === "--help" || name === "help") {
    process.stdout.write(help());
    return name ? 0 : 2;
  }
  let session: Session | null = null;
  let file = "";
  try {
    const command = COMMANDS.find((each) => each.name === name);
    if (!command)
      throw new UsageError(
        `there is no command "${name}": arnik help lists them`,
      );
    if (rest.includes("--help")) {
      const words = rest.filter((word) => word !== "--help");
      process.stdout.write(helpOn(command, words));
      return 0;
    }
    const call = readCall(rest, flagsOf(command, rest), command.files);
    file = call.files.filter(isMeshFile).at(-1) ?? "";
    session = new Session(nameFor(call), call.flags.overwrite === true);
    guardInputs(command, call, session);
    const report = await command.run(call, session);
    await session.close();
    if (call.flags.json) process.stdout.write(`${JSON.stringify(report)}\n`);
    else if (name === "operations") process.stdout.write(list(report));
    else process.stdout.write(print(report));
    // Whoever asks for JSON has it in the report.
    if (!call.flags.json)
      for (const word of session.words)
        process.stderr.write(`arnik: ${word}\n`);
    if (!session.failure) return 0;
    process.stderr.write(`arnik: ${session.failure}\n`);
    return 1;
  } catch (error) {
    await session?.close();
    const wrongCall =
      error instanceof UsageError || error instanceof OptionsError;
    const known = wrongCall || error instanceof ArnikError;
    const message = error instanceof Error ? error.message : String(error);
    const place =
      known && !wrongCall && file && !message.includes(basename(file))
        ? `${file}: `
        : "";
    process.stderr.write(
      `arnik: ${known ? "" : "unexpected: "}${place}${message.replace(/\s*\n\s*/g, " ")}\n`,
    );
    return wrongCall ? 2 : 1;
  }
}

function list(report: Record<string, unknown>): string {
  const found = report.operations as {
    id: string;
    about: string;
    options: { name: string; help: string }[];
  }[];
  return found
    .map(
      ({ id, about, options }) =>
        `${id}\n  ${about}\n${options.map((o) => `    ${o.name}: ${o.help}\n`).join("")}`,
    )
    .join("");
}

/** Refuses, before any work, to write over a file that is read. */
function guardInputs(command: Command, call: Call, session: Session): void {
  const { source, game, weights, cage, out } = call.flags;
  for (const path of [...call.files, source, game, weights, cage])
    if (typeof path === "string") session.files.keep(path);
  for (const path of command.writes?.(call) ??
    (typeof out === "string" ? [out] : []))
    session.files.checkTarget(path);
}

// Whoever reads the output may stop reading: that is no error.
process.stdout.on("error", (error: NodeJS.ErrnoException) => {
  if (error.code !== "EPIPE") throw error;
  process.exit(process.exitCode);
});
process.exitCode = await main(wordsOfCall());
