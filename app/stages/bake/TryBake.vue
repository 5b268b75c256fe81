<script setup lang="ts">
import ToggleSwitch from "primevue/toggleswitch";
import FigureList from "../../components/FigureList.vue";
import { hasSource } from "../../shared/bench";
import { useAnswers } from "../../stores/answers";
import { useTrials } from "../../stores/trials";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";
import { estimateWords } from "./estimate";
import { bakeToTry, trialRows, trialWords } from "./trial";

/** What a bake will take; and normals of what is chosen, baked in the page as soon as a setting changes. */
const trials = useTrials();
const answers = useAnswers();
const view = useView();
const workshop = useWorkshop();
const figures = computed(() => answers.bakeTrial?.figures ?? null);
const estimate = computed(() =>
  estimateWords(
    workshop.asset!.document,
    bakeToTry(workshop.operations, workshop.asset!.document, view.typed),
    view.selected,
    navigator.hardwareConcurrency || 1,
  ),
);
const refused = computed(() => answers.bakeTrial?.refused ?? "");
watch(
  () => trials.bake,
  (on) => {
    answers.bakeTrial = null;
    if (!on) return;
    // What is tried is looked at.
    if (view.show !== "baked") view.stopComparing("baked");
    view.overlay = "none";
    view.sheetShows = "normal";
  },
);
onBeforeUnmount(() => (trials.bake = false));
</script>

<template>
  <section v-if="hasSource(workshop.asset!)" class="try">
    <p v-if="estimate" class="muted estimate">{{ estimate }}</p>
    <label class="switch" for="try-bake">
      <span>Try as I go</span>
      <ToggleSwitch v-model="trials.bake" input-id="try-bake" />
    </label>
    <p v-if="!trials.bake" class="muted">
      Shows the normals of the chosen parts as their settings change. Nothing of
      it is kept.
    </p>
    <p v-else-if="refused" class="trouble" role="alert">{{ refused }}</p>
    <template v-else>
      <FigureList v-if="figures" :rows="trialRows(figures)" bare />
      <p class="muted" aria-live="polite">{{ trialWords(figures) }}</p>
    </template>
  </section>
</template>

<style scoped>
.switch {
  display: flex;
  justify-content: space-between;
  align-items: center;
  min-height: 28px;
}
p {
  margin: 4px 0 0;
  font-size: 12.5px;
}
.estimate {
  margin: 0 0 6px;
}
</style>
