// @vitest-environment happy-dom
import { ref } from "vue";
import { beforeEach, describe, expect, it } from "vitest";
import type { PointerLike } from "./table-aim";
import { useTableAim } from "./table-aim";

let said: string[] = [];
let drags = false;
const holder = ref<HTMLElement | null>(null);
const tell = (what: string) => (event: PointerLike) =>
  void said.push(
    `${what} ${event.clientX},${event.clientY}${event.shiftKey ? " add" : ""}${event.ctrlKey ? " remove" : ""}`,
  );
function aimed() {
  const { aim, keys, leave } = useTableAim({
    holder,
    middle: () => ({ x: 100, y: 50 }),
    drags: () => drags,
    down: tell("down"),
    move: tell("move"),
    up: tell("up"),
  });
  return {
    aim,
    leave,
    press: (key: string, more: KeyboardEventInit = {}) =>
      keys(new KeyboardEvent("keydown", { key, ...more })),
  };
}
beforeEach(() => {
  said = [];
  drags = false;
  holder.value = {
    getBoundingClientRect: () => ({
      left: 10,
      top: 20,
      width: 200,
      height: 80,
    }),
  } as HTMLElement;
});

describe("the aim", () => {
  it("is taken with Enter; until then all keys are left to the table", () => {
    const { aim, press } = aimed();
    expect(press("ArrowLeft")).toBe(false);
    expect(press(" ")).toBe(false);
    expect(press("Enter", { ctrlKey: true })).toBe(false);
    expect(press("Enter")).toBe(true);
    expect(aim.value).toEqual({ x: 100, y: 50, held: false });
    expect(press("w")).toBe(false);
    expect(press("Escape")).toBe(true);
    expect(aim.value).toBeNull();
  });

  it("moves by steps or single pixels, and never off the table", () => {
    const { aim, press } = aimed();
    press("Enter");
    press("ArrowRight");
    press("ArrowUp", { altKey: true });
    expect(aim.value).toMatchObject({ x: 112, y: 49 });
    for (let i = 0; i < 20; i++) {
      press("ArrowRight");
      press("ArrowDown");
    }
    expect(aim.value).toMatchObject({ x: 199, y: 79 });
    expect(said[0]).toBe("move 122,70");
  });

  it("clicks where it is, adding with Shift and taking away with Ctrl", () => {
    const { press } = aimed();
    press("Enter");
    press(" ");
    press(" ", { shiftKey: true });
    press(" ", { ctrlKey: true });
    expect(said).toEqual([
      "down 110,70",
      "up 110,70",
      "down 110,70 add",
      "up 110,70 add",
      "down 110,70 remove",
      "up 110,70 remove",
    ]);
  });

  it("holds a tool that is dragged from one press of Space to the next, or till it is put down", () => {
    drags = true;
    const { aim, press, leave } = aimed();
    press("Enter");
    press(" ");
    expect(aim.value!.held).toBe(true);
    press("ArrowRight");
    press(" ");
    expect(aim.value!.held).toBe(false);
    expect(said).toEqual(["down 110,70", "move 122,70", "up 122,70"]);
    press(" ");
    leave();
    expect(said.slice(3)).toEqual(["down 122,70", "up 122,70"]);
    expect(aim.value).toBeNull();
  });
});
