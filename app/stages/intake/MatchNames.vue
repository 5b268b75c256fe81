<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Select from "primevue/select";
import {
  DEFAULT_PATTERNS,
  matchNames,
} from "../../../core/intake/methods/match";
import { percent } from "../../shared/figures";
import { useWorkshop } from "../../stores/workshop";

/** Source and game meshes paired by name, tried live as the pattern is written; what is left is joined by hand. */
const workshop = useWorkshop();
const patterns = reactive({ ...DEFAULT_PATTERNS });
const parts = computed(() =>
  workshop.asset!.document.parts.filter((part) => !part.repeat),
);
const sources = computed(() =>
  parts.value.flatMap((part) => (part.source && !part.game ? part.name : [])),
);
const games = computed(() =>
  parts.value.flatMap((part) => (part.game && !part.source ? part.name : [])),
);
const tried = computed(() => matchNames(sources.value, games.value, patterns));

interface Suggestion {
  game: string;
  sources: { name: string; likeness: number }[];
}
const likeliest = computed((): Map<string, Suggestion["sources"]> => {
  const { results, reports } = workshop.asset!.document;
  const all = [
    results.intake?.report,
    reports["intake/match"]?.report,
    reports["intake/join-pair"]?.report,
    reports["intake/part-pair"]?.report,
  ].flatMap((report) => (report?.likeliest ?? []) as Suggestion[]);
  return new Map(all.map(({ game, sources: list }) => [game, list]));
});
const partner = ref<Record<string, string>>({});
const partnerOf = (game: string) =>
  partner.value[game] ??
  likeliest.value
    .get(game)
    ?.find(({ name }) => tried.value.sources.includes(name))?.name;
const optionsFor = (game: string) =>
  tried.value.sources.map((name) => {
    const found = likeliest.value.get(game)?.find((each) => each.name === name);
    return {
      name,
      label: found ? `${name} · ${percent(found.likeness, 0)} alike` : name,
    };
  });
const match = () =>
  workshop.run("intake/match", {
    sourcePattern: patterns.source,
    gamePattern: patterns.game,
  });
const join = (game: string) =>
  workshop.run("intake/join-pair", { source: partnerOf(game), game });
</script>

<template>
  <section v-if="games.length">
    <h2>Source and game meshes</h2>
    <div class="patterns">
      <label
        >Source names <InputText v-model="patterns.source" class="mono"
      /></label>
      <label
        >Game names <InputText v-model="patterns.game" class="mono"
      /></label>
    </div>
    <p class="muted">
      <b class="mono">{{ tried.pairs.length }}</b> pairs,
      <b class="mono">{{ tried.sources.length }}</b> sources and
      <b class="mono">{{ tried.games.length }}</b> game meshes left
    </p>
    <ul v-if="tried.pairs.length">
      <li v-for="pair in tried.pairs" :key="pair.game" class="pair">
        <span>{{ pair.source }}</span>
        <i class="pi pi-link" />
        <span>{{ pair.game }}</span>
      </li>
    </ul>
    <Button
      label="Match by name"
      severity="secondary"
      outlined
      :disabled="workshop.locked || !tried.pairs.length"
      @click="match"
    />
    <ul v-if="tried.games.length">
      <li v-for="game in tried.games" :key="game" class="lonely">
        <span class="name">{{ game }}</span>
        <Select
          :model-value="partnerOf(game)"
          :options="optionsFor(game)"
          option-label="label"
          option-value="name"
          placeholder="its source"
          :aria-label="`source of ${game}`"
          @update:model-value="partner[game] = $event"
        />
        <button
          class="link-action"
          :disabled="workshop.locked || !partnerOf(game)"
          @click="join(game)"
        >
          Join
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
}
.patterns {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.patterns label {
  display: grid;
  gap: 2px;
  font-size: 12px;
  color: var(--ink-2);
}
.patterns :deep(input) {
  width: 100%;
}
p {
  margin: 0;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 3px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr auto 1fr;
  gap: 6px;
  align-items: center;
}
.pair span:last-child {
  text-align: right;
}
.pair span,
.name {
  overflow-wrap: anywhere;
}
.pair .pi {
  color: var(--kelp);
  font-size: 12px;
}
.lonely {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 6px;
  align-items: center;
  border-left: 4px solid var(--brass);
  padding-left: 8px;
}
.lonely .name {
  grid-column: 1 / -1;
}
.lonely :deep(.p-select) {
  min-width: 0;
}
</style>
