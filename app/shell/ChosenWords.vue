<script setup lang="ts">
import SpokenLine from "../components/SpokenLine.vue";
import { area, counted, spaced } from "../shared/figures";
import { useView } from "../stores/view";

/** How much is chosen, and a way to choose nothing. */
const view = useView();
const words = computed(() => {
  const { faces, triangles, area: square, density } = view.chosen;
  const parts = view.selected.length;
  return [
    ...(parts ? [counted(parts, "part")] : []),
    ...(faces
      ? [
          counted(faces, "face"),
          `${spaced(triangles)} triangles`,
          area(square),
          ...(density ? [`${spaced(density)} texels/m`] : []),
        ]
      : []),
    ...(view.edges.length
      ? [`${counted(view.edges.length, "edge")} chosen`]
      : []),
  ];
});
</script>

<template>
  <SpokenLine v-if="words.length" class="chosen">
    {{ words.join(" · ") }}
    <button
      aria-label="choose nothing"
      title="Choose nothing (Esc)"
      @click="view.clearSelection()"
    >
      <i class="pi pi-times" />
    </button>
  </SpokenLine>
</template>

<style scoped>
.chosen {
  justify-self: start;
  margin: 0;
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 1px 4px 1px 8px;
  background: color-mix(in srgb, var(--paper) 92%, transparent);
  border-left: 3px solid var(--raspberry);
  border-radius: 3px;
  font-size: 12px;
  pointer-events: auto;
}
button {
  border: 0;
  background: none;
  padding: 2px 4px;
  color: var(--ink-3);
  cursor: pointer;
}
.pi {
  font-size: 10px;
}
</style>
