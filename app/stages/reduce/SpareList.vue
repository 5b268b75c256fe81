<script setup lang="ts">
import type { Spare } from "../../../core/reduce/operations/leave-out";
import AgedNote from "../../components/AgedNote.vue";
import { percent, spaced } from "../../shared/figures";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** What could be baked only, and what that frees. */
const view = useView();
const workshop = useWorkshop();
const reports = computed(() => workshop.asset!.document.reports);
const spares = computed(
  () =>
    (reports.value["reduce/find-spares"]?.report.spares ?? null) as
      Spare[] | null,
);
const nameOf = ({ kind, pieces }: Spare) =>
  kind === "unseen"
    ? "unseen faces"
    : kind === "baked only"
      ? "baked only"
      : pieces === 1
        ? "a floating piece"
        : `${spaced(pieces)} floating pieces`;
const faces = (of: { part: string; faces: string }) => [
  `${of.part}:${of.faces}`,
];
function choose(spare: Spare) {
  view.choose({ [spare.part]: spare.faces }, "source");
  if (view.show === "game" || view.show === "baked") view.show = "compare";
}
function leave(of: { part: string; faces: string }, on: boolean) {
  void workshop.run("reduce/leave-out", {
    faces: faces(of),
    mesh: "source",
    on,
  });
}
</script>

<template>
  <AgedNote v-if="spares" class="spares" report="reduce/find-spares">
    <p v-if="!spares.length" class="muted">
      Nothing was found that costs triangles and is not needed. Unseen faces are
      known once Survey has looked from outside.
    </p>
    <ul v-else>
      <li v-for="spare in spares" :key="spare.part + spare.kind + spare.faces">
        <button class="link-action" @click="choose(spare)">
          {{ spare.part }}
        </button>
        <span class="what"
          >{{ nameOf(spare) }}
          <span class="mono muted">{{
            spare.kind === "baked only"
              ? `${spaced(spare.sourceTriangles)} of the source`
              : `frees ${spaced(spare.triangles)} tri · ${percent(spare.sheet)} of the sheet`
          }}</span></span
        >
        <button
          class="link-action"
          :disabled="workshop.locked"
          @click="leave(spare, spare.kind !== 'baked only')"
        >
          {{ spare.kind === "baked only" ? "Take back" : "Leave out" }}
        </button>
      </li>
    </ul>
  </AgedNote>
</template>

<style scoped>
.spares {
  display: grid;
  gap: 6px;
}
p {
  margin: 0;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 4px;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 8px;
  justify-items: start;
}
.what {
  grid-column: 1 / -1;
  grid-row: 2;
}
</style>
