import { field, fieldsOf, readOptions } from "../../asset/operation";
import type { DeliveryProfile } from "../../asset/profile";
import {
  keptProfile,
  PROFILE_FORMAT,
  PROFILE_VERSION,
  PROFILES,
} from "../../asset/profile";
import type { Unit } from "../../asset/units";
import { AXES, UNITS } from "../../asset/units";
import { ArnikError, OptionsError } from "../../base/errors";
import { wrongPatterns } from "./names";
import { ShipWays } from "./ship-options";

/** The operation that sets a profile: what is wrong with one is told as its options. */
export const SET_PROFILE = "ship/profile";

/** A delivery profile, as it is written and kept: how files are made, and all that Ship does by itself. */
export class ProfileOptions extends ShipWays {
  @field({
    kind: "text",
    label: "Name",
    help: "What the profile is called.",
    max: 60,
  })
  name = "";

  @field({
    kind: "choice",
    label: "Up axis",
    help: "Which axis points up in OBJ, PLY and STL; glTF's is always y.",
    choices: AXES,
  })
  up: "y" | "z" = "y";

  @field({
    kind: "choice",
    label: "Unit",
    help: "What one unit of OBJ, PLY and STL measures; glTF's is always the metre.",
    choices: UNITS,
  })
  unit: Unit = "m";

  @field({
    kind: "choice",
    label: "Green",
    help: "Which way the green channel of normal maps points on the sheet; inside glTF it always points up.",
    choices: [
      { value: "up", label: "up" },
      { value: "down", label: "down" },
    ],
  })
  green: "up" | "down" = "up";
}

/** What Ship does by itself: the names of the options that a profile says. */
const WAYS = fieldsOf({ Options: ShipWays }).map(({ name }) => name);

/** @throws OptionsError for patterns of names that don't tell things apart, and for a profile without a name of its own */
export function profileFrom(options: ProfileOptions): DeliveryProfile {
  const wrong = wrongPatterns(options);
  if (!options.name.trim()) wrong.name = "a profile needs a name";
  if (Object.keys(wrong).length) throw new OptionsError(SET_PROFILE, wrong);
  const plain = new ShipWays() as unknown as Record<string, unknown>;
  const given = options as unknown as Record<string, unknown>;
  const ship = Object.fromEntries(
    WAYS.flatMap((name) =>
      given[name] === plain[name] ? [] : [[name, given[name]]],
    ),
  );
  const profile: DeliveryProfile = {
    name: options.name.trim(),
    upAxis: options.up,
    unit: UNITS.find(({ value }) => value === options.unit)!.metres,
    greenUp: options.green === "up",
    ...(Object.keys(ship).length && { ship }),
  };
  const known = PROFILES.some(({ name }) => name === profile.name);
  if (known && typeof keptProfile(profile) !== "string")
    throw new OptionsError(SET_PROFILE, {
      name: "everybody has another profile of this name: call yours something else",
    });
  return profile;
}

/** A profile as the options that set it. */
export const optionsOf = ({
  name,
  upAxis,
  unit,
  greenUp,
  ship,
}: DeliveryProfile): ProfileOptions =>
  Object.assign(new ProfileOptions(), ship, {
    name,
    up: upAxis,
    unit: UNITS.find(({ metres }) => metres === unit)?.value ?? "m",
    green: greenUp ? "up" : "down",
  });

/** A profile is small: what is larger is none. */
const LARGEST = 64 * 1024;

/** The profile in a JSON file. @throws ArnikError naming the file and what is wrong in it */
export function readProfile(file: string, bytes: Uint8Array): DeliveryProfile {
  let json: unknown;
  try {
    if (bytes.length > LARGEST) throw new Error("too large");
    json = JSON.parse(new TextDecoder().decode(bytes));
  } catch {
    throw new ArnikError(`${file}: it is no JSON of a delivery profile`);
  }
  const { format, version, ...options } = (json ?? {}) as Record<
    string,
    unknown
  >;
  if (format !== PROFILE_FORMAT)
    throw new ArnikError(`${file}: its format is not "${PROFILE_FORMAT}"`);
  if (version !== PROFILE_VERSION)
    throw new ArnikError(
      `${file}: it is a profile of version ${String(version)}; version ${PROFILE_VERSION} is read`,
    );
  try {
    return profileFrom(checkedProfile(options));
  } catch (error) {
    throw error instanceof OptionsError
      ? new ArnikError(
          `${file}: ${Object.entries(error.fields)
            .map(([key, why]) => `${key}: ${why}`)
            .join("; ")}`,
        )
      : error;
  }
}

/** The options of a profile from what nobody is to be trusted with. @throws OptionsError */
export const checkedProfile = (raw: unknown): ProfileOptions =>
  readOptions({ id: SET_PROFILE, Options: ProfileOptions }, raw);
