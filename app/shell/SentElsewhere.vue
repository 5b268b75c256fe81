<script setup lang="ts">
import { useWorkshop } from "../stores/workshop";

/** Files that are on their way to an asset other than the one that is shown. */
const workshop = useWorkshop();
const sending = computed(() => workshop.sendingElsewhere);
</script>

<template>
  <span v-if="sending" class="elsewhere muted" role="status">
    <span class="mono">{{ Math.round(100 * sending.share) }}&#8201;%</span>
    of {{ sending.name }} sent to
    <NuxtLink :to="`/asset/${sending.asset}`">{{ sending.to }}</NuxtLink>
    <button class="link-action" @click="sending.stop()">Cancel</button>
  </span>
</template>

<style scoped>
.elsewhere {
  display: flex;
  gap: 6px;
  align-items: baseline;
  white-space: nowrap;
}
</style>
