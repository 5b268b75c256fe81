<script setup lang="ts">
import type { RepeatRow } from "../../../core/unwrap/operations/find-repeats";
import AgedNote from "../../components/AgedNote.vue";
import { percent, spaced } from "../../shared/figures";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** Islands that are alike, whether copies are ever seen together, and what sharing frees. */
const view = useView();
const workshop = useWorkshop();
const report = computed(
  () => workshop.asset!.document.reports["unwrap/find-repeats"]?.report,
);
const rows = computed(
  () => (report.value?.groups ?? null) as RepeatRow[] | null,
);
const choose = ({ faces }: RepeatRow) =>
  view.choose(
    Object.fromEntries(
      faces.map((text) => {
        const at = text.lastIndexOf(":");
        return [text.slice(0, at), text.slice(at + 1)];
      }),
    ),
    "game",
  );
const share = (row: RepeatRow, only: "all" | "none") =>
  workshop.run("unwrap/share", { faces: row.faces, mesh: "game", only });
const nameOf = ({ parts }: RepeatRow) =>
  parts.length > 2
    ? `${parts[0]}, ${parts[1]} and ${parts.length - 2} more`
    : parts.join(", ");
</script>

<template>
  <AgedNote v-if="rows" class="repeats" report="unwrap/find-repeats">
    <p v-if="!rows.length" class="muted">No two islands are alike.</p>
    <p v-else class="muted">
      Sharing frees <b class="mono">{{ percent(Number(report!.freed)) }}</b> of
      all texels, <b class="mono">{{ percent(Number(report!.freedUnseen)) }}</b>
      where nobody can tell.
    </p>
    <ul>
      <li v-for="(row, i) in rows" :key="i">
        <button class="link-action" @click="choose(row)">
          {{ row.count }} × {{ nameOf(row) }}
        </button>
        <button
          class="link-action act"
          :disabled="workshop.locked"
          @click="share(row, row.shared ? 'none' : 'all')"
        >
          {{ row.shared ? "Make unique" : "Share" }}
        </button>
        <span class="what muted">
          {{ row.mirrored ? `${row.mirrored} mirrored · ` : "" }}frees
          <b class="mono">{{ percent(row.freed) }}</b> ·
          {{
            row.together === 0
              ? "never seen together"
              : row.free
                ? `${spaced(row.size)} px, too small to notice`
                : `seen together from ${percent(row.together, 0)} of directions`
          }}
        </span>
      </li>
    </ul>
  </AgedNote>
</template>

<style scoped>
.repeats {
  display: grid;
  gap: 6px;
}
p {
  margin: 0;
  font-size: 12.5px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 5px;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 8px;
  justify-items: start;
}
.link-action {
  text-align: left;
}
.act {
  white-space: nowrap;
}
.what {
  grid-column: 1 / -1;
  font-size: 12px;
}
</style>
