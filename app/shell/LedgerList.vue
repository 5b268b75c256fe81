<script setup lang="ts">
import Column from "primevue/column";
import DataTable from "primevue/datatable";
import Select from "primevue/select";
import { budgetOf } from "../../core/asset/asset";
import type { PartDocument } from "../../core/asset/document";
import { counted, percent, spaced } from "../shared/figures";
import ShortName from "../components/ShortName.vue";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

interface Row extends PartDocument {
  sheetShare: number | null;
  budgetUsed: number;
}

const workshop = useWorkshop();
const view = useView();
const filter = ref("all");
const FILTERS = [
  { value: "all", label: "all parts" },
  { value: "left", label: "not done yet" },
  { value: "repeats", label: "repeats" },
  { value: "no-uvs", label: "still without UVs" },
  { value: "baked-only", label: "baked only" },
  { value: "over", label: "over its budget" },
  { value: "locked", label: "locked" },
];
const keep: Record<string, (part: PartDocument) => boolean> = {
  all: () => true,
  left: (part) => !view.done.includes(part.name),
  repeats: (part) => part.repeat !== null,
  "no-uvs": (part) => part.game !== null && !part.game.streams.uvs,
  "baked-only": (part) => part.source !== null && part.game === null,
  over: (part) => {
    const own = budgetOf(workshop.asset!.document, part);
    return own > 0 && (part.game?.triangles ?? 0) > own;
  },
  locked: (part) => part.locked,
};
const groups = computed(() =>
  [...new Set(workshop.asset!.document.parts.map((part) => part.group))]
    .filter(Boolean)
    .map((group) => ({ value: `group ${group}`, label: `group ${group}` })),
);
const kept = (part: PartDocument) =>
  keep[filter.value]?.(part) ?? `group ${part.group}` === filter.value;
const shares = computed(() => {
  const parts = (workshop.asset!.document.results.unwrap?.report.parts ??
    []) as { part: string; share: number }[];
  return new Map(parts.map((each) => [each.part, each.share]));
});
const rows = computed((): Row[] =>
  workshop.asset!.document.parts.filter(kept).map((part) => ({
    ...part,
    sheetShare: part.game ? (shares.value.get(part.name) ?? null) : null,
    budgetUsed: part.game?.triangles ?? 0,
  })),
);
const selection = computed({
  get: () => rows.value.filter((row) => view.selected.includes(row.name)),
  set: (list: Row[]) => (view.selected = list.map((row) => row.name)),
});
function hide(name: string) {
  view.hidden = view.hidden.includes(name)
    ? view.hidden.filter((each) => each !== name)
    : [...view.hidden, name];
}
/** What of the parts that are listed, all at once: those of a group, those without UVs … */
const names = computed(() => rows.value.map((row) => row.name));
const allHidden = computed(() =>
  names.value.every((name) => view.hidden.includes(name)),
);
const chooseListed = () => (view.selected = names.value);
function hideListed() {
  const others = view.hidden.filter((name) => !names.value.includes(name));
  view.hidden = allHidden.value ? others : [...others, ...names.value];
}
async function lock(part: Row) {
  await workshop.run("intake/part-rules", {
    parts: [part.name],
    budget: part.budget,
    share: 100 * part.share,
    locked: !part.locked,
  });
}
</script>

<template>
  <section class="ledger" aria-label="Parts" data-region tabindex="-1">
    <div class="head">
      <h2>Parts</h2>
      <Select
        v-model="filter"
        :options="[...FILTERS, ...groups]"
        option-label="label"
        option-value="value"
        aria-label="Which parts to list"
        size="small"
      />
    </div>
    <p v-if="filter !== 'all' && rows.length" class="listed">
      <span class="muted">{{ counted(rows.length, "part") }}</span>
      <button class="link-action" @click="chooseListed">Choose all</button>
      <button class="link-action" @click="hideListed">
        {{ allHidden ? "Show all" : "Hide all" }}
      </button>
    </p>
    <DataTable
      v-model:selection="selection"
      :value="rows"
      data-key="name"
      selection-mode="multiple"
      :meta-key-selection="true"
      scrollable
      scroll-height="flex"
      size="small"
    >
      <template #empty
        ><span class="muted">{{
          workshop.asset!.document.parts.length
            ? "no part is like that"
            : "no parts yet: bring a file in"
        }}</span></template
      >
      <Column header="part">
        <template #body="{ data }">
          <span class="part" :class="{ off: view.hidden.includes(data.name) }">
            <i :style="{ background: data.colour }" />
            <ShortName :name="data.name" />
          </span>
        </template>
      </Column>
      <Column
        header="triangles"
        body-class="number triangles"
        header-class="number triangles"
      >
        <template #body="{ data }">
          <span
            v-if="data.game"
            class="mono"
            :title="
              data.budget
                ? `own budget: ${spaced(data.budget)}`
                : data.share
                  ? `own share: ${percent(data.share, 0)}`
                  : 'shares the budget'
            "
            >{{ spaced(data.game.triangles) }}</span
          >
          <span v-else class="muted small">{{
            workshop.asset!.document.results.reduce
              ? "baked only"
              : spaced(data.source?.triangles ?? 0)
          }}</span>
        </template>
      </Column>
      <Column
        header="sheet"
        body-class="number share"
        header-class="number share"
      >
        <template #body="{ data }"
          ><em
            v-if="data.repeat"
            class="pi pi-clone"
            role="img"
            :aria-label="`repeats ${data.repeat.of}`"
            :title="`repeats ${data.repeat.of}`"
          /><span v-else class="mono">{{
            data.sheetShare === null ? "–" : percent(data.sheetShare, 0)
          }}</span></template
        >
      </Column>
      <Column body-class="tools" header-class="tools">
        <template #header
          ><span class="hidden-label">show and lock</span></template
        >
        <template #body="{ data }">
          <button
            class="tool"
            :aria-label="`${view.hidden.includes(data.name) ? 'show' : 'hide'} ${data.name}`"
            @click.stop="hide(data.name)"
          >
            <i
              class="pi"
              :class="
                view.hidden.includes(data.name) ? 'pi-eye-slash' : 'pi-eye'
              "
            />
          </button>
          <button
            class="tool"
            :class="{ on: data.locked }"
            :aria-label="`${data.locked ? 'unlock' : 'lock'} ${data.name}`"
            :disabled="workshop.locked"
            @click.stop="lock(data)"
          >
            <i class="pi" :class="data.locked ? 'pi-lock' : 'pi-lock-open'" />
          </button>
        </template>
      </Column>
    </DataTable>
  </section>
</template>

<style scoped>
.ledger {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 8px 8px 6px 14px;
}
.head :deep(.p-select) {
  width: 140px;
}
.listed {
  display: flex;
  align-items: baseline;
  gap: 12px;
  margin: 0;
  padding: 0 8px 5px 14px;
  font-size: 12px;
}
.ledger :deep(.p-datatable) {
  flex: 1;
  min-height: 0;
}
.ledger :deep(th) {
  font-size: 11.5px;
  font-weight: 400;
  color: var(--ink-3);
  padding: 3px 4px;
  background: var(--paper);
  border-color: var(--line);
}
.ledger :deep(td) {
  padding: 3px 4px;
  font-size: 13px;
  border-color: var(--line);
}
.ledger :deep(.p-datatable-tbody td:first-child),
.ledger :deep(.p-datatable-thead th:first-child) {
  padding-left: 14px;
}
.ledger :deep(.p-datatable-column-title) {
  font-weight: 400;
}
.ledger :deep(.number) {
  text-align: right;
}
.ledger :deep(.number .p-datatable-column-header-content) {
  justify-content: flex-end;
}
.ledger :deep(table) {
  table-layout: fixed;
}
.ledger :deep(.triangles) {
  width: 66px;
}
.ledger :deep(.share) {
  width: 38px;
}
.ledger :deep(.tools) {
  width: 48px;
  white-space: nowrap;
  padding-right: 6px;
}
.ledger :deep(tr.p-datatable-row-selected) {
  background: var(--raspberry-wash);
  color: var(--ink);
}
.ledger :deep(tr.p-datatable-row-selected td:first-child) {
  box-shadow: inset 3px 0 var(--raspberry);
}
.part {
  display: flex;
  align-items: center;
  gap: 7px;
  min-width: 0;
}
em.pi {
  font-size: 11px;
  color: var(--ink-3);
}
.part.off {
  opacity: 0.45;
}
.part i {
  flex: none;
  width: 10px;
  height: 10px;
  border-radius: 2px;
}
.small {
  font-size: 12px;
  white-space: nowrap;
}
.tool {
  border: 0;
  background: none;
  padding: 1px 2px;
  color: var(--ink-3);
  cursor: pointer;
  border-radius: 2px;
}
.tool .pi {
  font-size: 12px;
}
.tool.on {
  color: var(--brass-ink);
}
.tool:hover {
  color: var(--ink);
}
</style>
