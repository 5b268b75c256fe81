<script setup lang="ts">
import type { StageResult } from "../../core/asset/asset";
import type { BenchPlace } from "../shared/bench";
import { useView } from "../stores/view";

/** The components of a stage's own that stand at one place of its bench. */
const props = defineProps<{
  places: readonly BenchPlace[];
  at: BenchPlace["at"];
  result?: StageResult;
}>();
const emit = defineEmits<{
  look: [at: [number, number, number], radius: number];
  outlines: [towards: number[][]];
  trace: [what: "back" | "clear"];
}>();
const view = useView();
const here = computed(() =>
  props.places.filter(
    ({ at, ofResult, unfolded }) =>
      JSON.stringify(at) === JSON.stringify(props.at) &&
      (!ofResult || props.result) &&
      (!unfolded ||
        (typeof at === "object" &&
          "behind" in at &&
          view.opened.includes(at.behind))),
  ),
);
</script>

<template>
  <component
    :is="place.component"
    v-for="(place, i) in here"
    :key="i"
    :data-operation="place.operation"
    v-bind="place.ofResult ? { result } : {}"
    @look="
      (at: [number, number, number], radius: number) => emit('look', at, radius)
    "
    @outlines="(towards: number[][]) => emit('outlines', towards)"
    @trace="(what: 'back' | 'clear') => emit('trace', what)"
  />
</template>
