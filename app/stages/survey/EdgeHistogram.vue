<script setup lang="ts">
import ChartPicture from "../../components/ChartPicture.vue";
import type { ChartConfiguration } from "chart.js";
import type { StageResult } from "../../../core/asset/asset";
import { length, spaced } from "../../shared/figures";

/** How many edges there are of which length. */
const props = defineProps<{ result: StageResult }>();
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
const chart = computed(() => {
  const { from, counts } = lengths.value!;
  return (colour: (name: string) => string): ChartConfiguration<"bar"> => ({
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
});
</script>

<template>
  <section v-if="lengths">
    <h2>
      Edge lengths
      <small v-if="ratio" class="mono">1 : {{ spaced(ratio) }}</small>
    </h2>
    <ChartPicture
      class="chart"
      :chart="chart"
      label="How many edges there are of which length"
    />
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
