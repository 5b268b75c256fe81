<script setup lang="ts">
import type { FigureRow } from "../shared/figures";

/** Figures with their limits; `bare` without a heading of their own. */
defineProps<{ rows: FigureRow[]; stale?: boolean; bare?: boolean }>();
</script>

<template>
  <section class="figures">
    <h2 v-if="!bare">Figures <small v-if="stale">of an older state</small></h2>
    <dl>
      <div v-for="row in rows" :key="row.label">
        <dt>{{ row.label }}</dt>
        <dd class="mono" :class="row.state">{{ row.value }}</dd>
        <dd class="mono limit">{{ row.limit ?? "" }}</dd>
      </div>
    </dl>
  </section>
</template>

<style scoped>
small {
  font: 12px var(--sans);
  color: var(--brass-ink);
  margin-left: 6px;
}
dl {
  margin: 6px 0 0;
  display: grid;
  grid-template-columns: minmax(96px, 1fr) auto auto;
  gap: 5px 10px;
  align-items: baseline;
}
dl div {
  display: contents;
}
dt {
  overflow-wrap: anywhere;
}
dd {
  margin: 0;
  text-align: right;
}
.limit {
  color: var(--ink-3);
  font-size: 11.5px;
}
.good {
  color: var(--kelp-ink);
}
.warn {
  color: var(--brass-ink);
}
.bad {
  color: var(--rust);
}
</style>
