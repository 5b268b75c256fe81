<script setup lang="ts">
import type { ChartConfiguration } from "chart.js";
import ChartPicture from "../../components/ChartPicture.vue";
import { length, spaced } from "../../shared/figures";
import AgedNote from "../../components/AgedNote.vue";
import ChoiceRow from "../../components/ChoiceRow.vue";
import SpokenLine from "../../components/SpokenLine.vue";
import OperationForm from "../../components/OperationForm.vue";
import { useTrials } from "../../stores/trials";
import { useAnswers } from "../../stores/answers";
import { useView } from "../../stores/view";
import { viewEvents } from "../../stores/view-events";
import { useWorkshop } from "../../stores/workshop";
import { boughtBy, judgementOf, levelsOf } from "./figures";
import WorstOutlines from "./WorstOutlines.vue";

/** How well the game meshes stand for their sources: worst places, worst outlines, triangles by part, levels. */
const emit = defineEmits<{
  look: [at: [number, number, number], radius: number];
  outlines: [towards: number[][]];
}>();
const view = useView();
const answers = useAnswers();
const trials = useTrials();
const workshop = useWorkshop();
const document_ = computed(() => workshop.asset!.document);
const operation = computed(() =>
  workshop.operations.find((each) => each.id === "reduce/judge"),
);
const judged = computed(() => judgementOf(document_.value));
const places = computed(() => judged.value?.places ?? []);
const outlines = computed(() => judged.value?.worstViews ?? []);
const levels = computed(() => levelsOf(document_.value));
const shownLevels = computed(() =>
  [0, ...levels.value.map((each) => each.level), -1].map((value) => ({
    value,
    label: value < 0 ? "by distance" : String(value),
  })),
);
const hasLevels = computed(() =>
  document_.value.parts.some((part) => part.levels.length),
);
const buys = computed(() => boughtBy(document_.value).slice(0, 8));
const parts = computed(() =>
  document_.value.parts
    .filter((part) => part.game)
    .map((part) => ({ name: part.name, triangles: part.game!.triangles }))
    .sort((a, b) => b.triangles - a.triangles)
    .slice(0, 12),
);

function frame(at: number[]) {
  view.overlay = "distance";
  emit("look", [at[0], at[1], at[2]], 0.08 * (judged.value?.diagonal ?? 1));
}
function lookFrom(towards: number[]) {
  if (!view.camera) return;
  view.camera = {
    ...view.camera,
    yaw: Math.atan2(towards[0], towards[2]),
    pitch: Math.asin(Math.max(-1, Math.min(1, towards[1]))),
  };
  viewEvents.emit("turned");
}
const chart = computed(() => {
  const rows = parts.value;
  return (colour: (name: string) => string): ChartConfiguration<"bar"> => ({
    type: "bar",
    data: {
      labels: rows.map(({ name }) => name),
      datasets: [
        {
          data: rows.map(({ triangles }) => triangles),
          backgroundColor: colour("--tide"),
          barThickness: 11,
        },
      ],
    },
    options: {
      indexAxis: "y",
      plugins: {
        tooltip: {
          callbacks: {
            label: (item) => `${spaced(Number(item.raw))} triangles`,
          },
        },
      },
      scales: {
        x: { display: false, beginAtZero: true },
        y: {
          grid: { display: false },
          ticks: {
            autoSkip: false,
            color: colour("--ink-2"),
            font: { size: 12 },
          },
        },
      },
    },
  });
});
</script>

<template>
  <section v-if="parts.length">
    <h2>Judge</h2>
    <OperationForm
      v-if="operation"
      :operation="operation"
      @run="workshop.run('reduce/judge', $event)"
    />
    <template v-if="places.length">
      <h3>Worst places</h3>
      <ul>
        <li v-for="(place, i) in places.slice(0, 5)" :key="i">
          <button class="link-action" @click="frame(place.at)">
            {{ place.part || "asset" }}
          </button>
          <span class="mono"
            >{{ length(Math.abs(place.distance)) }}
            {{ place.distance > 0 ? "outside" : "inside" }}</span
          >
        </li>
      </ul>
    </template>
    <WorstOutlines
      v-if="outlines.length"
      :views="outlines"
      @ask="emit('outlines', $event)"
      @look="lookFrom"
    />
    <h3>At the game's size</h3>
    <div class="sized">
      <input
        v-model.number="trials.gameSize"
        type="range"
        min="0"
        max="400"
        step="20"
        aria-label="Height on the screen"
      />
      <b class="mono">{{
        trials.gameSize ? `${trials.gameSize} px` : "off"
      }}</b>
    </div>
    <h3>Triangles by part</h3>
    <ChartPicture
      v-if="parts.length"
      :style="{ height: `${24 + 19 * parts.length}px` }"
      :chart="chart"
      label="Triangles by part"
    />
    <template v-if="buys.length">
      <h3>What 100 triangles buy</h3>
      <table>
        <thead>
          <tr>
            <td />
            <th scope="col">the last</th>
            <th scope="col">100 more</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="each in buys" :key="each.part">
            <th scope="row">
              <button class="link-action" @click="view.selected = [each.part]">
                {{ each.part }}
              </button>
            </th>
            <td class="mono">{{ length(each.bought) }}</td>
            <td class="mono">{{ length(each.next) }}</td>
          </tr>
        </tbody>
      </table>
      <p class="muted">how much nearer the part came to its source by them</p>
    </template>
    <template v-if="hasLevels">
      <h3>Levels of detail</h3>
      <ChoiceRow
        class="switch-group"
        label="Level shown"
        :options="shownLevels"
        :value="trials.level"
        @choose="trials.level = $event"
      />
      <AgedNote report="reduce/levels">
        <ul>
          <li v-for="each in levels" :key="each.level">
            <span
              >level {{ each.level }}, from
              <b class="mono">{{ length(each.distance) }}</b></span
            >
            <span class="mono"
              >{{ spaced(each.triangles) }} ·
              {{ Math.round(each.screenSize) }} px high</span
            >
          </li>
        </ul>
      </AgedNote>
      <SpokenLine v-if="answers.preview && trials.level" class="muted">
        level {{ answers.preview.level }} shown,
        {{ spaced(answers.preview.triangles) }} triangles
      </SpokenLine>
    </template>
  </section>
</template>

<style scoped>
.sized {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 64px;
  gap: 8px;
  align-items: center;
}
.sized b {
  text-align: right;
  font-weight: 500;
}
.sized input {
  accent-color: var(--tide);
}
p {
  margin: 2px 0 0;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  font-weight: 400;
  text-align: left;
}
thead th,
td {
  text-align: right;
  color: var(--ink-2);
}
tbody tr {
  border-top: 1px solid var(--line);
}
h3 {
  margin: 10px 0 2px;
  font-size: 13px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}
</style>
