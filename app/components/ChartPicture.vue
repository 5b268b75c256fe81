<script setup lang="ts">
import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  PointElement,
  Tooltip,
} from "chart.js";
import type { ChartConfiguration } from "chart.js";
import { useView } from "../stores/view";

/** A chart in the colours of the page, as large as what it lies in; it follows its figures and the theme. */
Chart.register(
  BarController,
  BarElement,
  CategoryScale,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  PointElement,
  Tooltip,
);
const props = defineProps<{
  /** What is drawn, made anew whenever a figure in it changes; `colour` gives a colour of the theme by its name. */
  chart: (colour: (name: string) => string) => ChartConfiguration;
  /** What a screen reader says it shows. */
  label: string;
}>();
const view = useView();
const canvas = ref<HTMLCanvasElement | null>(null);
let drawn: Chart | null = null;
function made(): ChartConfiguration {
  const style = getComputedStyle(document.documentElement);
  const config = props.chart((name) => style.getPropertyValue(name).trim());
  config.options = {
    animation: false,
    maintainAspectRatio: false,
    ...config.options,
  };
  return config;
}
onMounted(() => (drawn = new Chart(canvas.value!, made())));
onBeforeUnmount(() => drawn?.destroy());
watch(
  () => [props.chart, view.dark],
  // The page turns dark after this has been told so.
  () => {
    if (!drawn) return;
    const { data, options } = made();
    drawn.data = data;
    drawn.options = options!;
    drawn.update();
  },
  { flush: "post" },
);
</script>

<template>
  <div class="chart">
    <canvas ref="canvas" role="img" :aria-label="label" />
  </div>
</template>
