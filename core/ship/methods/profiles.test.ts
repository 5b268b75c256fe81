import fc from "fast-check";
import { expect, it } from "vitest";
import { one, run } from "../../../tests/one-part";
import { cube } from "../../../tests/shapes";
import { shippedFiles } from "../../../tests/shipped";
import type { DeliveryProfile } from "../../asset/profile";
import {
  keptProfile,
  PROFILES,
  profileOf,
  profileText,
} from "../../asset/profile";
import { stageStates } from "../../asset/stale";
import { findOperation } from "../../operations";
import { describe as documentOf } from "../../route";
import { nextStep } from "../../run-route";
import {
  ProfileOptions,
  checkedProfile,
  optionsOf,
  profileFrom,
  readProfile,
} from "./profiles";

const text = (json: unknown) =>
  new TextEncoder().encode(
    typeof json === "string" ? json : JSON.stringify(json),
  );

const profiles = fc
  .record({
    name: fc.string({ minLength: 1, maxLength: 60 }).filter((x) => !!x.trim()),
    up: fc.constantFrom("y" as const, "z" as const),
    unit: fc.constantFrom("m" as const, "cm" as const, "mm" as const),
    green: fc.constantFrom("up" as const, "down" as const),
    obj: fc.boolean(),
    quantised: fc.boolean(),
    quality: fc.integer({ min: 1, max: 100 }),
    nameMesh: fc.constantFrom("{part}", "SM_{part}"),
  })
  .map((given) => profileFrom(Object.assign(new ProfileOptions(), given)));

it("comes back from its options and from its file as it was", () => {
  fc.assert(
    fc.property(profiles, (profile) => {
      expect(profileFrom(optionsOf(profile))).toEqual(profile);
      expect(
        readProfile("a.json", text(profileText(optionsOf(profile)))),
      ).toEqual(profile);
    }),
  );
  for (const profile of PROFILES) {
    expect(
      readProfile("a.json", text(profileText(optionsOf(profile)))),
    ).toEqual(profile);
    // What everybody has is kept by its name.
    expect(keptProfile({ ...profile })).toBe(profile.name);
  }
  const other = { ...PROFILES[0], greenUp: false };
  expect(keptProfile(other)).toEqual(other);
});

it.each([
  ["{", "it is no JSON of a delivery profile"],
  ["null", "its format is not"],
  [{ format: "arnik project", version: 1 }, "its format is not"],
  [{ format: "arnik delivery profile", version: 2 }, "version 2"],
  [
    { format: "arnik delivery profile", version: 1, name: "a", colour: 1 },
    "colour: there is no such option",
  ],
  [
    { format: "arnik delivery profile", version: 1, name: "a", up: "x" },
    "up: ",
  ],
  [
    { format: "arnik delivery profile", version: 1, name: "a", quality: 400 },
    "quality: ",
  ],
  [{ format: "arnik delivery profile", version: 1 }, "a profile needs a name"],
  [
    {
      ...{ format: "arnik delivery profile", version: 1, green: "down" },
      name: PROFILES[0].name,
    },
    "everybody has another profile of this name",
  ],
  [
    {
      ...{ format: "arnik delivery profile", version: 1, name: "a" },
      nameMesh: "mesh",
    },
    "nameMesh: {part} has to be in it",
  ],
])("refuses a file that is none: %j", (json, words) => {
  expect(() => readProfile("own.json", text(json))).toThrow(words);
  expect(() => readProfile("own.json", text(json))).toThrow(/^own\.json: /);
});

it("is set on an asset, makes Ship stale, and what is shipped next goes by it", async () => {
  const asset = (await run("ship/archive", one(cube()), { page: false })).asset;
  const stateOf = (given: typeof asset) =>
    stageStates(documentOf(given)).find(({ stage }) => stage === "ship")!.state;
  expect(stateOf(asset)).toBe("current");
  const set = await run(
    "ship/profile",
    asset,
    checkedProfile({
      name: "Harbour engine",
      up: "z",
      unit: "cm",
      green: "down",
      obj: false,
      ply: true,
      page: false,
      nameFile: "SM_{asset}",
    }),
  );
  expect(set.report.summary).toBe("Harbour engine");
  const profile: DeliveryProfile = profileOf(set.asset.brief);
  expect(profile).toEqual({
    name: "Harbour engine",
    upAxis: "z",
    unit: 0.01,
    greenUp: false,
    ship: { obj: false, ply: true, page: false, nameFile: "SM_{asset}" },
  });
  expect(stateOf(set.asset)).toBe("stale");
  const again = await run(
    "ship/archive",
    set.asset,
    set.asset.results.ship!.options,
  );
  const names = (again.report.files as { name: string }[]).map(
    ({ name }) => name,
  );
  expect(names).toEqual(["SM_thing.glb", "SM_thing.ply", "report.json"]);
  expect(again.report.profile).toBe("Harbour engine");
  // One that was never shipped goes by it as well.
  const fresh = { ...one(cube()), brief: set.asset.brief };
  const { step } = nextStep(
    {
      ...fresh,
      results: { ...(await run("edges/hard-by-angle", fresh)).asset.results },
    },
    "collide",
  );
  expect(step).toMatchObject({ stage: "ship", options: profile.ship });
});

it("may not give two files one name", async () => {
  await expect(
    shippedFiles(one(cube()), { nameLevel: "{part}", obj: false }),
  ).rejects.toThrow("{level} has to be in it");
  const pair = one(cube());
  const named = (name: string) => ({ ...pair.parts[0], name });
  await expect(
    shippedFiles(
      { ...pair, parts: [named("lid"), named("Lid")] },
      { split: true, obj: false },
    ),
  ).rejects.toThrow("two files would be called");
});

it("keeps its name where the brief says that it is the asset's own", async () => {
  const own = profileFrom(
    Object.assign(new ProfileOptions(), { name: "own", green: "down" }),
  );
  const asset = { ...one(cube()) };
  const given = { ...asset, brief: { ...asset.brief, profile: own } };
  const kept = await run("intake/brief", given, { profile: "own" });
  expect(kept.asset.brief.profile).toEqual(own);
  expect(findOperation("ship/profile").runs).toBe("instant");
});
