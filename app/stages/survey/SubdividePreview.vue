<script setup lang="ts">
import ChoiceRow from "../../components/ChoiceRow.vue";
import { useTrials } from "../../stores/trials";
import { useView } from "../../stores/view";

/** Shows the chosen control meshes smooth, without changing them. */
const view = useView();
const trials = useTrials();
const LEVELS = [0, 1, 2, 3].map((value) => ({
  value,
  label: value ? String(value) : "off",
}));
function show(level: number) {
  trials.subdivide = level;
  if (level && view.show !== "source" && view.show !== "compare")
    view.show = "source";
}
</script>

<template>
  <div class="row">
    <span>Show subdivided</span>
    <ChoiceRow
      class="switch-group"
      label="Levels of subdivision shown"
      :options="LEVELS"
      :value="trials.subdivide"
      @choose="show"
    />
  </div>
</template>

<style scoped>
.row {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
</style>
