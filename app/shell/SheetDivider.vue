<script setup lang="ts">
import type { Rect } from "../shared/layout";
import { followPointer } from "../shared/drag";
import { useView } from "../stores/view";

/** The edge between table and sheet, to be dragged. */
const props = defineProps<{
  layout: { table: Rect; sheet: Rect | null };
  size: { width: number; height: number };
}>();
const view = useView();
const STEP = 0.02;
const LEAST = 0.1;
const place = computed(() => {
  const { table, sheet } = props.layout;
  const second = view.sheetFirst ? table : sheet!;
  return view.sheetTurned
    ? { top: `${second.top}px` }
    : { left: `${second.left}px` };
});
const set = (share: number) =>
  void (view.sheetShare = Math.min(1 - LEAST, Math.max(LEAST, share)));

function drag(event: PointerEvent) {
  const bar = event.currentTarget as HTMLElement;
  const bounds = bar.parentElement!.getBoundingClientRect();
  followPointer(event, ({ clientX, clientY }) => {
    const at = view.sheetTurned
      ? (clientY - bounds.top) / bounds.height
      : (clientX - bounds.left) / bounds.width;
    set(view.sheetFirst ? at : 1 - at);
  });
  bar.focus();
}
function nudge(event: KeyboardEvent) {
  const [less, more] = view.sheetTurned
    ? ["ArrowUp", "ArrowDown"]
    : ["ArrowLeft", "ArrowRight"];
  const way = event.key === less ? -1 : event.key === more ? 1 : 0;
  if (!way) return;
  set(view.sheetShare + (view.sheetFirst ? way : -way) * STEP);
  event.preventDefault();
  event.stopPropagation();
}
</script>

<template>
  <div
    class="edge"
    :class="{ turned: view.sheetTurned }"
    role="separator"
    tabindex="0"
    aria-label="Edge between table and sheet"
    :aria-orientation="view.sheetTurned ? 'horizontal' : 'vertical'"
    :aria-valuenow="Math.round(100 * view.sheetShare)"
    aria-valuemin="10"
    aria-valuemax="90"
    :style="place"
    @pointerdown="drag"
    @keydown="nudge"
  ></div>
</template>

<style scoped>
.edge {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 9px;
  margin-left: -5px;
  cursor: col-resize;
  touch-action: none;
}
.edge.turned {
  top: auto;
  bottom: auto;
  left: 0;
  right: 0;
  width: auto;
  height: 9px;
  margin: -5px 0 0;
  cursor: row-resize;
}
.edge::before {
  content: "";
  position: absolute;
  inset: 0 4px;
  background: var(--ink-3);
}
.edge.turned::before {
  inset: 4px 0;
}
/* What shows that it can be taken hold of. */
.edge::after {
  content: "";
  position: absolute;
  inset: calc(50% - 18px) 1px;
  border: 1px solid var(--ink-3);
  border-radius: 4px;
  background: var(--paper);
}
.edge.turned::after {
  inset: 1px calc(50% - 18px);
}
.edge:hover::before,
.edge:focus-visible::before {
  background: var(--tide);
  box-shadow: 0 0 0 1px var(--tide);
}
</style>
