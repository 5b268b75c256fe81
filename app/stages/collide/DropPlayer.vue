<script setup lang="ts">
import Button from "primevue/button";
import Select from "primevue/select";
import type { TrialName } from "../../../core/collide/methods/trials";
import { TRIALS } from "../../../core/collide/methods/trials";
import FigureList from "../../components/FigureList.vue";
import { trialRows } from "../../shared/trial-rows";
import { useAnswers } from "../../stores/answers";
import { useView } from "../../stores/view";
import { viewEvents } from "../../stores/view-events";
import { useWorkshop } from "../../stores/workshop";
import { TRIAL_WORDS } from "./drop-figures";

/** The drop test played on the table: what the figures tell, to be seen. */
const answers = useAnswers();
const view = useView();
const workshop = useWorkshop();
const trial = ref<TrialName>("dropped");
const trials = TRIALS.map((value) => ({ value, label: TRIAL_WORDS[value] }));
const document = computed(() => workshop.asset!.document);
const hulls = computed(() =>
  document.value.parts.some((part) => part.hulls.length),
);
/** As the test was last made, or as it goes by itself. */
const options = computed(() => {
  const fields = workshop.operations.find(
    ({ id }) => id === "collide/drop",
  )?.fields;
  const made = document.value.reports["collide/drop"]?.options;
  const option = (name: string) =>
    Number(
      made?.[name] ?? fields?.find((field) => field.name === name)?.default,
    );
  return { slope: option("slope"), friction: option("friction") };
});
function play(name: TrialName | null) {
  if (name) view.showResult();
  viewEvents.emit("drop", { trial: name, ...options.value });
}
onBeforeUnmount(() => play(null));
</script>

<template>
  <section v-if="hulls" class="play">
    <h2>See it drop</h2>
    <div class="line">
      <Select
        v-model="trial"
        :options="trials"
        option-label="label"
        option-value="value"
        aria-label="Trial"
      />
      <Button
        :label="answers.dropped ? 'Again' : 'Let go'"
        severity="secondary"
        outlined
        @click="play(trial)"
      />
    </div>
    <template v-if="answers.dropped?.trial">
      <FigureList
        v-if="answers.dropped.over"
        class="bare"
        :rows="trialRows(answers.dropped.trial)"
        :stale="false"
      />
      <button class="link-action" @click="play(null)">Put it back</button>
    </template>
  </section>
</template>

<style scoped>
.play {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.line {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 8px;
  width: 100%;
}
.bare {
  width: 100%;
  padding: 0;
}
.bare :deep(h2) {
  display: none;
}
</style>
