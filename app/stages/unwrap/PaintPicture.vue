<script setup lang="ts">
import FileButton from "../../components/FileButton.vue";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** The template to be saved, and the picture painted after it. */
const view = useView();
const workshop = useWorkshop();
const job = computed(() =>
  workshop.asset!.jobs.find(
    (each) => each.operation === "unwrap/template" && each.state === "done",
  ),
);
const painted = computed(() => workshop.asset!.document.painted);
async function bring(files: File[]) {
  await workshop.send("unwrap/paint-in", files, {});
  view.sheetShows = "painted";
  view.sheet = true;
  view.show = "game";
}
</script>

<template>
  <div class="paint">
    <p v-if="job">
      <a :href="`/api/jobs/${job.id}/file`" download>Save the template</a>
    </p>
    <p v-if="painted" class="muted">
      {{ painted.name }} · {{ painted.width }} × {{ painted.height }} px
      <button
        class="link-action"
        :disabled="workshop.locked"
        @click="workshop.run('unwrap/paint-out', {})"
      >
        Take out
      </button>
    </p>
    <FileButton
      :label="
        painted ? 'Exchange the painted picture' : 'Bring a painted picture in'
      "
      field="Painted picture"
      accept=".png,.jpg,.jpeg"
      :disabled="workshop.locked"
      @files="bring"
    />
  </div>
</template>

<style scoped>
.paint {
  display: grid;
  gap: 6px;
}
p {
  margin: 0;
}
a {
  font-weight: 600;
}
</style>
