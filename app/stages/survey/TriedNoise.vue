<script setup lang="ts">
import { length } from "../../shared/figures";
import { useTrials } from "../../stores/trials";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";
import { NOISE, triedNoise } from "./settled-rows";

/** What taking scan noise out would make of the sources: shown on the table, with how far things would move. */
const view = useView();
const trials = useTrials();
const workshop = useWorkshop();
const tried = computed(() => triedNoise(workshop.asset!));
const largest = computed(() =>
  Math.max(0, ...(tried.value?.parts ?? []).map((part) => part.largest)),
);
function show(on: boolean) {
  trials.triedSources = on;
  if (on && view.show !== "source" && view.show !== "compare")
    view.show = "source";
}
// A trial is shown at once, and gone with what it was tried on.
watch(
  () => JSON.stringify(tried.value),
  () => show(tried.value !== null),
);
onBeforeUnmount(() => (trials.triedSources = false));
function take() {
  void workshop.run(NOISE, { ...tried.value!.options, only: false });
}
</script>

<template>
  <div v-if="tried" class="row">
    <span class="muted">moves by up to {{ length(largest) }}</span>
    <button
      class="link-action"
      :aria-pressed="trials.triedSources"
      @click="show(!trials.triedSources)"
    >
      {{ trials.triedSources ? "Show it as it is" : "Show it without noise" }}
    </button>
    <button class="link-action" :disabled="workshop.locked" @click="take">
      Take it out
    </button>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  padding-left: 4px;
}
</style>
