import { parseArgs } from "node:util";

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

/** Reads the words after a command. @throws UsageError naming what is wrong */
export function readCall(
  words: readonly string[],
  flags: Readonly<Record<string, Flag>>,
  files: number,
): Call {
  let parsed;
  try {
    parsed = parseArgs({
      args: [...words],
      allowPositionals: true,
      options: Object.fromEntries(
        Object.entries({ ...flags, json: { about: "" } }).map(
          ([name, flag]: [string, Flag]) => [
            name,
            { type: flag.takes ? "string" : "boolean" } as const,
          ],
        ),
      ),
    });
  } catch (error) {
    throw new UsageError(
      error instanceof Error ? error.message.split(". ")[0] : String(error),
    );
  }
  if (parsed.positionals.length !== files)
    throw new UsageError(
      files === 0
        ? "this command takes no file by itself"
        : `${files === 1 ? "one FILE" : `${files} words`} expected, ${parsed.positionals.length} given`,
    );
  for (const [name, flag] of Object.entries(flags))
    if (flag.required && parsed.values[name] === undefined)
      throw new UsageError(`--${name} ${flag.takes} is needed`);
  return { files: parsed.positionals, flags: parsed.values as Call["flags"] };
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
