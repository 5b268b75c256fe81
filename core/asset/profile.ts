/** What the JSON file of a profile says it is. */
export const PROFILE_FORMAT = "arnik delivery profile";
export const PROFILE_VERSION = 1;

/** A profile as a JSON file: the options that set it, and what it says it is. */
export const profileText = (options: object): string =>
  `${JSON.stringify({ format: PROFILE_FORMAT, version: PROFILE_VERSION, ...options }, null, 2)}\n`;

/** How an engine wants what is delivered. */
export interface DeliveryProfile {
  name: string;
  upAxis: "y" | "z";
  /** Metres in one of the profile's units. */
  unit: number;
  /** Whether a normal map's green channel points up the sheet. */
  greenUp: boolean;
  /** What Ship does by itself: options of `ship/archive` by their names, where they are not as everywhere. */
  ship?: Readonly<Record<string, unknown>>;
}

/** The profiles that everybody has. */
export const PROFILES: readonly DeliveryProfile[] = [
  { name: "y-up metres, green up", upAxis: "y", unit: 1, greenUp: true },
  {
    name: "z-up centimetres, green down",
    upAxis: "z",
    unit: 0.01,
    greenUp: false,
  },
];

/** A profile as a brief keeps it: the name of one that everybody has, or one of its own. */
export type KeptProfile = string | DeliveryProfile;

/** The delivery profile of a brief: one of those that everybody has by its name, or one of its own. */
export const profileOf = ({
  profile,
}: {
  profile: KeptProfile;
}): DeliveryProfile =>
  typeof profile === "string"
    ? (PROFILES.find((each) => each.name === profile) ?? PROFILES[0])
    : profile;

/** A profile as a brief keeps it: by name where everybody has it just so. */
export function keptProfile(profile: DeliveryProfile): KeptProfile {
  const known = PROFILES.find(({ name }) => name === profile.name);
  return known && JSON.stringify(known) === JSON.stringify(profile)
    ? known.name
    : profile;
}
