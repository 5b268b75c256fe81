import type { Brief } from "../core/asset/asset";
import { PROFILES } from "../core/asset/asset";
import { oneOf, wholeNumber } from "./arguments";
import type { Call } from "./arguments";

const PROFILE_NAMES = PROFILES.map(({ name }) => name);

/** Flags that say something of the brief, each with what it says. */
const SAYS: readonly [flag: string, says: (call: Call) => Partial<Brief>][] = [
  [
    "triangles",
    (call) => ({ triangles: wholeNumber(call, "triangles", 0, 4, 2_000_000) }),
  ],
  ["size", (call) => ({ sheetSize: wholeNumber(call, "size", 0, 16, 8192) })],
  [
    "height",
    (call) => ({ sheetHeight: wholeNumber(call, "height", 0, 0, 8192) }),
  ],
  ["padding", (call) => ({ padding: wholeNumber(call, "padding", 0, 0, 64) })],
  [
    "max-hulls",
    (call) => ({ hulls: wholeNumber(call, "max-hulls", 0, 1, 256) }),
  ],
  [
    "profile",
    (call) => ({ profile: oneOf(call, "profile", "", PROFILE_NAMES) }),
  ],
];

/** What a call asks of the brief: only what it names, so that a project's own brief stands for the rest. @throws UsageError */
export const briefOf = (call: Call): Partial<Brief> =>
  Object.assign(
    {},
    ...SAYS.flatMap(([flag, says]) =>
      call.flags[flag] === undefined ? [] : [says(call)],
    ),
  ) as Partial<Brief>;
