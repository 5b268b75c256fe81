<script setup lang="ts">
import Button from "primevue/button";
import { STAGE_TITLES } from "../../core/asset/stages";
import { BENCHES } from "../stages";
import { PLACES } from "../stages/places";
import FigureList from "../components/FigureList.vue";
import FindingList from "../components/FindingList.vue";
import BenchPlaces from "./BenchPlaces.vue";
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
const places = computed(() => PLACES[view.stage] ?? []);
const hasOwnMain = computed(() => places.value.some(({ at }) => at === "main"));
/** What components of the stage's own may ask of the view. */
const asks = {
  onLook: (at: [number, number, number], radius: number) =>
    emit("look", at, radius),
  onOutlines: (towards: number[][]) => emit("outlines", towards),
  onTrace: (what: "back" | "clear") => emit("trace", what),
};
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
    ...(has("hulls") && { hulls: [...view.chosenHulls] }),
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
      <BenchPlaces :places="places" at="main" v-bind="asks" />
      <OperationForm
        v-if="main && !hasOwnMain"
        ref="form"
        :key="main.id"
        :operation="main"
        :values="used(main.id) ?? plan.defaults?.(asset)"
        :hide="plan.hide"
        main
        @run="run"
      />
      <BenchPlaces :places="places" at="below main" v-bind="asks" />
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
    <BenchPlaces
      v-if="!missing"
      :places="places"
      at="last"
      :result="result"
      v-bind="asks"
    />
    <section
      v-for="group in missing ? [] : groups"
      :key="group.title"
      class="group-of"
    >
      <h2>{{ group.title }}</h2>
      <BenchPlaces :places="places" :at="group.title" v-bind="asks" />
      <template v-for="each in group.operations" :key="each.id">
        <FoldedOperation :operation="each" :values="used(each.id)" />
        <BenchPlaces :places="places" :at="each.id" v-bind="asks" />
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
