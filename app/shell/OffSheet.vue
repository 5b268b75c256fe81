<script setup lang="ts">
import { percent } from "../shared/figures";
import type { Landing } from "../shared/view-types";
import { useWorkshop } from "../stores/workshop";

/** Islands were let go off the sheet: what that comes to, and what to do. */
const props = defineProps<{ landing: Landing }>();
defineEmits<{ leave: []; put: [] }>();
const workshop = useWorkshop();
const words = computed(() => {
  const { unwrap } = workshop.asset!.document.results;
  const fill = Number(unwrap?.report.fill ?? 0);
  const { tilesBefore, tilesAfter } = props.landing;
  const falls =
    fill && tilesAfter > tilesBefore
      ? `, and fill would fall from ${percent(fill, 0)} to about ${percent((fill * tilesBefore) / tilesAfter, 0)}`
      : "";
  return `That is off the sheet: nothing would be baked there${falls}.`;
});
</script>

<template>
  <div class="off" role="alertdialog">
    <p>{{ words }}</p>
    <button class="link-action" @click="$emit('leave')">
      Leave them where they were
    </button>
    <button class="link-action" @click="$emit('put')">Put them there</button>
  </div>
</template>

<style scoped>
.off {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  padding: 6px 10px;
  background: var(--brass-wash);
  border-left: 3px solid var(--brass);
  border-radius: 3px;
  pointer-events: auto;
}
.off p {
  width: 100%;
  margin: 0;
}
</style>
