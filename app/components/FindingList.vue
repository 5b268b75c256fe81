<script setup lang="ts">
import type { Finding } from "../shared/figures";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

/** What there is to see to: each row frames its places in the view, one after the other, and offers its mend. */
defineProps<{ findings: Finding[] }>();
const emit = defineEmits<{
  frame: [];
  look: [at: [number, number, number], radius: number];
}>();
const view = useView();
const workshop = useWorkshop();
const at = ref<{ text: string; place: number }>({ text: "", place: -1 });

function look(finding: Finding) {
  const { places } = finding;
  if (finding.faces) view.choose({ ...finding.faces }, "game");
  if (places?.length) {
    const next =
      at.value.text === finding.text ? (at.value.place + 1) % places.length : 0;
    at.value = { text: finding.text, place: next };
    view.place = places[next];
    if (finding.onGame) view.show = "game";
    else if (view.show !== "source" && view.show !== "compare")
      view.show = "source";
    emit("look", places[next].at, places[next].radius);
    return;
  }
  if (!finding.parts) return;
  view.selected = [...finding.parts];
  void nextTick(() => emit("frame"));
}
const seen = (finding: Finding) =>
  at.value.text === finding.text && finding.places && finding.places.length > 1
    ? `${at.value.place + 1} of ${finding.places.length}`
    : "";
</script>

<template>
  <section v-if="findings.length">
    <h2>
      Findings <small class="mono">{{ findings.length }}</small>
    </h2>
    <ul>
      <li
        v-for="finding in findings"
        :key="finding.text"
        :class="[finding.tone, { several: finding.others?.length }]"
      >
        <button
          class="text"
          :disabled="!finding.parts && !finding.places?.length"
          @click="look(finding)"
        >
          {{ finding.text }}
          <small v-if="seen(finding)" class="mono">{{ seen(finding) }}</small>
        </button>
        <button
          v-for="mend in [finding.mend ?? [], finding.others ?? []].flat()"
          :key="mend.label"
          class="link-action"
          :disabled="workshop.locked"
          @click="workshop.run(mend.operation, mend.options)"
        >
          {{ mend.label }}
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
small {
  color: var(--ink-3);
  font-weight: 400;
}
ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  display: grid;
  gap: 4px;
}
li {
  display: flex;
  align-items: center;
  gap: 6px;
  border-left: 4px solid var(--brass);
  border-radius: 2px;
  padding: 2px 0 2px 8px;
}
li.bad {
  border-color: var(--rust);
}
li.note {
  border-color: var(--line);
}
/* Several mends stand below what they mend. */
li.several {
  flex-wrap: wrap;
  gap: 2px 12px;
}
li.several .text {
  flex-basis: 100%;
}
.text {
  flex: 1;
  min-width: 0;
  border: 0;
  background: none;
  padding: 2px;
  color: var(--ink);
  font: 13px/1.35 var(--sans);
  text-align: left;
  cursor: pointer;
}
.text:disabled {
  cursor: default;
}
.link-action {
  white-space: nowrap;
}
</style>
