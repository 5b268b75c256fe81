<script setup lang="ts">
import GaugeBar from "../../shell/GaugeBar.vue";
import HistoryPanel from "../../shell/HistoryPanel.vue";
import LedgerList from "../../shell/LedgerList.vue";
import LogStrip from "../../shell/LogStrip.vue";
import RouteCard from "../../shell/RouteCard.vue";
import CommandSearch from "../../shell/CommandSearch.vue";
import KeyList from "../../shell/KeyList.vue";
import StageBench from "../../shell/StageBench.vue";
import TableArea from "../../shell/TableArea.vue";
import { useCommands } from "../../shell/commands";
import { followPointer } from "../../shared/drag";
import { nextRegion, useKeptFocus } from "../../shell/kept-focus";
import { useSpeech } from "../../stores/speech";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

const route = useRoute();
const view = useView();
const speech = useSpeech();
const workshop = useWorkshop();
const table = ref<InstanceType<typeof TableArea> | null>(null);
const bench = ref<{ runMain(): void } | null>(null);
const trouble = ref("");
const frame = () => table.value?.frame();
const commands = useCommands(frame, (what) => table.value?.alter(what));
const over = ref(false);
useKeptFocus();

/** px that route and parts take at least and at most. */
const NARROWEST = 220;
const WIDEST = 520;
const setEdge = (width: number) =>
  void (view.ledgerWidth = Math.round(
    Math.min(WIDEST, Math.max(NARROWEST, width)),
  ));
const dragEdge = (event: PointerEvent) =>
  followPointer(event, ({ clientX }) => setEdge(clientX));
function nudgeEdge(event: KeyboardEvent) {
  const way =
    event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
  if (!way) return;
  setEdge(view.ledgerWidth + way * 16);
  event.preventDefault();
}

onMounted(async () => {
  const id = Number(route.params.id);
  view.recall(id);
  try {
    await workshop.open(id);
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error);
  }
  window.addEventListener("keydown", press);
  await nextTick();
  if (workshop.asset && workshop.dropped.length) hand(workshop.dropped);
  workshop.dropped = [];
});
/** Hands files to the bench of Intake. */
const hand = (files: File[]) =>
  window.dispatchEvent(new CustomEvent("arnik-files", { detail: files }));
onBeforeUnmount(() => {
  window.removeEventListener("keydown", press);
  workshop.close();
});
view.$subscribe(() => view.keep());
watchEffect(() => document.documentElement.classList.toggle("dark", view.dark));
watchEffect(() => {
  if (workshop.asset)
    document.title = `${workshop.asset.document.name} · Arnik`;
});

function press(event: KeyboardEvent) {
  const target = event.target as HTMLElement;
  if (event.ctrlKey && event.key.toLowerCase() === "k") {
    view.panel = view.panel === "find" ? "" : "find";
    event.preventDefault();
    return;
  }
  if (event.key === "F6" && nextRegion(event.shiftKey)) {
    event.preventDefault();
    return;
  }
  if (event.ctrlKey && event.key === "Enter") {
    bench.value?.runMain();
    event.preventDefault();
    return;
  }
  const typing =
    /^(INPUT|SELECT|TEXTAREA)$/.test(target.tagName) ||
    target.getAttribute("role") === "combobox";
  if (event.key === "Escape" && view.panel) {
    view.panel = "";
    return;
  }
  if (typing || event.ctrlKey || event.altKey || event.metaKey) return;
  if (!view.singleKeys && event.key.length === 1) return;
  // Signs that need Shift on some keyboards are keys of their own.
  const shift = event.shiftKey && /^[a-z]$/i.test(event.key);
  const command = commands.value.find(
    (each) =>
      each.key === event.key.toLowerCase() && Boolean(each.shift) === shift,
  );
  if (!command) return;
  command.act();
  event.preventDefault();
}
async function drop(event: DragEvent) {
  over.value = false;
  const files = [...(event.dataTransfer?.files ?? [])];
  if (!files.length || workshop.locked) return;
  view.go("intake");
  await nextTick();
  hand(files);
}
</script>

<template>
  <div
    v-if="workshop.asset"
    class="shop"
    :class="{ over }"
    :style="{ '--ledger': `${view.ledgerWidth}px` }"
    @dragover.prevent="over = true"
    @dragleave.self="over = false"
    @drop.prevent="drop"
  >
    <GaugeBar />
    <aside class="left">
      <RouteCard />
      <LedgerList />
      <div
        class="edge"
        role="separator"
        tabindex="0"
        aria-orientation="vertical"
        aria-label="Width of route and parts"
        :aria-valuenow="view.ledgerWidth"
        :aria-valuemin="NARROWEST"
        :aria-valuemax="WIDEST"
        @pointerdown="dragEdge"
        @keydown="nudgeEdge"
      />
    </aside>
    <TableArea ref="table" />
    <aside class="right" aria-label="Bench" data-region tabindex="-1">
      <HistoryPanel
        v-if="view.panel === 'history'"
        :picture="() => table!.picture()"
      />
      <CommandSearch v-else-if="view.panel === 'find'" :commands="commands" />
      <KeyList v-else-if="view.panel === 'keys'" :commands="commands" />
      <StageBench
        v-else
        ref="bench"
        @frame="frame"
        @look="(at, radius) => table?.look(at, radius)"
        @outlines="table?.askOutlines($event)"
        @trace="table?.trace($event)"
      />
    </aside>
    <LogStrip />
    <p class="hidden-label" role="status" aria-live="polite">
      {{ speech.text }}
    </p>
  </div>
  <main v-else class="waiting">
    <p v-if="trouble">{{ trouble }} <NuxtLink to="/">All assets</NuxtLink></p>
    <p v-else class="muted">opening…</p>
  </main>
</template>

<style scoped>
.shop {
  display: grid;
  grid-template:
    52px minmax(0, 1fr) 34px / min(var(--ledger), 40vw) minmax(0, 1fr)
    316px;
  grid-template-areas: "gauge gauge gauge" "left table right" "log log log";
  height: 100vh;
  overflow: hidden;
  min-width: 960px;
}
.shop > :deep(.gauge) {
  grid-area: gauge;
}
.shop > :deep(.table) {
  grid-area: table;
}
.shop > :deep(.log) {
  grid-area: log;
}
.left {
  position: relative;
  grid-area: left;
  display: flex;
  flex-direction: column;
  min-height: 0;
  background: var(--paper);
  border-right: 1px solid var(--line);
}
.right {
  grid-area: right;
  min-height: 0;
  background: var(--paper);
  border-left: 1px solid var(--line);
}
.edge {
  position: absolute;
  top: 0;
  bottom: 0;
  right: -4px;
  width: 8px;
  z-index: 2;
  cursor: col-resize;
  touch-action: none;
}
.edge:hover,
.edge:focus-visible {
  background: var(--tide-wash);
}
.over {
  outline: 3px solid var(--tide);
  outline-offset: -3px;
}
.waiting {
  padding: 40px;
}
</style>
