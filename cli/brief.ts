import type { Brief } from "../core/asset/asset";
import { keptProfile, PROFILES } from "../core/asset/profile";
import { readProfile } from "../core/ship/methods/profiles";
import { oneOf, wholeNumber } from "./arguments";
import type { Call } from "./arguments";
import type { CallFiles } from "./files";

const PROFILE_NAMES = PROFILES.map(({ name }) => name);

/** What `--profile` takes, in words. */
export const PROFILE_WORDS = `${PROFILE_NAMES.map((name) => `"${name}"`).join(", ")} or the JSON file of one`;

/** @throws UsageError, or ArnikError where the file is no profile */
function profileOf(call: Call, files: CallFiles): Brief["profile"] {
  const given = String(call.flags.profile);
  return /\.json$/i.test(given)
    ? keptProfile(readProfile(given, files.plain(given)))
    : oneOf(call, "profile", "", PROFILE_NAMES);
}

/** Flags that say something of the brief, each with what it says. */
const SAYS: readonly [
  flag: string,
  says: (call: Call, files: CallFiles) => Partial<Brief>,
][] = [
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
  ["profile", (call, files) => ({ profile: profileOf(call, files) })],
];

/** What a call asks of the brief: only what it names, so that a project's own brief stands for the rest. @throws UsageError */
export const briefOf = (call: Call, files: CallFiles): Partial<Brief> =>
  Object.assign(
    {},
    ...SAYS.flatMap(([flag, says]) =>
      call.flags[flag] === undefined ? [] : [says(call, files)],
    ),
  ) as Partial<Brief>;
