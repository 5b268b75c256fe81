<script setup lang="ts">
import type { ChartConfiguration } from "chart.js";
import ChartPicture from "../../components/ChartPicture.vue";
import SpokenLine from "../../components/SpokenLine.vue";
import { length, percent, spaced } from "../../shared/figures";
import type { Curve } from "./figures";
import { errorAt } from "./figures";
import { useTrials } from "../../stores/trials";
import { useAnswers } from "../../stores/answers";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** Error against triangles of the kept record, with the budget to be dragged along it. */
const NONE: Curve = { triangles: [1, 2], rms: [0, 0] };
const view = useView();
const answers = useAnswers();
const trials = useTrials();
const workshop = useWorkshop();

const document_ = computed(() => workshop.asset!.document);
const result = computed(() => document_.value.results.reduce);
const known = computed(
  () => document_.value.record && result.value?.report.curve,
);
const curve = computed((): Curve => {
  const { parts } = (result.value?.report ?? {}) as {
    parts?: { part: string; curve: Curve | null }[];
  };
  const [only] = view.selected.length === 1 ? view.selected : [];
  const own = parts?.find(({ part }) => part === only)?.curve;
  return own ?? (result.value?.report.curve as Curve | undefined) ?? NONE;
});
const whose = computed(() =>
  curve.value === result.value?.report.curve ? "all parts" : view.selected[0],
);
const ofAll = computed(() => whose.value === "all parts");
/** The one part whose curve is shown, or "" for all. */
const only = computed(() => (ofAll.value ? "" : (whose.value ?? "")));
const set = computed(() =>
  only.value
    ? (document_.value.parts.find(({ name }) => name === only.value)?.game
        ?.triangles ?? 0)
    : Number(result.value?.report.triangles ?? 0),
);
const trying = computed(() =>
  only.value ? (trials.previewOwn[only.value] ?? 0) : trials.previewBudget,
);
const budget = computed(() => trying.value || set.value);
const least = computed(() => Math.max(8, curve.value.triangles[0]));
const most = computed(() => curve.value.triangles.at(-1) ?? 1);
/** A thousand steps along the logarithm of the budget. */
const STEPS = 1000;
const toStep = (n: number) =>
  (STEPS * Math.log(n / least.value)) / Math.log(most.value / least.value);
const fromStep = (step: number) =>
  Math.round(least.value * (most.value / least.value) ** (step / STEPS));
const at = computed(() => Math.round(toStep(budget.value)));

const now = computed(() => errorAt(curve.value, budget.value));
const more = computed(() => {
  const next = errorAt(curve.value, Math.min(most.value, budget.value + 1000));
  return now.value > 0 ? 1 - next / now.value : 0;
});

const chart = computed(() => {
  const { triangles, rms } = curve.value;
  const points = triangles.map((x, i) => ({ x, y: 1000 * rms[i] }));
  const here = { x: budget.value, y: 1000 * now.value };
  const [min, max] = [least.value, most.value];
  const highest = 1000 * errorAt(curve.value, Math.max(min, budget.value / 6));
  return (colour: (name: string) => string): ChartConfiguration<"line"> => ({
    type: "line",
    data: {
      datasets: [
        {
          data: points,
          borderColor: colour("--tide"),
          borderWidth: 2,
          pointRadius: 0,
        },
        {
          data: [here],
          backgroundColor: colour("--brass"),
          borderColor: colour("--paper"),
          borderWidth: 2,
          pointRadius: 6,
        },
      ],
    },
    options: {
      plugins: {
        tooltip: {
          callbacks: {
            title: ([item]) => `${spaced(item.parsed.x ?? 0)} triangles`,
            label: (item) => `${length((item.parsed.y ?? 0) / 1000)} off`,
          },
        },
      },
      scales: {
        x: {
          type: "logarithmic",
          min,
          max,
          grid: { color: colour("--line") },
          ticks: {
            color: colour("--ink-3"),
            font: { size: 11 },
            maxRotation: 0,
            autoSkipPadding: 18,
            callback: (value) => spaced(Number(value)),
          },
        },
        y: {
          type: "linear",
          beginAtZero: true,
          max: highest,
          grid: { color: colour("--line") },
          ticks: {
            color: colour("--ink-3"),
            font: { size: 11 },
            maxTicksLimit: 4,
            callback: (value) => length(Number(value) / 1000),
          },
        },
      },
    },
  });
});
function back() {
  trials.previewBudget = 0;
  trials.previewOwn = {};
}
onBeforeUnmount(back);
watch(only, back);

function tryBudget(event: Event) {
  const triangles = fromStep(Number((event.target as HTMLInputElement).value));
  if (only.value) trials.previewOwn = { [only.value]: triangles };
  else trials.previewBudget = triangles;
  if (view.show === "source") view.show = "compare";
}
/** Reduces to what is tried; a single part gets it as its own budget first. */
async function keep() {
  const triangles = trying.value;
  if (!triangles || workshop.locked) return;
  const options =
    result.value?.operation === "reduce/to-budget" ? result.value.options : {};
  if (only.value) {
    await workshop.run("intake/part-rules", {
      parts: [only.value],
      budget: triangles,
    });
    await workshop.run("reduce/to-budget", options);
  } else await workshop.run("reduce/to-budget", { ...options, triangles });
}
</script>

<template>
  <section v-if="known">
    <h2>
      Error against triangles <small>{{ whose }}</small>
    </h2>
    <ChartPicture
      class="chart"
      :chart="chart"
      label="Estimated distance against triangles"
    />
    <template v-if="budget">
      <input
        type="range"
        min="0"
        :max="STEPS"
        :value="at"
        :disabled="workshop.locked"
        aria-label="Budget along the curve"
        :aria-valuetext="`${budget} triangles`"
        @input="tryBudget"
      />
      <SpokenLine class="said">
        <b class="mono">{{ spaced(budget) }}</b> triangles:
        <b class="mono">{{ length(now) }}</b> off; 1 000 more bring it down by
        <b class="mono">{{ percent(more, 0) }}</b>
      </SpokenLine>
      <p v-if="trying" class="row">
        <span class="muted"
          >shown as a preview
          <template v-if="answers.preview"
            >, found in
            {{ Math.ceil(answers.preview.milliseconds) }} ms</template
          ></span
        >
        <button class="link-action" @click="back">Back</button>
        <button
          class="link-action"
          data-test="keep-budget"
          :disabled="workshop.locked"
          @click="keep"
        >
          {{ only ? "Give it these" : "Reduce to this" }}
        </button>
      </p>
    </template>
  </section>
</template>

<style scoped>
small {
  color: var(--ink-3);
  font-weight: 400;
}
.chart {
  height: 150px;
  margin: 6px 0 2px;
}
input {
  width: 100%;
  accent-color: var(--tide);
}
.said {
  margin: 2px 0;
}
.row {
  display: flex;
  gap: 10px;
  align-items: baseline;
  justify-content: space-between;
  margin: 2px 0;
}
</style>
