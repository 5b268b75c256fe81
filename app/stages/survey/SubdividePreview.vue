<script setup lang="ts">
import { useView } from "../../stores/view";

/** Shows the chosen control meshes smooth, without changing them. */
const view = useView();
const LEVELS = [0, 1, 2, 3];
function show(level: number) {
  view.subdivide = level;
  if (level && view.show !== "source" && view.show !== "compare")
    view.show = "source";
}
</script>

<template>
  <div class="row" role="radiogroup" aria-label="Levels of subdivision shown">
    <span>Show subdivided</span>
    <span class="switch-group">
      <button
        v-for="level in LEVELS"
        :key="level"
        role="radio"
        :aria-checked="view.subdivide === level"
        :class="{ on: view.subdivide === level }"
        @click="show(level)"
      >
        {{ level === 0 ? "off" : level }}
      </button>
    </span>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
</style>
