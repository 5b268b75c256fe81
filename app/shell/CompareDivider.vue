<script setup lang="ts">
import { followPointer } from "../shared/drag";
import type { Rect } from "../shared/layout";
import { useView } from "../stores/view";

/** The line between both sides of a comparison, drawn from side to side over the table. */
const props = defineProps<{ table: Rect }>();
const view = useView();
const line = ref<HTMLElement | null>(null);
function drag(event: PointerEvent) {
  const bounds = line.value!.parentElement!.getBoundingClientRect();
  followPointer(event, ({ clientX }) => {
    const at = (clientX - bounds.left) / props.table.width;
    view.divider = Math.min(1, Math.max(0, at));
  });
}
function nudge(event: KeyboardEvent) {
  const way =
    event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
  if (!way) return;
  view.divider = Math.min(1, Math.max(0, view.divider + way * 0.02));
  event.preventDefault();
  event.stopPropagation();
}
</script>

<template>
  <div
    ref="line"
    class="divider"
    role="slider"
    tabindex="0"
    aria-label="Divider between both sides"
    :aria-valuenow="Math.round(100 * view.divider)"
    aria-valuemin="0"
    aria-valuemax="100"
    :style="{ left: `${100 * view.divider}%` }"
    @pointerdown="drag"
    @keydown="nudge"
  >
    <i class="pi pi-arrows-h" />
  </div>
</template>

<style scoped>
.divider {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 24px;
  margin-left: -12px;
  cursor: ew-resize;
  pointer-events: auto;
  display: grid;
  place-items: center;
}
.divider::before {
  content: "";
  position: absolute;
  left: 11px;
  top: 0;
  bottom: 0;
  width: 2px;
  background: #1e2328;
}
.divider i {
  position: relative;
  width: 26px;
  height: 26px;
  border-radius: 50%;
  background: #fbfaf7;
  color: #1e2328;
  border: 1px solid #1e2328;
  display: grid;
  place-items: center;
  font-size: 13px;
}
</style>
