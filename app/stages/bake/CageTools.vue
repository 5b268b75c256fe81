<script setup lang="ts">
import FileButton from "../../components/FileButton.vue";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** The cage in and out as a mesh; what is shaped of it is shown. */
const view = useView();
const workshop = useWorkshop();
const job = computed(() =>
  workshop.asset!.jobs.find(
    (each) => each.operation === "bake/cage-file" && each.state === "done",
  ),
);
const caged = computed(() =>
  workshop
    .asset!.document.parts.filter((part) => part.game?.streams.cage)
    .map(({ name }) => name),
);
// What was just shaped or brought in is looked at.
watch(
  () => caged.value.join("\n"),
  (now) => {
    if (now) view.cage = true;
  },
);
const bring = (files: File[]) => workshop.send("bake/bring-cage", files, {});
</script>

<template>
  <div class="cage">
    <p v-if="caged.length" class="muted">
      Shaped by hand: {{ caged.join(", ") }}
    </p>
    <p v-if="job">
      <a :href="`/api/jobs/${job.id}/file`" download>Save the cage</a>
    </p>
    <FileButton
      label="Bring a cage in"
      field="Cage file"
      accept=".obj,.ply,.stl,.glb,.gltf"
      :disabled="workshop.locked"
      @files="bring"
    />
  </div>
</template>

<style scoped>
.cage {
  display: grid;
  gap: 6px;
  justify-items: start;
  padding: 4px 0 6px 4px;
}
.cage p {
  margin: 0;
}
</style>
