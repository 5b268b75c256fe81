<script setup lang="ts">
import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  LinearScale,
  Tooltip,
} from "chart.js";
import type { StageResult } from "../../../core/asset/asset";
import { length, spaced } from "../../shared/figures";
import { useView } from "../../stores/view";

/** How many edges there are of which length. */
Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);
const props = defineProps<{ result: StageResult }>();
const view = useView();
const canvas = ref<HTMLCanvasElement | null>(null);
let chart: Chart | null = null;

const lengths = computed(
  () =>
    props.result.report.edgeLengths as
      { from: number[]; counts: number[] } | undefined,
);
const ratio = computed(() => {
  const { shortestEdge, longestEdge } = props.result.report as Record<
    string,
    number
  >;
  return shortestEdge > 0 ? longestEdge / shortestEdge : null;
});
const colour = (name: string) =>
  getComputedStyle(document.documentElement).getPropertyValue(name).trim();

function draw() {
  chart?.destroy();
  if (!canvas.value || !lengths.value) return;
  const { from, counts } = lengths.value;
  chart = new Chart(canvas.value, {
    type: "bar",
    data: {
      labels: from.map(length),
      datasets: [
        {
          data: counts,
          backgroundColor: colour("--tide"),
          barPercentage: 1,
          categoryPercentage: 0.92,
        },
      ],
    },
    options: {
      animation: false,
      maintainAspectRatio: false,
      plugins: {
        tooltip: {
          callbacks: {
            title: ([item]) => `from ${item.label}`,
            label: (item) => `${spaced(Number(item.raw))} edges`,
          },
        },
      },
      scales: {
        x: {
          grid: { display: false },
          ticks: {
            maxRotation: 0,
            autoSkip: true,
            maxTicksLimit: 4,
            color: colour("--ink-3"),
            font: { size: 11 },
          },
        },
        y: { display: false },
      },
    },
  });
}
onMounted(draw);
onBeforeUnmount(() => chart?.destroy());
watch([lengths, () => view.dark], () => void nextTick(draw));
</script>

<template>
  <section v-if="lengths">
    <h2>
      Edge lengths
      <small v-if="ratio" class="mono">1 : {{ spaced(ratio) }}</small>
    </h2>
    <div class="chart">
      <canvas
        ref="canvas"
        role="img"
        aria-label="How many edges there are of which length"
      />
    </div>
  </section>
</template>

<style scoped>
small {
  color: var(--ink-3);
  font-weight: 400;
}
.chart {
  height: 92px;
  margin-top: 6px;
}
</style>
