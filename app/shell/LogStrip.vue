<script setup lang="ts">
import Button from "primevue/button";
import ProgressBar from "primevue/progressbar";
import { aboutTime } from "../shared/figures";
import { useSpeech } from "../stores/speech";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";
import SentElsewhere from "./SentElsewhere.vue";

const workshop = useWorkshop();
const view = useView();
const titleOf = (id: string) =>
  workshop.operations.find((each) => each.id === id)?.title ??
  (id === "route/run" ? "Run the route" : "Bring up to date");
const left = computed(() => {
  const progress = workshop.job?.progress;
  if (!progress || progress.share < 0.05 || progress.since < 1500) return "";
  const seconds =
    ((progress.since / progress.share) * (1 - progress.share)) / 1000;
  return aboutTime(seconds);
});
/** An archive that the last job left. */
const justMade = computed(() =>
  [workshop.shipped, workshop.packed].find(
    (job) => job && job.id === workshop.asset!.jobs[0]?.id,
  ),
);
const share = computed(
  () => workshop.sending?.share ?? workshop.job?.progress?.share ?? 0,
);
const running = computed(() =>
  workshop.sending
    ? workshop.sending.doing
    : workshop.job
      ? titleOf(workshop.job.operation)
      : "",
);
/** What a screen reader is told: what runs, every tenth of it, and the last word. */
const speech = useSpeech();
watch(
  () => {
    const tenth = Math.floor(10 * share.value);
    return running.value
      ? running.value + (tenth ? `, ${10 * tenth} %` : "")
      : workshop.slow || workshop.word;
  },
  (words) => speech.say(words),
  { immediate: true },
);
</script>

<template>
  <footer class="log" data-region tabindex="-1" aria-label="Log">
    <div class="now">
      <template v-if="workshop.sending || workshop.job">
        <b>{{ running }}</b>
        <ProgressBar
          class="track"
          :value="Math.round(100 * share)"
          :show-value="false"
          :aria-label="running"
        />
        <span class="mono step"
          >{{ Math.round(100 * share) }}&#8201;% ·
          {{
            workshop.sending?.name ?? workshop.job!.progress?.step ?? "waiting"
          }}{{ left ? ` · ${left}` : "" }}</span
        >
        <Button
          v-if="workshop.sending || workshop.job"
          size="small"
          severity="secondary"
          outlined
          label="Cancel"
          @click="
            workshop.sending
              ? workshop.sending.stop()
              : workshop.cancel(workshop.job!.id)
          "
        />
      </template>
      <template v-else-if="workshop.slow">
        <b>{{ workshop.slow }}</b>
        <ProgressBar
          class="track"
          mode="indeterminate"
          :aria-label="workshop.slow"
        />
        <Button
          size="small"
          severity="secondary"
          outlined
          label="Cancel"
          @click="workshop.stop?.()"
        />
      </template>
      <template v-else-if="workshop.error || workshop.broken">
        <span class="trouble" role="alert"
          ><i class="pi pi-exclamation-triangle" />
          {{
            workshop.error ||
            `${titleOf(workshop.broken!.operation)} ${workshop.broken!.state}: ${workshop.broken!.error ?? ""}`
          }}</span
        >
        <Button
          v-if="workshop.broken"
          size="small"
          severity="secondary"
          outlined
          label="Run again"
          :disabled="workshop.locked"
          @click="workshop.again(workshop.broken.id)"
        />
        <button
          v-if="workshop.error"
          class="link-action"
          @click="workshop.error = ''"
        >
          Dismiss
        </button>
      </template>
      <template v-else>
        <span class="muted word">{{
          workshop.word || workshop.asset!.title
        }}</span>
        <a
          v-if="justMade"
          class="save"
          :href="`/api/jobs/${justMade.id}/file`"
          download
          >Save the archive</a
        >
      </template>
    </div>
    <SentElsewhere />
    <div class="side">
      <button
        class="step-button"
        :disabled="!workshop.asset!.canUndo || workshop.locked"
        aria-label="Undo"
        title="Undo (U)"
        @click="workshop.step('undo')"
      >
        <i class="pi pi-undo" />
      </button>
      <span class="mono">{{ workshop.asset!.number }}</span>
      <button
        class="step-button"
        :disabled="!workshop.asset!.canRedo || workshop.locked"
        aria-label="Redo"
        title="Redo (R)"
        @click="workshop.step('redo')"
      >
        <i class="pi pi-refresh" />
      </button>
      <button
        class="hint"
        @click="view.panel = view.panel === 'history' ? '' : 'history'"
      >
        <kbd>Y</kbd> history
      </button>
      <button class="hint" @click="view.dark = !view.dark">
        {{ view.dark ? "light" : "dark" }}
      </button>
      <button
        class="hint"
        @click="view.panel = view.panel === 'keys' ? '' : 'keys'"
      >
        <kbd>?</kbd> keys
      </button>
      <button
        class="hint"
        @click="view.panel = view.panel === 'find' ? '' : 'find'"
      >
        <kbd>Ctrl K</kbd> find
      </button>
    </div>
  </footer>
</template>

<style scoped>
.log {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 16px;
  height: 34px;
  padding: 0 12px;
  background: var(--paper);
  border-top: 1px solid var(--line);
}
.now {
  display: flex;
  align-items: center;
  gap: 12px;
  min-width: 0;
}
.now b {
  font: 600 13.5px var(--slab);
  white-space: nowrap;
}
.track {
  width: 160px;
  flex: none;
  height: 8px;
}
.step,
.word,
.trouble {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.trouble {
  color: var(--rust);
  white-space: normal;
  font-size: 12.5px;
  line-height: 1.2;
  max-height: 31px;
}
.save {
  font-weight: 600;
  white-space: nowrap;
}
.side {
  display: flex;
  align-items: center;
  gap: 8px;
  white-space: nowrap;
}
.step-button,
.hint {
  background: none;
  border: 0;
  cursor: pointer;
  color: var(--ink-2);
  padding: 2px 4px;
  border-radius: 3px;
  font: 12.5px var(--sans);
}
.step-button:disabled {
  color: var(--line);
  cursor: default;
}
.hint:hover,
.step-button:not(:disabled):hover {
  background: var(--ground);
}
kbd {
  font: 11px var(--mono);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 0 4px;
  background: var(--ground);
}
</style>
