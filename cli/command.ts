import type { Call, Flag } from "./arguments";
import type { Session } from "./session";

/** One command of the command line. */
export interface Command {
  name: string;
  /** What stands after the name, for the help. */
  words: string;
  about: string;
  flags: Record<string, Flag>;
  /** How many words that are no flags it takes. */
  files: number | readonly [least: number, most: number];
  /** Files it is known to write before it begins; none says that it is --out. */
  writes?(call: Call): string[];
  /** Flags that only show when it runs (`run` takes those of its operation). */
  flagsFor?(words: readonly string[]): Record<string, Flag>;
  run(call: Call, session: Session): Promise<Record<string, unknown>>;
}

/** Commands that take meshes take up to so many files, which are read together. */
export const MESH_FILES = [1, 64] as const;

export const defineCommand = (command: Command): Command => command;
