<script setup lang="ts">
import GaugeBar from "../../components/GaugeBar.vue";
import HistoryPanel from "../../components/HistoryPanel.vue";
import LedgerList from "../../components/LedgerList.vue";
import LogStrip from "../../components/LogStrip.vue";
import RouteCard from "../../components/RouteCard.vue";
import SidePanel from "../../components/SidePanel.vue";
import StageBench from "../../components/StageBench.vue";
import TableArea from "../../components/TableArea.vue";
import { useCommands } from "../../components/commands";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

const route = useRoute();
const view = useView();
const workshop = useWorkshop();
const table = ref<InstanceType<typeof TableArea> | null>(null);
const bench = ref<{ runMain(): void } | null>(null);
const trouble = ref("");
const frame = () => table.value?.frame();
const commands = useCommands(frame, (what) => table.value?.alter(what));
const over = ref(false);

onMounted(async () => {
  const id = Number(route.params.id);
  view.recall(id);
  try {
    await workshop.open(id);
  } catch (error) {
    trouble.value = error instanceof Error ? error.message : String(error);
  }
  window.addEventListener("keydown", press);
});
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
  const command = commands.value.find(
    (each) => each.key === event.key.toLowerCase(),
  );
  if (!command) return;
  command.act();
  event.preventDefault();
}
async function drop(event: DragEvent) {
  over.value = false;
  const files = [...(event.dataTransfer?.files ?? [])];
  if (!files.length || workshop.locked) return;
  view.stage = "intake";
  await nextTick();
  window.dispatchEvent(new CustomEvent("arnik-files", { detail: files }));
}
</script>

<template>
  <div
    v-if="workshop.asset"
    class="shop"
    :class="{ over }"
    @dragover.prevent="over = true"
    @dragleave.self="over = false"
    @drop.prevent="drop"
  >
    <GaugeBar />
    <aside class="left">
      <RouteCard />
      <LedgerList />
    </aside>
    <TableArea ref="table" />
    <aside class="right" aria-label="Bench">
      <HistoryPanel
        v-if="view.panel === 'history'"
        :picture="() => table!.picture()"
        @compare="table?.compareWith($event)"
      />
      <SidePanel v-else-if="view.panel" :commands="commands" />
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
  </div>
  <div v-else class="waiting">
    <p v-if="trouble">{{ trouble }} <NuxtLink to="/">All assets</NuxtLink></p>
    <p v-else class="muted">opening…</p>
  </div>
</template>

<style scoped>
.shop {
  display: grid;
  grid-template: 52px minmax(0, 1fr) 34px / 252px minmax(0, 1fr) 316px;
  grid-template-areas: "gauge gauge gauge" "left table right" "log log log";
  height: 100vh;
  overflow: hidden;
  min-width: 1100px;
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
.over {
  outline: 3px solid var(--tide);
  outline-offset: -3px;
}
.waiting {
  padding: 40px;
}
</style>
