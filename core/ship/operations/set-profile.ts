import { keptProfile } from "../../asset/profile";
import { defineOperation } from "../../asset/operation";
import { ProfileOptions, profileFrom, SET_PROFILE } from "../methods/profiles";

/**
 * Gives an asset a delivery profile. What is shipped anew goes by it, whatever was chosen when it was shipped before.
 * @throws OptionsError for names that don't tell things apart
 */
export const setProfile = defineOperation({
  id: SET_PROFILE,
  stage: "ship",
  title: "Set the delivery profile",
  about:
    "Axes, unit and green channel of what is shipped, how all of it is called, and which files there are.",
  runs: "instant",
  takes: "both",
  makesResult: false,
  Options: ProfileOptions,
  run(asset, options) {
    const profile = profileFrom(options);
    const { name, up, unit, green, ...ways } = options;
    const { ship } = asset.results;
    return {
      asset: {
        ...asset,
        brief: { ...asset.brief, profile: keptProfile(profile) },
        results: ship
          ? {
              ...asset.results,
              ship: { ...ship, options: { ...ship.options, ...ways } },
            }
          : asset.results,
      },
      headline: "",
      report: { name, up, unit, green, summary: profile.name },
    };
  },
});
