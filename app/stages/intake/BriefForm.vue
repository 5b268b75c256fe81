<script setup lang="ts">
import OperationForm from "../../components/OperationForm.vue";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";
import { briefOptions } from "./brief-options";

const view = useView();
const workshop = useWorkshop();
const operation = computed(() =>
  workshop.operations.find((each) => each.id === "intake/brief"),
);
const values = computed(() => briefOptions(workshop.asset!.document));
const by = computed(
  () =>
    (view.typed["intake/brief"]?.by?.value as string | undefined) ??
    values.value.by,
);
/** Of sheet, density and view only what is given is asked for. */
const hidden = computed(
  () =>
    ({
      sheet: ["density", "seenFrom", "screen", "view"],
      density: ["sheet", "seenFrom", "screen", "view"],
      seen: ["sheet", "density"],
    })[by.value] ?? [],
);
</script>

<template>
  <section v-if="operation">
    <h2>Brief</h2>
    <OperationForm
      :operation="operation"
      :values="values"
      :hide="hidden"
      label="Keep this brief"
      @run="workshop.run('intake/brief', $event)"
    />
  </section>
</template>

<style scoped>
h2 {
  margin-bottom: 8px;
}
section :deep(form) {
  display: flex;
  flex-direction: column;
  align-items: stretch;
}
section :deep(.go) {
  order: 9;
}
</style>
