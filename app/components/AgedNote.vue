<script setup lang="ts">
import { agedBy } from "../../core/asset/stale";
import { useWorkshop } from "../stores/workshop";

/** Says of a report that is older than what it is of that it is, and what changed; what it found stands in the slot. */
const props = defineProps<{ report: string }>();
const workshop = useWorkshop();
const aged = computed(() => agedBy(workshop.asset!.document, props.report));
</script>

<template>
  <div>
    <p v-if="aged" class="muted" role="note">
      Found before, and out of date: {{ aged }}.
    </p>
    <slot v-else />
  </div>
</template>

<style scoped>
p {
  margin: 0;
}
</style>
