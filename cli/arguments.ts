import { basename } from "node:path";
import { parseArgs } from "node:util";
import { safeName } from "../core/formats/raw-mesh";

/** The call itself is wrong: exit code 2. */
export class UsageError extends Error {}

export interface Flag {
  /** What the flag takes, such as `N` or `FILE`; none for a switch. */
  takes?: string;
  required?: boolean;
  about: string;
}

export interface Call {
  files: string[];
  flags: Record<string, string | boolean | undefined>;
}

/** Flags that every command takes. */
const COMMON: Record<string, Flag> = {
  json: { about: "prints one JSON object" },
  overwrite: { about: "allows to write over a file that is read" },
};

/** The flags of a command with what they do, one a line. */
export function flagList(flags: Readonly<Record<string, Flag>>): string {
  const all = Object.entries({
    ...flags,
    ...COMMON,
    help: { about: "prints this" } as Flag,
  }).map(
    ([name, { takes, required, about }]) =>
      [
        `--${name}${takes ? ` ${takes}` : ""}`,
        required ? `${about} (needed)` : about,
      ] as const,
  );
  const wide = Math.max(...all.map(([flag]) => flag.length));
  return all
    .map(([flag, about]) => `  ${flag.padEnd(wide)}  ${about}\n`)
    .join("");
}

/** Reads the words after a command. @throws UsageError naming what is wrong */
export function readCall(
  words: readonly string[],
  flags: Readonly<Record<string, Flag>>,
  files: number | readonly [least: number, most: number],
): Call {
  const all: Record<string, Flag> = { ...flags, ...COMMON };
  let parsed;
  try {
    parsed = parseArgs({
      args: withSigns(words, all),
      allowPositionals: true,
      options: Object.fromEntries(
        Object.entries(all).map(([name, flag]: [string, Flag]) => [
          name,
          { type: flag.takes ? "string" : "boolean" } as const,
        ]),
      ),
    });
  } catch (error) {
    throw new UsageError(wrongFlag(error, all));
  }
  const [least, most] = typeof files === "number" ? [files, files] : files;
  const given = parsed.positionals.length;
  if (given < least || given > most)
    throw new UsageError(wrongCount(given, least, most));
  for (const [name, flag] of Object.entries(flags))
    if (flag.required && parsed.values[name] === undefined)
      throw new UsageError(`--${name} ${flag.takes} is needed`);
  return { files: parsed.positionals, flags: parsed.values as Call["flags"] };
}

/** What is wrong with how many words that are no flags were given. */
function wrongCount(given: number, least: number, most: number): string {
  if (most === 0) return "this command takes no file by itself";
  if (least === 1 && most !== 2)
    return `one FILE expected${most > 1 ? `, up to ${most} can be` : ""}, ${given} given`;
  const words = least === most ? `${most} words` : `${least} to ${most} words`;
  return `${words} expected, ${given} given`;
}

/** A number with a sign after a flag is that flag's value, not a flag of its own. */
function withSigns(
  words: readonly string[],
  flags: Readonly<Record<string, Flag>>,
): string[] {
  const joined: string[] = [];
  for (const word of words) {
    const before = joined.at(-1) ?? "";
    if (/^-[\d.]/.test(word) && flags[before.slice(2)]?.takes)
      joined[joined.length - 1] = `${before}=${word}`;
    else joined.push(word);
  }
  return joined;
}

/** What is wrong with the flags of a call, in a sentence. */
function wrongFlag(
  error: unknown,
  flags: Readonly<Record<string, Flag>>,
): string {
  const told = error instanceof Error ? error.message : String(error);
  const name = /'(?:-\w, )?-{1,2}([^'= <]+)/.exec(told)?.[1] ?? "";
  const flag = flags[name];
  if (flag?.takes) return `--${name} needs a value: --${name} ${flag.takes}`;
  if (flag) return `--${name} takes no value`;
  return `there is no flag --${name}: arnik help lists them`;
}

/** A whole number in a range, or the default. @throws UsageError */
export function wholeNumber(
  call: Call,
  name: string,
  otherwise: number,
  least: number,
  most: number,
): number {
  const text = call.flags[name];
  if (text === undefined) return otherwise;
  const value = Number(text);
  if (!Number.isInteger(value) || value < least || value > most)
    throw new UsageError(
      `--${name} takes a whole number from ${least} to ${most}, not "${String(text)}"`,
    );
  return value;
}

/** A number in a range, or the default. @throws UsageError */
export function realNumber(
  call: Call,
  name: string,
  otherwise: number,
  least: number,
  most: number,
): number {
  const text = call.flags[name];
  if (text === undefined) return otherwise;
  const value = Number(text);
  if (String(text).trim() === "" || !(value >= least && value <= most))
    throw new UsageError(
      `--${name} takes a number from ${least} to ${most}, not "${String(text)}"`,
    );
  return value;
}

export function oneOf(
  call: Call,
  name: string,
  otherwise: string,
  choices: readonly string[],
): string {
  const text = call.flags[name];
  if (text === undefined) return otherwise;
  if (!choices.includes(String(text)))
    throw new UsageError(
      `--${name} takes ${choices.join(", ")}, not "${String(text)}"`,
    );
  return String(text);
}

/** The names in a list parted by commas; none where it is left out. */
export const listed = (text: unknown) =>
  String(text)
    .split(",")
    .filter((each) => each);

/** The name of the asset that a call works on: that of its last file. */
export function nameFor(call: Call): string {
  const file =
    call.files[call.files.length - 1] ??
    call.flags.source ??
    call.flags.game ??
    "asset";
  return safeName(basename(String(file)).replace(/\.[^.]+$/, ""), "asset");
}
