<script setup lang="ts">
import Button from "primevue/button";
import { STAGE_TITLES } from "../../core/asset/stages";
import { BENCHES } from "../stages";
import BriefForm from "../stages/intake/BriefForm.vue";
import BringIn from "../stages/intake/BringIn.vue";
import EdgeMarks from "../stages/edges/EdgeMarks.vue";
import LookList from "../stages/finish/LookList.vue";
import ShipFile from "../stages/ship/ShipFile.vue";
import FigureList from "./FigureList.vue";
import FindingList from "./FindingList.vue";
import OperationForm from "./OperationForm.vue";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

const emit = defineEmits<{ frame: [] }>();
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
  result.value ? plan.value.figures(asset.value, result.value) : [],
);
const findings = computed(() => plan.value.findings(asset.value, result.value));
const stale = computed(
  () =>
    asset.value.standing.find((each) => each.stage === view.stage)?.state ===
    "stale",
);
const opened = ref<string[]>([]);
const toggle = (id: string) =>
  (opened.value = opened.value.includes(id)
    ? opened.value.filter((each) => each !== id)
    : [...opened.value, id]);
const form = ref<{ run(): void } | null>(null);
defineExpose({ runMain: () => form.value?.run() });
</script>

<template>
  <div class="bench">
    <header>
      <h1>{{ STAGE_TITLES[view.stage] }}</h1>
      <p class="muted">{{ plan.about }}</p>
    </header>
    <div v-if="missing" class="missing">
      <p>{{ missing.text }}</p>
      <Button
        severity="secondary"
        outlined
        :label="`Go to ${STAGE_TITLES[missing.stage]}`"
        @click="view.stage = missing.stage"
      />
    </div>
    <template v-else>
      <template v-if="view.stage === 'intake'">
        <BringIn />
        <BriefForm />
      </template>
      <LookList v-else-if="view.stage === 'finish'" />
      <OperationForm
        v-else-if="main"
        ref="form"
        :key="main.id"
        :operation="main"
        :values="used(main.id)"
        main
        @run="workshop.run(main.id, $event)"
      />
      <ShipFile v-if="view.stage === 'ship'" />
      <EdgeMarks v-if="view.stage === 'edges'" />
      <div v-for="each in more" :key="each.id" class="fold">
        <button
          class="link-action"
          :aria-expanded="opened.includes(each.id)"
          @click="toggle(each.id)"
        >
          <i
            class="pi"
            :class="
              opened.includes(each.id) ? 'pi-angle-down' : 'pi-angle-right'
            "
          />
          {{ each.title }}
        </button>
        <template v-if="opened.includes(each.id)">
          <p class="muted">{{ each.about }}</p>
          <OperationForm
            :operation="each"
            :values="used(each.id)"
            @run="workshop.run(each.id, $event)"
          />
        </template>
      </div>
    </template>
    <FigureList v-if="figures.length" :rows="figures" :stale="stale" />
    <FindingList :findings="findings" @frame="emit('frame')" />
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  align-content: start;
  padding: 14px 0;
  overflow: auto;
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
.fold p {
  margin: 2px 0 8px 4px;
  font-size: 12.5px;
}
.missing {
  display: grid;
  gap: 10px;
}
.link-action .pi {
  font-size: 11px;
}
</style>
