<script setup lang="ts">
import ChoiceRow from "../../components/ChoiceRow.vue";
import SpokenLine from "../../components/SpokenLine.vue";
import { length, spaced } from "../../shared/figures";
import { useTrials } from "../../stores/trials";
import { useAnswers } from "../../stores/answers";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** A slider along the loops in the order in which they cost least: what it takes out is shown at once. */
const view = useView();
const answers = useAnswers();
const trials = useTrials();
const workshop = useWorkshop();
const mesh = ref<"source" | "game">("source");
const MESHES = [
  { value: "source", label: "source" },
  { value: "game", label: "game" },
] as const;
const STEPS = 100;
const step = ref(0);
const parts = computed(() =>
  workshop.asset!.document.parts.filter(
    (part) =>
      part[mesh.value] &&
      !part.locked &&
      !part.repeat &&
      (!view.selected.length || view.selected.includes(part.name)),
  ),
);
const whole = computed(() =>
  parts.value.reduce((sum, part) => sum + part[mesh.value]!.triangles, 0),
);
const left = (triangles: number) =>
  Math.max(2, Math.round(triangles * (1 - step.value / STEPS)));
watch([step, mesh, parts], () => {
  trials.thin = step.value
    ? {
        mesh: mesh.value,
        triangles: Object.fromEntries(
          parts.value.map((part) => [
            part.name,
            left(part[mesh.value]!.triangles),
          ]),
        ),
      }
    : null;
  if (step.value && view.show === "source") view.show = "compare";
});
watch(
  () => workshop.asset!.revision,
  () => (step.value = 0),
);
onBeforeUnmount(() => (trials.thin = null));
const found = computed(() => (trials.thin ? answers.preview : null));
function take() {
  void workshop.run("reduce/thin-loops", {
    parts: parts.value.map((part) => part.name),
    mesh: mesh.value,
    triangles: left(whole.value),
  });
}
</script>

<template>
  <div v-if="whole" class="loops">
    <label for="loop-slider">Loops to take out, least missed first</label>
    <div class="row">
      <ChoiceRow
        class="switch-group"
        label="Loops of which"
        :options="MESHES"
        :value="mesh"
        @choose="mesh = $event"
      />
      <input
        id="loop-slider"
        v-model.number="step"
        type="range"
        min="0"
        :max="STEPS - 1"
        :disabled="workshop.locked"
      />
    </div>
    <SpokenLine v-if="found">
      <b class="mono">{{ found.loops }}</b> loops gone,
      <b class="mono">{{ spaced(found.triangles) }}</b> triangles left, moved by
      <b class="mono">{{ length(found.moved ?? 0) }}</b> at most
      <button
        class="link-action"
        :disabled="workshop.locked || !found.loops"
        @click="take"
      >
        Take them out
      </button>
      <button class="link-action" @click="step = 0">Back</button>
    </SpokenLine>
  </div>
</template>

<style scoped>
.loops {
  padding: 4px 0 6px 4px;
}
.row {
  display: flex;
  gap: 10px;
  align-items: center;
}
input {
  flex: 1;
  min-width: 0;
  accent-color: var(--tide);
}
p {
  margin: 4px 0 0;
}
.link-action {
  margin-left: 8px;
}
</style>
