import type { Ref } from "vue";
import { ref } from "vue";

/** What a pointer says of itself, of the mouse or of the aim. */
export type PointerLike = Pick<
  PointerEvent,
  "clientX" | "clientY" | "button" | "shiftKey" | "ctrlKey" | "altKey"
>;

/** px that a key moves the aim, and with Alt. */
const STEP = 12;
const FINE = 1;

const WAYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/**
 * A pointer for the keyboard: Enter takes aim in the middle of the table, arrow keys move it, Space clicks there or,
 * with a tool that is dragged, begins and ends. Esc puts it down.
 */
export function useTableAim(page: {
  holder: Ref<HTMLElement | null>;
  /** Where the table's middle is, px in the holder. */
  middle(): { x: number; y: number };
  /** Whether the tool is dragged, as a brush is. */
  drags(): boolean;
  down(event: PointerLike): void;
  move(event: PointerLike): void;
  up(event: PointerLike): void;
}) {
  const aim = ref<{ x: number; y: number; held: boolean } | null>(null);

  function pointer(
    event: Pick<KeyboardEvent, "shiftKey" | "ctrlKey">,
  ): PointerLike {
    const { left, top } = page.holder.value!.getBoundingClientRect();
    return {
      clientX: left + aim.value!.x,
      clientY: top + aim.value!.y,
      button: 0,
      shiftKey: event.shiftKey,
      ctrlKey: event.ctrlKey,
      altKey: false,
    };
  }
  function go(event: KeyboardEvent, [x, y]: [number, number]) {
    const { width, height } = page.holder.value!.getBoundingClientRect();
    const step = event.altKey ? FINE : STEP;
    const within = (value: number, most: number) =>
      Math.min(most - 1, Math.max(0, value));
    aim.value = {
      ...aim.value!,
      x: within(aim.value!.x + step * x, width),
      y: within(aim.value!.y + step * y, height),
    };
    page.move(pointer(event));
  }
  /** Puts the aim down, and what it holds. */
  function leave() {
    if (aim.value?.held) page.up(pointer({ shiftKey: false, ctrlKey: false }));
    aim.value = null;
  }
  function click(event: KeyboardEvent) {
    const at = pointer(event);
    const held = aim.value!.held;
    if (!held) page.down(at);
    if (held || !page.drags()) page.up(at);
    aim.value = { ...aim.value!, held: !held && page.drags() };
  }
  /** @returns whether the key was one of the aim's */
  function keys(event: KeyboardEvent): boolean {
    if (!aim.value) {
      if (event.key !== "Enter" || event.ctrlKey) return false;
      aim.value = { ...page.middle(), held: false };
    } else if (WAYS[event.key]) go(event, WAYS[event.key]);
    else if (event.key === " ") click(event);
    else if (event.key === "Escape") leave();
    else return false;
    event.preventDefault();
    event.stopPropagation();
    return true;
  }
  return { aim, keys, leave };
}
