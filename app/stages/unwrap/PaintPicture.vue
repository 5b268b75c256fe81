<script setup lang="ts">
import Button from "primevue/button";
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
const input = ref<HTMLInputElement | null>(null);
async function bring(event: Event) {
  const files = [...((event.target as HTMLInputElement).files ?? [])];
  if (!files.length) return;
  await workshop.send("unwrap/paint-in", files.slice(0, 1), {});
  view.sheetShows = "painted";
  view.sheet = true;
  view.show = "game";
  if (input.value) input.value.value = "";
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
    <input
      ref="input"
      type="file"
      accept=".png,.jpg,.jpeg"
      hidden
      aria-label="Painted picture"
      @change="bring"
    />
    <Button
      severity="secondary"
      outlined
      :label="
        painted ? 'Exchange the painted picture' : 'Bring a painted picture in'
      "
      :disabled="workshop.locked"
      @click="input?.click()"
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
