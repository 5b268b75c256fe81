<script setup lang="ts">
import { STAGES, STAGE_TITLES } from "../../core/asset/stages";
import { isBakeWrong } from "../stages/bake/bench";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

const workshop = useWorkshop();
const view = useView();
const rows = computed(() =>
  STAGES.map((stage, i) => {
    const standing = workshop.asset!.standing[i];
    const result = workshop.asset!.document.results[stage];
    const wrong =
      result?.report.failed !== undefined ||
      (stage === "bake" && result !== undefined && isBakeWrong(result.report));
    return {
      stage,
      number: i + 1,
      title: STAGE_TITLES[stage],
      state: wrong && standing.state === "current" ? "wrong" : standing.state,
      headline: result?.headline ?? "–",
      why: standing.changed,
    };
  }),
);
</script>

<template>
  <nav class="route" aria-label="Route" data-region tabindex="-1">
    <h2>Route</h2>
    <button
      v-for="row in rows"
      :key="row.stage"
      class="stage"
      :class="[
        row.state,
        {
          here: view.stage === row.stage,
          working: workshop.workedAt === row.stage,
        },
      ]"
      :aria-current="view.stage === row.stage ? 'step' : undefined"
      :title="
        row.why.length ? `stale: ${row.why.join(', ')} changed` : undefined
      "
      @click="view.go(row.stage)"
    >
      <i>{{ row.number }}</i>
      <b>{{ row.title }}</b>
      <span class="mono">{{
        workshop.workedAt === row.stage
          ? "working"
          : row.state === "stale"
            ? "stale"
            : row.headline
      }}</span>
    </button>
  </nav>
</template>

<style scoped>
.route {
  padding: 8px;
  border-bottom: 1px solid var(--line);
}
h2 {
  padding: 0 6px 4px;
}
.stage {
  display: grid;
  grid-template-columns: 24px 1fr auto;
  align-items: center;
  gap: 8px;
  width: 100%;
  height: 29px;
  padding: 0 8px 0 4px;
  border: 0;
  border-radius: 3px;
  background: none;
  color: var(--ink);
  text-align: left;
  cursor: pointer;
}
.stage:hover {
  background: var(--ground);
}
.stage.here {
  background: var(--tide-wash);
}
i {
  display: grid;
  place-items: center;
  width: 20px;
  height: 20px;
  border-radius: 50%;
  font: 500 11px var(--mono);
  font-style: normal;
  border: 1px solid var(--ink-3);
  color: var(--ink-3);
}
.current i {
  background: var(--kelp);
  border-color: var(--kelp);
  color: #fff;
}
.stale i {
  border: 1.5px solid var(--brass);
  color: var(--brass-ink);
  background: var(--brass-wash);
}
.wrong i {
  background: var(--rust);
  border-color: var(--rust);
  color: #fff;
}
.working i {
  background: none;
  color: var(--tide);
  border: 2px solid var(--tide-wash);
  border-top-color: var(--tide);
  animation: turn 1s linear infinite;
}
.working span {
  color: var(--tide);
}
@keyframes turn {
  to {
    transform: rotate(1turn);
  }
}
b {
  font: 500 14.5px var(--slab);
}
.stage span {
  font-size: 11.5px;
  color: var(--ink-2);
  white-space: nowrap;
}
.stale span {
  color: var(--brass-ink);
}
.wrong span {
  color: var(--rust);
}
.empty b {
  color: var(--ink-2);
}
</style>
