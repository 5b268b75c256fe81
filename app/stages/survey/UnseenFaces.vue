<script setup lang="ts">
import Button from "primevue/button";
import type { UnseenReport } from "../../../core/survey/operations/look-from-outside";
import AgedNote from "../../components/AgedNote.vue";
import SpokenLine from "../../components/SpokenLine.vue";
import OperationForm from "../../components/OperationForm.vue";
import { percent, spaced } from "../../shared/figures";
import { useAnswers } from "../../stores/answers";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** Looks from outside, shows how much is seen as a heat map, and leaves out what a threshold says, after a preview. */
const view = useView();
const answers = useAnswers();
const workshop = useWorkshop();
const operation = computed(() =>
  workshop.operations.find((each) => each.id === "survey/unseen"),
);
const looked = computed(() =>
  workshop.asset!.document.parts.some(
    (part) => part.source?.streams.visibility || part.game?.streams.visibility,
  ),
);
const report = computed(
  () => workshop.asset!.document.reports["survey/unseen"],
);
const MOST_LISTED = 6;
/** Never seen at all, part by part, those that free most first. */
const candidates = computed(() => {
  const present = new Set(
    workshop
      .asset!.document.parts.filter(
        (part) =>
          part.source?.streams.visibility || part.game?.streams.visibility,
      )
      .map((part) => part.name),
  );
  return ((report.value?.report.parts ?? []) as UnseenReport["parts"])
    .filter(({ part }) => present.has(part))
    .sort((a, b) => b.triangles - a.triangles);
});
const previewing = computed(() => view.overlay === "seen");
const unseen = computed(() => (previewing.value ? answers.unseen : null));
const leave = (how: "delete" | "source-only") =>
  workshop.run("survey/leave-unseen", {
    threshold: view.threshold,
    how,
    mesh: view.facesOf,
    parts: [...view.selected],
  });
watch(
  () => report.value,
  (now, before) => {
    if (now && before !== now && workshop.word.includes(operation.value!.title))
      view.overlay = "seen";
  },
);
</script>

<template>
  <section v-if="operation">
    <h2>Unseen faces</h2>
    <OperationForm
      :operation="operation"
      :values="report?.options"
      @run="workshop.run(operation.id, $event)"
    />
    <template v-if="looked">
      <label class="row">
        <span>Seen by up to</span>
        <input
          v-model.number="view.threshold"
          type="range"
          min="0"
          max="20"
          step="0.5"
          aria-label="Share of the views that still counts as unseen"
          @input="view.overlay = 'seen'"
        />
        <b class="mono">{{ view.threshold }} %</b>
      </label>
      <SpokenLine v-if="unseen" class="free">
        frees <b class="mono">{{ spaced(unseen.triangles) }}</b> triangles,
        <b class="mono">{{ percent(unseen.share) }}</b> of the sheet
      </SpokenLine>
      <AgedNote v-if="candidates.length" report="survey/unseen">
        <ul>
          <li v-for="each in candidates.slice(0, MOST_LISTED)" :key="each.part">
            <button @click="view.selected = [each.part]">
              {{ each.part }}
            </button>
            <span class="mono">{{ spaced(each.triangles) }}</span>
            <span class="mono">{{ percent(each.sheetShare) }}</span>
          </li>
          <li v-if="candidates.length > MOST_LISTED" class="muted">
            and {{ candidates.length - MOST_LISTED }} more parts
          </li>
        </ul>
      </AgedNote>
      <Button
        v-if="!previewing"
        severity="secondary"
        outlined
        label="Preview in the view"
        @click="view.overlay = 'seen'"
      />
      <div v-else class="both">
        <Button
          severity="danger"
          outlined
          label="Delete them"
          :disabled="workshop.locked || !unseen?.triangles"
          @click="leave('delete')"
        />
        <Button
          severity="secondary"
          outlined
          label="Source only"
          :disabled="workshop.locked || !unseen?.triangles"
          @click="leave('source-only')"
        />
      </div>
    </template>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
}
.row {
  display: grid;
  grid-template-columns: auto 1fr 48px;
  gap: 8px;
  align-items: center;
}
.row input {
  min-width: 0;
  accent-color: var(--tide);
}
.row b {
  text-align: right;
  font-weight: 500;
}
.free {
  margin: 0;
  border-left: 4px solid var(--raspberry);
  padding-left: 8px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 1fr 70px 60px;
  text-align: right;
}
li.muted {
  display: block;
  text-align: left;
}
li button {
  border: 0;
  background: none;
  padding: 1px 0;
  color: var(--ink);
  font: 13px var(--sans);
  text-align: left;
  cursor: pointer;
}
.both {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
</style>
