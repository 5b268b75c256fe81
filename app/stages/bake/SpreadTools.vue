<script setup lang="ts">
import Slider from "primevue/slider";
import type { Catching } from "../../../core/bake/methods/catching";
import {
  catchesText,
  pairsText,
  readCatches,
  readPairs,
} from "../../../core/bake/methods/catching";
import { useTrials } from "../../stores/trials";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** Who shades and catches whom, by chosen parts, as the next bake will have it; and parts drawn apart. */
const view = useView();
const trials = useTrials();
const workshop = useWorkshop();
const OPERATION = "bake/maps";
const used = computed(
  () => workshop.asset!.document.results.bake?.options ?? {},
);
const isPart = (name: string) =>
  workshop.asset!.document.parts.some((part) => part.name === name);
function written(field: "pairs" | "catches"): string {
  const typed = view.typed[OPERATION]?.[field]?.value ?? used.value[field];
  return typeof typed === "string" ? typed : "";
}
function write(field: "pairs" | "catches", text: string) {
  const base = used.value[field] ?? "";
  view.type(OPERATION, field, text === base ? null : { value: text, base });
}
const pairs = computed((): Catching["pairs"] => {
  const read = readPairs(written("pairs"), isPart);
  return typeof read === "string" ? [] : read;
});
const catches = computed((): [string, string[]][] => {
  const read = readCatches(written("catches"), isPart);
  return typeof read === "string" ? [] : [...read];
});
const isSpread = computed(
  () => (view.typed[OPERATION]?.spread?.value ?? used.value.spread) === true,
);
const two = computed(() =>
  view.selected.length === 2 ? (view.selected as [string, string]) : null,
);
const same = (a: readonly string[], b: readonly string[]) =>
  a.every((name) => b.includes(name));
const isPair = computed(
  () =>
    two.value !== null && pairs.value.some((pair) => same(pair, two.value!)),
);
const addPair = () => write("pairs", pairsText([...pairs.value, two.value!]));
const dropPair = (pair: readonly string[]) =>
  write("pairs", pairsText(pairs.value.filter((each) => each !== pair)));
function addCatch() {
  const [part, ...others] = view.selected;
  const all = new Map(catches.value);
  all.set(part, [...new Set([...(all.get(part) ?? []), ...others])]);
  write("catches", catchesText(all));
}
const dropCatch = (part: string) =>
  write(
    "catches",
    catchesText(new Map(catches.value.filter(([name]) => name !== part))),
  );
onBeforeUnmount(() => (trials.apart = 0));
</script>

<template>
  <section v-if="workshop.asset!.document.parts.length > 1" class="spread">
    <h2>Who meets whom</h2>
    <label class="apart">
      <span>Draw parts apart</span>
      <Slider
        v-model="trials.apart"
        aria-label="how far parts are drawn apart"
        :min="0"
        :max="1"
        :step="0.05"
      />
    </label>
    <ul v-if="pairs.length || catches.length">
      <li v-for="pair in pairs" :key="pair.join()">
        <span
          >{{ pair.join(" + ") }}
          <span class="muted">{{
            isSpread ? "shade each other" : "don't shade each other"
          }}</span></span
        >
        <button class="link-action" @click="dropPair(pair)">Drop</button>
      </li>
      <li v-for="[part, names] in catches" :key="part">
        <span
          >{{ part }} <span class="muted">also catches</span>
          {{ names.join(", ") }}</span
        >
        <button class="link-action" @click="dropCatch(part)">Drop</button>
      </li>
    </ul>
    <p v-if="!two" class="muted">
      Choose two parts to say whether they shade or catch each other.
    </p>
    <p v-else class="offers">
      <button class="link-action" :disabled="isPair" @click="addPair">
        {{ two.join(" and ") }}
        {{ isSpread ? "shade each other" : "don't shade each other" }}
      </button>
      <button class="link-action" @click="addCatch">
        {{ two[0] }} also catches {{ two[1] }}
      </button>
    </p>
  </section>
</template>

<style scoped>
.apart {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 14px;
  align-items: center;
  margin: 4px 10px 4px 0;
}
ul {
  list-style: none;
  margin: 6px 0;
  padding: 0;
  display: grid;
  gap: 4px;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}
p {
  margin: 4px 0 0;
  font-size: 12.5px;
}
.offers {
  display: grid;
  justify-items: start;
  gap: 4px;
}
</style>
