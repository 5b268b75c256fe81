// @vitest-environment happy-dom
import { expect, it } from "vitest";
import { shown } from "../../tests/mounted";
import FileButton from "./FileButton.vue";

const button = (props: object = {}) =>
  shown(FileButton, {
    ...{ label: "Bring in…", field: "Map files", accept: ".png", ...props },
  });

it("opens the field for files, tells which were chosen, and takes the same again", async () => {
  const made = button();
  const input = made.get<HTMLInputElement>("input");
  expect(input.attributes()).toMatchObject({
    "aria-label": "Map files",
    accept: ".png",
  });
  let opened = 0;
  input.element.click = () => opened++;
  await made.get("button").trigger("click");
  expect(opened).toBe(1);
  const file = new File(["x"], "lamp_ao.png");
  for (let turn = 0; turn < 2; turn++) {
    Object.defineProperty(input.element, "files", {
      value: [file],
      configurable: true,
    });
    await input.trigger("change");
    expect(input.element.value).toBe("");
  }
  expect(made.emitted("files")).toEqual([[[file]], [[file]]]);
});

it("tells nothing where nothing was chosen, and can't be pressed while it is off", async () => {
  const made = button({ disabled: true });
  await made.get("input").trigger("change");
  expect(made.emitted("files")).toBeUndefined();
  expect(made.get("button").attributes()).toHaveProperty("disabled");
});
