<script setup lang="ts">
import { useWorkshop } from "../../stores/workshop";

/** The newest archive, project and turntable, to be saved. */
const workshop = useWorkshop();
const job = computed(() => workshop.shipped);
const stale = computed(
  () =>
    workshop.asset!.standing.find((each) => each.stage === "ship")?.state ===
    "stale",
);
const others = computed(() => {
  const { packed, turned } = workshop;
  return [
    {
      made: packed,
      save: "Save the project",
      old: "packed before the last change",
    },
    {
      made: turned,
      save: "Save the turntable",
      old: "drawn before the last change",
    },
  ].flatMap(({ made, ...words }) => (made ? [{ made, ...words }] : []));
});
</script>

<template>
  <p v-if="job" class="file">
    <a :href="`/api/jobs/${job.id}/file`" download>Save the archive</a>
    <span v-if="stale" class="muted"> made before the last change</span>
    <NuxtLink :to="`/yard?job=${job.id}`" target="_blank"
      >Look at it in the yard</NuxtLink
    >
  </p>
  <p v-for="{ made, save, old } in others" :key="save" class="file">
    <a :href="`/api/jobs/${made.id}/file`" download>{{ save }}</a>
    <span v-if="made.revision !== workshop.asset!.revision" class="muted">
      {{ old }}</span
    >
  </p>
</template>

<style scoped>
.file {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  margin: 0;
}
.file a {
  font-weight: 600;
}
</style>
