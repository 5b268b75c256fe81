<script setup lang="ts">
import type { Finding } from "./figures";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

defineProps<{ findings: Finding[] }>();
const emit = defineEmits<{ frame: [] }>();
const view = useView();
const workshop = useWorkshop();
function look(finding: Finding) {
  if (!finding.parts) return;
  view.selected = [...finding.parts];
  void nextTick(() => emit("frame"));
}
</script>

<template>
  <section v-if="findings.length">
    <h2>
      Findings <small class="mono">{{ findings.length }}</small>
    </h2>
    <ul>
      <li v-for="finding in findings" :key="finding.text" :class="finding.tone">
        <button class="text" :disabled="!finding.parts" @click="look(finding)">
          {{ finding.text }}
        </button>
        <button
          v-if="finding.mend"
          class="link-action"
          :disabled="workshop.locked"
          @click="workshop.run(finding.mend.operation, finding.mend.options)"
        >
          {{ finding.mend.label }}
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
.text {
  flex: 1;
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
</style>
