import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it } from "vitest";
import { nextTick, ref } from "vue";
import type { Field } from "../../core/asset/operation";
import { useView } from "../stores/view";
import { useDrafts } from "./drafts";

Object.assign(globalThis, {
  localStorage: { getItem: () => null, setItem: () => {} },
});

const triangles: Field = {
  name: "triangles",
  kind: "integer",
  label: "Triangles",
  help: "How many.",
  default: 5000,
};
const name: Field = { ...triangles, name: "name", kind: "text", default: "" };
const operation = {
  id: "intake/brief",
  stage: "intake" as const,
  title: "Brief",
  about: "",
  runs: "instant" as const,
  makesResult: false,
  fields: [triangles, name],
};
const values = ref<Record<string, unknown>>({ triangles: 4000, name: "lamp" });
const form = () =>
  useDrafts(
    () => operation,
    () => values.value,
  );

beforeEach(() => {
  setActivePinia(createPinia());
  useView().recall(1);
  values.value = { triangles: 4000, name: "lamp" };
});

describe("what is typed into a form", () => {
  it("is what would be run, and the rest is as it is known", () => {
    const { options, type } = form();
    type(triangles, 900);
    expect(options.value).toEqual({ triangles: 900, name: "lamp" });
  });

  it("outlives the form and whatever becomes of the asset", async () => {
    form().type(triangles, 900);
    values.value = { triangles: 4000, name: "another" };
    await nextTick();
    const again = form();
    expect(again.options.value).toEqual({ triangles: 900, name: "another" });
    expect(again.changed(triangles)).toBeNull();
  });

  it("stands beside what was changed elsewhere, and gives way when that is taken", async () => {
    const { options, type, changed, takeBack } = form();
    type(triangles, 900);
    values.value = { triangles: 850, name: "lamp" };
    await nextTick();
    expect(options.value.triangles).toBe(900);
    expect(changed(triangles)).toEqual({ to: 850 });
    takeBack(triangles);
    expect(options.value.triangles).toBe(850);
    expect(changed(triangles)).toBeNull();
  });

  it("is forgotten once it is the value, by being used or typed back", async () => {
    const { drafts, type } = form();
    type(triangles, 900);
    values.value = { triangles: 900, name: "lamp" };
    await nextTick();
    expect(drafts.value).toEqual({});
    type(name, "buoy");
    type(name, "lamp");
    expect(drafts.value).toEqual({});
  });

  it("is kept as a text where it is no value, and not taken", () => {
    const { options, drafts, type } = form();
    type(triangles, undefined, "-5");
    expect(options.value.triangles).toBe(4000);
    expect(drafts.value.triangles).toMatchObject({ text: "-5", base: 4000 });
    expect("value" in drafts.value.triangles).toBe(false);
  });
});
