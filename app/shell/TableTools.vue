<script setup lang="ts">
import ChoiceRow from "../components/ChoiceRow.vue";
import type { Means, ToolWord, What } from "../shared/tools";
import {
  MEANS,
  meansOf,
  toolBy,
  toolFor,
  whatOf,
  whatsOf,
} from "../shared/tools";
import { useView } from "../stores/view";

/** What a click takes and by what means: two rows above the table that never wrap. */
const emit = defineEmits<{
  alter: [what: "grow" | "shrink" | "invert"];
}>();
const view = useView();
const ALTER = ["grow", "shrink", "invert"] as const;
const whats = computed(() => whatsOf(view.stage));
const what = computed(() => whatOf(view.tool));
const means = computed(() => meansOf(view.tool));
const choosesFaces = computed(
  () =>
    !["part", "edge", "loop", "ring", "trace", "region"].includes(what.value),
);
const worded = <T extends string>(words: readonly ToolWord<T>[]) =>
  words.map(({ value, label, title, key }) => ({
    value,
    label,
    spoken: `choose by ${label}`,
    title: `${title} (Shift ${key.toUpperCase()})`,
  }));
const take = (value: What) =>
  void (view.tool = toolFor(value, means.value) ?? toolFor(value, "click")!);
const use = (value: Means) => void (view.tool = toolBy(view.tool, value));
</script>

<template>
  <div class="tools" role="toolbar" aria-label="Tools">
    <div class="row">
      <span class="muted">choose</span>
      <ChoiceRow
        label="What a click takes"
        :options="worded(whats)"
        :value="what"
        @choose="take"
      />
    </div>
    <div class="row">
      <span class="muted">by</span>
      <ChoiceRow
        label="By what means"
        :options="worded(MEANS)"
        :value="means"
        @choose="use"
      />
      <label class="reach">
        <template v-if="view.tool === 'flood'">
          <input
            v-model.number="view.floodAngle"
            type="range"
            min="0"
            max="90"
            aria-label="Flood angle"
          />
          <b class="mono">{{ view.floodAngle }}°</b>
        </template>
        <template v-else-if="view.tool === 'paint'">
          <input
            v-model.number="view.brush"
            type="range"
            min="4"
            max="120"
            aria-label="Brush radius"
          />
          <b class="mono">{{ view.brush }} px</b>
        </template>
      </label>
      <button
        v-for="each in ALTER"
        :key="each"
        class="alter"
        :aria-label="each"
        :disabled="!choosesFaces"
        :title="`${each} what is chosen${each === 'grow' ? ' (])' : each === 'shrink' ? ' ([)' : ''}`"
        @click="emit('alter', each)"
      >
        {{ each }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.tools {
  display: grid;
  gap: 1px;
  padding: 3px 8px;
  background: var(--paper);
  border-bottom: 1px solid var(--line);
  container-type: inline-size;
}
.row {
  display: flex;
  align-items: center;
  height: 24px;
  white-space: nowrap;
}
.muted {
  width: 46px;
  font-size: 12px;
}
button,
.row :deep([role="radio"]) {
  border: 0;
  background: none;
  padding: 2px 7px;
  border-radius: 2px;
  color: var(--ink-2);
  font: 12.5px var(--sans);
  cursor: pointer;
}
button:hover:not(:disabled),
.row :deep([role="radio"]:hover) {
  background: var(--ground);
}
.row :deep(.on) {
  background: var(--tide-wash);
  color: var(--tide);
  box-shadow: inset 0 0 0 1px currentcolor;
}
.dark .row :deep(.on) {
  color: var(--ink);
}
button:disabled {
  color: var(--line);
  cursor: default;
}
.reach {
  display: flex;
  align-items: center;
  gap: 6px;
  flex: 1 1 0;
  width: 0;
  max-width: 170px;
  margin: 0 8px;
  overflow: hidden;
  font-size: 12px;
}
.reach input {
  flex: 1 1 0;
  width: 0;
  min-width: 20px;
  accent-color: var(--tide);
}
.alter {
  margin-left: 1px;
}
.reach + .alter {
  margin-left: auto;
}
@container (max-width: 460px) {
  button,
  .row :deep([role="radio"]) {
    padding: 2px 4px;
  }
  .muted {
    width: auto;
    padding-right: 4px;
  }
}
</style>
