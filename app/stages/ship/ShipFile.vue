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
</script>

<template>
  <p v-if="job" class="file">
    <a :href="`/api/jobs/${job.id}/file`" download>Save the archive</a>
    <span v-if="stale" class="muted"> made before the last change</span>
    <NuxtLink :to="`/yard?job=${job.id}`" target="_blank"
      >Look at it in the yard</NuxtLink
    >
  </p>
  <p v-if="workshop.packed" class="file">
    <a :href="`/api/jobs/${workshop.packed.id}/file`" download
      >Save the project</a
    >
    <span
      v-if="workshop.packed.revision !== workshop.asset!.revision"
      class="muted"
    >
      packed before the last change</span
    >
  </p>
  <p v-if="workshop.turned" class="file">
    <a :href="`/api/jobs/${workshop.turned.id}/file`" download
      >Save the turntable</a
    >
    <span
      v-if="workshop.turned.revision !== workshop.asset!.revision"
      class="muted"
    >
      drawn before the last change</span
    >
  </p>
</template>

<style scoped>
.file {
  margin: 0;
}
.file a {
  font-weight: 600;
}
</style>
