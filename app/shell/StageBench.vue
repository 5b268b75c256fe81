<script setup lang="ts">
import Button from "primevue/button";
import { STAGE_TITLES } from "../../core/asset/stages";
import { BENCHES } from "../stages";
import BriefForm from "../stages/intake/BriefForm.vue";
import BringIn from "../stages/intake/BringIn.vue";
import BringOver from "../stages/intake/BringOver.vue";
import MatchNames from "../stages/intake/MatchNames.vue";
import ReferenceList from "../stages/intake/ReferenceList.vue";
import EdgeHistogram from "../stages/survey/EdgeHistogram.vue";
import PaletteList from "../stages/survey/PaletteList.vue";
import SubdividePreview from "../stages/survey/SubdividePreview.vue";
import UnseenFaces from "../stages/survey/UnseenFaces.vue";
import BudgetCurve from "../stages/reduce/BudgetCurve.vue";
import DensityBrush from "../stages/reduce/DensityBrush.vue";
import JudgePanel from "../stages/reduce/JudgePanel.vue";
import LoopSlider from "../stages/reduce/LoopSlider.vue";
import SpareList from "../stages/reduce/SpareList.vue";
import { NOISE } from "../stages/survey/bench";
import TriedNoise from "../stages/survey/TriedNoise.vue";
import TriedDetails from "../stages/reduce/TriedDetails.vue";
import StandInList from "../stages/reduce/StandInList.vue";
import EdgeMarks from "../stages/edges/EdgeMarks.vue";
import SeamTools from "../stages/unwrap/SeamTools.vue";
import IslandTools from "../stages/unwrap/IslandTools.vue";
import RepeatGroups from "../stages/unwrap/RepeatGroups.vue";
import PaintPicture from "../stages/unwrap/PaintPicture.vue";
import LookList from "../stages/finish/LookList.vue";
import ShipFile from "../stages/ship/ShipFile.vue";
import FigureList from "../components/FigureList.vue";
import FindingList from "../components/FindingList.vue";
import FoldedOperation from "./FoldedOperation.vue";
import OperationForm from "../components/OperationForm.vue";
import type { OperationInfo } from "../shared/types";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

const emit = defineEmits<{
  frame: [];
  look: [at: [number, number, number], radius: number];
  outlines: [towards: number[][]];
  trace: [what: "back" | "clear"];
}>();
const view = useView();
const workshop = useWorkshop();
const plan = computed(() => BENCHES[view.stage]);
const asset = computed(() => workshop.asset!);
const result = computed(() => asset.value.document.results[view.stage]);
const missing = computed(() => plan.value.missing?.(asset.value) ?? null);
const operation = (id: string) =>
  workshop.operations.find((each) => each.id === id);
const main = computed(() => operation(plan.value.main));
const more = computed(() =>
  plan.value.more.flatMap((id) => operation(id) ?? []),
);
const used = (id: string) =>
  result.value?.operation === id ? result.value.options : undefined;
const figures = computed(() =>
  result.value
    ? plan.value.figures(asset.value, result.value, view.selected)
    : [],
);
const findings = computed(() => plan.value.findings(asset.value, result.value));
const stale = computed(
  () =>
    asset.value.standing.find((each) => each.stage === view.stage)?.state ===
    "stale",
);
const groups = computed(() =>
  (plan.value.groups ?? []).map(({ title, operations }) => ({
    title,
    operations: operations.flatMap((id) => operation(id) ?? []),
  })),
);
function run(options: Record<string, unknown>) {
  view.showResult();
  void workshop.run(main.value!.id, options);
}
/** What was asked for by name and has no place of its own on this bench. */
const guest = ref<OperationInfo | null>(null);
const bench = ref<HTMLElement | null>(null);
watch(
  () => view.asked,
  async (asked) => {
    if (!asked) return;
    // Once: a bench that comes back must not do it again.
    view.asked = null;
    const { operation: id, run: atOnce } = asked;
    if (atOnce) {
      await nextTick();
      if (id === plan.value.main) form.value?.run();
      else await runOn(id);
      return;
    }
    if (!view.opened.includes(id)) view.opened.push(id);
    guest.value = null;
    await nextTick();
    const placeOf = () =>
      bench.value?.querySelector<HTMLElement>(`[data-operation="${id}"]`);
    if (!placeOf()) {
      guest.value = operation(id) ?? null;
      await nextTick();
    }
    const place = placeOf() ?? bench.value;
    place?.scrollIntoView({ block: "nearest" });
    (
      place?.querySelector<HTMLElement>("input, [role=combobox]") ??
      place?.querySelector<HTMLElement>("button:not(.link-action)") ??
      place?.querySelector<HTMLElement>("button")
    )?.focus({ preventScroll: true });
  },
  { flush: "post", immediate: true },
);
/** Runs an operation that needs nothing but what is chosen. */
async function runOn(id: string) {
  const fields = operation(id)?.fields ?? [];
  const has = (kind: string) => fields.some((field) => field.kind === kind);
  await workshop.run(id, {
    ...(has("parts") && { parts: [...view.selected] }),
    ...(has("edges") && { edges: [...view.edges] }),
    ...(has("faces") && { faces: [...view.faceList], mesh: view.facesOf }),
  });
}
watch(
  () => view.stage,
  () => (guest.value = null),
);
const form = ref<{ run(): void } | null>(null);
defineExpose({ runMain: () => form.value?.run() });
</script>

<template>
  <div ref="bench" class="bench">
    <header>
      <h1>{{ STAGE_TITLES[view.stage] }}</h1>
      <p class="muted">{{ plan.about }}</p>
    </header>
    <FoldedOperation
      v-if="guest && !missing"
      :key="guest.id"
      :operation="guest"
    />
    <div v-if="missing" class="missing">
      <p>{{ missing.text }}</p>
      <Button
        severity="secondary"
        outlined
        :label="`Go to ${STAGE_TITLES[missing.stage]}`"
        @click="view.go(missing.stage)"
      />
    </div>
    <template v-else>
      <template v-if="view.stage === 'intake'">
        <BringIn data-operation="intake/bring-in" />
        <BriefForm />
      </template>
      <LookList
        v-else-if="view.stage === 'finish'"
        data-operation="finish/look"
      />
      <OperationForm
        v-else-if="main"
        ref="form"
        :key="main.id"
        :operation="main"
        :values="used(main.id)"
        main
        @run="run"
      />
      <BudgetCurve v-if="view.stage === 'reduce'" />
      <ShipFile v-if="view.stage === 'ship'" />
      <EdgeMarks
        v-if="view.stage === 'edges'"
        data-operation="edges/mark"
        @look="(at, radius) => emit('look', at, radius)"
      />
      <FoldedOperation
        v-for="each in more"
        :key="each.id"
        :operation="each"
        :values="used(each.id)"
      />
    </template>
    <FigureList v-if="figures.length" :rows="figures" :stale="stale" />
    <FindingList
      :findings="findings"
      @frame="emit('frame')"
      @look="(at, radius) => emit('look', at, radius)"
    />
    <MatchNames
      v-if="view.stage === 'intake' && !missing"
      data-operation="intake/match"
    />
    <ReferenceList
      v-if="view.stage === 'intake' && !missing"
      data-operation="intake/add-reference"
    />
    <BringOver
      v-if="view.stage === 'intake' && !missing"
      data-operation="intake/bring-over"
    />
    <template v-if="view.stage === 'survey' && !missing">
      <EdgeHistogram v-if="result" :result="result" />
      <UnseenFaces />
      <PaletteList />
    </template>
    <JudgePanel
      v-if="view.stage === 'reduce' && !missing"
      @look="(at, radius) => emit('look', at, radius)"
      @outlines="emit('outlines', $event)"
    />
    <section
      v-for="group in missing ? [] : groups"
      :key="group.title"
      class="group-of"
    >
      <h2>{{ group.title }}</h2>
      <SubdividePreview
        v-if="view.stage === 'survey' && group.title === 'Source'"
      />
      <DensityBrush
        v-if="view.stage === 'reduce' && group.title === 'Density'"
      />
      <template v-if="view.stage === 'unwrap'">
        <SeamTools
          v-if="group.title === 'Seams'"
          data-operation="unwrap/set-seams"
          @trace="emit('trace', $event)"
        />
        <IslandTools v-if="group.title === 'Place'" />
      </template>
      <template v-for="each in group.operations" :key="each.id">
        <FoldedOperation :operation="each" :values="used(each.id)" />
        <LoopSlider
          v-if="
            each.id === 'reduce/thin-loops' && view.opened.includes(each.id)
          "
        />
        <StandInList v-if="each.id === 'reduce/stand-in'" />
        <SpareList v-if="each.id === 'reduce/find-spares'" />
        <TriedNoise v-if="each.id === NOISE" />
        <TriedDetails v-if="each.id === 'reduce/try-both'" />
        <RepeatGroups v-if="each.id === 'unwrap/find-repeats'" />
        <PaintPicture
          v-if="each.id === 'unwrap/template'"
          data-operation="unwrap/paint-in"
        />
      </template>
    </section>
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  align-content: start;
  padding: 14px 0;
  overflow: auto;
  overflow-wrap: anywhere;
  height: 100%;
}
.bench > * {
  padding: 10px 14px;
}
.bench > * + * {
  border-top: 1px solid var(--line);
}
.bench > header {
  padding: 0 14px 8px;
}
.bench > header + * {
  border-top: 0;
}
h1 {
  font-size: 19px;
}
p {
  margin: 2px 0 0;
}
.missing {
  display: grid;
  gap: 10px;
}
.group-of {
  display: grid;
  gap: 4px;
}
</style>
