// @vitest-environment happy-dom
import { flushPromises } from "@vue/test-utils";
import { beforeEach, expect, it, vi } from "vitest";
import { PROFILES } from "../../../core/asset/profile";
import { optionsOf } from "../../../core/ship/methods/profiles";
import { infoOf, shown, stage } from "../../../tests/mounted";
import * as api from "../../stores/api";
import ProfilePanel from "./ProfilePanel.vue";
import { profileOptions } from "./profile-options";

const OWN = {
  name: "Harbour engine",
  upAxis: "z" as const,
  unit: 0.01,
  greenUp: false,
  ship: { obj: false, nameMesh: "SM_{part}" },
};
const listed = (own: boolean) => [
  ...PROFILES.map((profile) => ({
    name: profile.name,
    own: false,
    options: { ...optionsOf(profile) },
  })),
  ...(own
    ? [{ name: OWN.name, own: true, options: { ...optionsOf(OWN) } }]
    : []),
];

let kept = false;
beforeEach(() => {
  kept = false;
  vi.spyOn(api, "call").mockImplementation(async (method) => {
    if (method === "POST") kept = true;
    if (method === "DELETE") kept = false;
    return (
      method === "POST" ? { name: OWN.name, list: listed(true) } : listed(kept)
    ) as never;
  });
});

const links = (panel: ReturnType<typeof shown>) =>
  panel.findAll(".link-action").map((link) => link.text());

it("says what sets the profile of a brief, whichever it is", () => {
  const info = infoOf("ship/profile");
  for (const profile of [...PROFILES, OWN])
    expect(profileOptions({ profile }, info)).toEqual({
      ...optionsOf(profile),
    });
  expect(profileOptions({ profile: PROFILES[1].name }, info)).toEqual({
    ...optionsOf(PROFILES[1]),
  });
});

it("keeps an asset's own profile in the list, and takes it out again", async () => {
  const { workshop } = stage(["base"]);
  workshop.asset!.document.brief.profile = OWN;
  const panel = shown(ProfilePanel);
  await flushPromises();
  expect(panel.text()).toContain("Harbour engine");
  expect(links(panel)).toContain("Keep in the list");
  await panel
    .findAll(".link-action")
    .find((link) => link.text() === "Keep in the list")!
    .trigger("click");
  await flushPromises();
  const [, , body] = vi
    .mocked(api.call)
    .mock.calls.find(([method]) => method === "POST")!;
  expect(JSON.parse((body as { text: string }).text)).toMatchObject({
    format: "arnik delivery profile",
    version: 1,
    name: "Harbour engine",
    nameMesh: "SM_{part}",
    obj: false,
  });
  expect(links(panel)).toContain("Take from the list");
  expect(links(panel)).not.toContain("Keep in the list");
  await panel
    .findAll(".link-action")
    .find((link) => link.text() === "Take from the list")!
    .trigger("click");
  await flushPromises();
  expect(links(panel)).toContain("Keep in the list");
  expect(workshop.word).toContain("no longer in the list");
});

it("shows what patterns make of the asset as they are typed, and that they lack something", async () => {
  const { view } = stage(["base"]);
  view.opened.push("ship/profile");
  const panel = shown(ProfilePanel);
  await flushPromises();
  expect(panel.find(".examples").text()).toContain("base_lod1");
  view.type("ship/profile", "nameLevel", {
    value: "{part}-L{level:2}",
    base: "{part}_lod{level}",
  });
  await flushPromises();
  expect(panel.find(".examples").text()).toContain("base-L01");
  view.type("ship/profile", "nameLevel", {
    value: "{part}",
    base: "{part}_lod{level}",
  });
  await flushPromises();
  expect(panel.find(".examples").text()).toContain("lacks a place");
});
