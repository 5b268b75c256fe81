<script setup lang="ts">
import Button from "primevue/button";
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
const input = ref<HTMLInputElement | null>(null);
async function bring(event: Event) {
  const files = [...((event.target as HTMLInputElement).files ?? [])];
  if (!files.length) return;
  await workshop.send("bake/bring-cage", files.slice(0, 1), {});
  if (input.value) input.value.value = "";
}
</script>

<template>
  <div class="cage">
    <p v-if="caged.length" class="muted">
      Shaped by hand: {{ caged.join(", ") }}
    </p>
    <p v-if="job">
      <a :href="`/api/jobs/${job.id}/file`" download>Save the cage</a>
    </p>
    <input
      ref="input"
      type="file"
      accept=".obj,.ply,.stl,.glb,.gltf"
      hidden
      aria-label="Cage file"
      @change="bring"
    />
    <Button
      severity="secondary"
      outlined
      label="Bring a cage in"
      :disabled="workshop.locked"
      @click="input?.click()"
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
