<script setup lang="ts">
import type { StageResult } from "../../core/asset/asset";
import type { BenchPlace } from "../shared/bench";
import { useView } from "../stores/view";

/** The components of a stage's own that stand at one place of its bench; what they ask for goes to whoever listens. */
defineOptions({ inheritAttrs: false });
const props = defineProps<{
  places: readonly BenchPlace[];
  at: BenchPlace["at"];
  result?: StageResult;
}>();
const view = useView();
const here = computed(() =>
  props.places.filter(
    ({ at, ofResult, unfolded }) =>
      at === props.at &&
      (!ofResult || props.result) &&
      (!unfolded || view.opened.includes(at)),
  ),
);
</script>

<template>
  <component
    :is="place.component"
    v-for="(place, i) in here"
    :key="i"
    v-bind="{ ...$attrs, ...(place.ofResult && { result }) }"
    :data-operation="place.operation"
  />
</template>
