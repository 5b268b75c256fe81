<script setup lang="ts">
import type { BothWays } from "../../../core/reduce/operations/leave-out";
import AgedNote from "../../components/AgedNote.vue";
import { length, percent, spaced } from "../../shared/figures";
import { useTrials } from "../../stores/trials";
import { useWorkshop } from "../../stores/workshop";

/** A detail tried as geometry and as map: figures of both, and both side by side on the table. */
const trials = useTrials();
const workshop = useWorkshop();
const report = computed(
  () => workshop.asset!.document.reports["reduce/try-both"]?.report,
);
const details = computed(() => (report.value?.details ?? []) as BothWays[]);
const shown = computed(() => Object.keys(trials.without).length > 0);
function showBoth() {
  trials.without = Object.fromEntries(
    details.value.map(({ part, faces }) => [part, faces]),
  );
}
// The table forgets what was tried with every revision: a new trial comes after that.
watch(
  () => JSON.stringify(report.value),
  (now, before) => {
    if (now && now !== before) void nextTick(() => nextTick(showBoth));
  },
);
onBeforeUnmount(() => (trials.without = {}));
function bakeOnly(detail: BothWays) {
  void workshop.run("reduce/leave-out", {
    faces: [`${detail.part}:${detail.faces}`],
    mesh: "source",
  });
}
</script>

<template>
  <AgedNote v-if="details.length" class="tried" report="reduce/try-both">
    <table v-for="detail in details" :key="detail.part + detail.faces">
      <caption>
        {{
          detail.part
        }}
        <span class="mono muted"
          >{{ detail.raised ? `rises ${length(detail.raised)}` : "" }}
          {{ detail.sunken ? `sinks ${length(detail.sunken)}` : "" }}</span
        >
      </caption>
      <thead>
        <tr>
          <td />
          <th scope="col">geometry</th>
          <th scope="col">map</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <th scope="row">triangles</th>
          <td class="mono">{{ spaced(detail.geometry.triangles) }}</td>
          <td class="mono">{{ spaced(detail.map.triangles) }}</td>
        </tr>
        <tr>
          <th scope="row">texels</th>
          <td class="mono">{{ spaced(detail.geometry.texels) }}</td>
          <td class="mono">{{ spaced(detail.map.texels) }}</td>
        </tr>
        <tr>
          <th scope="row">silhouette loses</th>
          <td class="mono">–</td>
          <td class="mono">{{ percent(detail.silhouetteMax, 2) }}</td>
        </tr>
      </tbody>
    </table>
    <div class="row">
      <button
        class="link-action"
        :aria-pressed="shown"
        @click="shown ? (trials.without = {}) : showBoth()"
      >
        {{ shown ? "Show it as it is" : "Show side by side" }}
      </button>
      <button
        v-for="detail in details"
        :key="detail.part"
        class="link-action"
        :disabled="workshop.locked"
        @click="bakeOnly(detail)"
      >
        Bake only: {{ detail.part }}
      </button>
    </div>
  </AgedNote>
</template>

<style scoped>
.tried {
  display: grid;
  gap: 6px;
  padding-left: 4px;
}
table {
  width: 100%;
  border-collapse: collapse;
}
caption {
  text-align: left;
  font-weight: 600;
}
th {
  font-weight: 400;
  text-align: left;
  color: var(--ink-2);
}
thead th,
td {
  text-align: right;
}
tbody tr {
  border-top: 1px solid var(--line);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}
</style>
