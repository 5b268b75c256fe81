<script setup lang="ts">
import Button from "primevue/button";
import Slider from "primevue/slider";
import PointerLight from "../../components/PointerLight.vue";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** Looking at a bake as hard as it deserves: beside its source under one light, and where and how far it is off. */
const view = useView();
const workshop = useWorkshop();
const hasNormal = computed(() =>
  workshop.asset!.document.maps.some(({ kind }) => kind === "normal"),
);
const hasAngle = computed(() =>
  workshop.asset!.document.maps.some(({ kind }) => kind === "angle"),
);
function compare() {
  view.show = "compare";
  view.compareBy = "divider";
  view.overlay = "none";
}
function showAngle() {
  if (view.show === "source") view.show = "baked";
  view.sheet = true;
  view.sheetShows = "angle";
  view.overlay = "map";
}
// What was just made is looked at.
watch(hasAngle, (has, had) => {
  if (has && !had) showAngle();
});
async function measure() {
  if (hasAngle.value) showAngle();
  else await workshop.run("bake/look-off", {});
}
</script>

<template>
  <section v-if="hasNormal">
    <h2>Judge it</h2>
    <div class="pair">
      <Button
        severity="secondary"
        outlined
        label="Beside the source"
        @click="compare"
      />
      <Button
        severity="secondary"
        outlined
        :label="hasAngle ? 'Show how far off' : 'Map how far off'"
        :disabled="!hasAngle && workshop.locked"
        @click="measure"
      />
    </div>
    <label class="turn">
      <span>Light from</span>
      <Slider
        v-model="view.light"
        aria-label="where the light comes from, degrees"
        :min="-180"
        :max="180"
        :step="5"
      />
      <b class="mono">{{ view.light }}°</b>
    </label>
    <PointerLight />
  </section>
</template>

<style scoped>
.pair {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.turn {
  display: grid;
  grid-template-columns: auto 1fr 44px;
  gap: 12px;
  align-items: center;
  margin-top: 10px;
}
.turn b {
  text-align: right;
  font-weight: 400;
}
</style>
