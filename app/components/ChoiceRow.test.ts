// @vitest-environment happy-dom
import { mount } from "@vue/test-utils";
import { describe, expect, it } from "vitest";
import ChoiceRow from "./ChoiceRow.vue";

const OPTIONS = [
  { value: "finer", label: "finer" },
  { value: "coarser", label: "coarser", disabled: true },
  { value: "leave", label: "leave", spoken: "leave as it is" },
];

function shown(value: string) {
  const row = mount(ChoiceRow, {
    attachTo: document.body,
    props: { options: OPTIONS, value, label: "Brush" },
  });
  const buttons = row.findAll("[role=radio]");
  return {
    row,
    buttons,
    press: (i: number, key: string) => buttons[i].trigger("keydown", { key }),
    chosen: () => (row.emitted("choose") ?? []).flat(),
    focused: () =>
      buttons.findIndex(({ element }) => element === document.activeElement),
  };
}

describe("a row of radio buttons", () => {
  it("says what is chosen of what, and has one stop for the Tab key", () => {
    const { row, buttons } = shown("leave");
    expect(row.attributes()).toMatchObject({
      role: "radiogroup",
      "aria-label": "Brush",
    });
    expect(buttons.map((each) => each.attributes("aria-checked"))).toEqual([
      "false",
      "false",
      "true",
    ]);
    expect(buttons.map((each) => each.attributes("tabindex"))).toEqual([
      "-1",
      "-1",
      "0",
    ]);
    expect(buttons[2].attributes("aria-label")).toBe("leave as it is");
  });

  it("can be reached where nothing of it is chosen", () => {
    const { buttons } = shown("something else");
    expect(buttons.map((each) => each.attributes("tabindex"))).toEqual([
      "0",
      "-1",
      "-1",
    ]);
  });

  it("goes round by arrow keys, past what can't be chosen, and takes the focus along", async () => {
    const { press, chosen, focused } = shown("finer");
    await press(0, "ArrowRight");
    expect(focused()).toBe(2);
    await press(2, "ArrowDown");
    expect(focused()).toBe(0);
    await press(0, "ArrowLeft");
    expect(focused()).toBe(2);
    await press(2, "ArrowUp");
    await press(0, "End");
    await press(2, "Home");
    expect(chosen()).toEqual([
      "leave",
      "finer",
      "leave",
      "finer",
      "leave",
      "finer",
    ]);
  });

  it("leaves other keys to the page", async () => {
    const { press, chosen } = shown("finer");
    await press(0, "x");
    expect(chosen()).toEqual([]);
  });
});
