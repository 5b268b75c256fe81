// @vitest-environment happy-dom
import { beforeEach, describe, expect, it, vi } from "vitest";
import { shown, stage } from "../../tests/mounted";
import type { Command } from "./commands";
import CommandSearch from "./CommandSearch.vue";
import KeyList from "./KeyList.vue";

let stores: ReturnType<typeof stage>;
const acts = { frame: vi.fn(), bake: vi.fn(), wire: vi.fn() };
const COMMANDS: Command[] = [
  { name: "Frame what is selected", key: "f", act: acts.frame },
  { name: "Bake: Bake", words: "normal map frame", act: acts.bake },
  { name: "Wire on or off", key: "w", shift: true, act: acts.wire },
];
beforeEach(() => {
  stores = stage();
  vi.clearAllMocks();
  document.body.innerHTML = "";
});

describe("the command search", () => {
  const search = () => {
    const page = shown(CommandSearch, { commands: COMMANDS });
    const field = page.find("input");
    return {
      page,
      field,
      press: (key: string) => field.trigger("keydown", { key }),
      active: () =>
        document.getElementById(
          field.attributes("aria-activedescendant") ?? "",
        ),
    };
  };

  it("keeps the focus in its field and names the option that Enter would take", async () => {
    const { field, press, active, page } = search();
    expect(document.activeElement).toBe(field.element);
    expect(field.attributes("role")).toBe("combobox");
    expect(active()?.textContent).toContain("Frame");
    await press("ArrowDown");
    expect(active()?.textContent).toContain("Bake");
    expect(active()?.getAttribute("aria-selected")).toBe("true");
    expect(page.findAll("[aria-selected=true]").length).toBe(1);
    for (let i = 0; i < 5; i++) await press("ArrowDown");
    expect(active()?.textContent).toContain("Wire");
    await press("Enter");
    expect(acts.wire).toHaveBeenCalledOnce();
    expect(stores.view.panel).toBe("");
  });

  it("finds by own names first, then by other words, and says when there is nothing", async () => {
    const { field, page, active } = search();
    await field.setValue("frame");
    expect(page.findAll("[role=option]").map((each) => each.text())).toEqual([
      "Frame what is selectedF",
      "Bake: Bake",
    ]);
    await field.setValue("nothing of the kind");
    expect(page.text()).toContain("nothing is called that");
    expect(active()).toBeNull();
    await field.trigger("keydown", { key: "Enter" });
    expect(acts.frame).not.toHaveBeenCalled();
  });
});

describe("the list of keys", () => {
  it("names what has a key, and can be used by pressing it", async () => {
    const page = shown(KeyList, { commands: COMMANDS });
    expect(page.findAll("kbd").map((each) => each.text())).toEqual([
      "F",
      "Shift W",
    ]);
    await page.findAll("button.command")[1].trigger("click");
    expect(acts.wire).toHaveBeenCalledOnce();
  });

  it("switches single keys off, and says how to go on", async () => {
    const page = shown(KeyList, { commands: COMMANDS });
    await page.find("input").setValue(false);
    expect(stores.view.singleKeys).toBe(false);
    expect(page.text()).toContain("Ctrl K finds everything by name");
  });
});
