<script setup lang="ts">
import type { OperationInfo } from "../shared/types";
import OperationForm from "../components/OperationForm.vue";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

/** One operation folded to its title; unfolded it shows what it does and its form. */
const props = defineProps<{
  operation: OperationInfo;
  values?: Record<string, unknown>;
}>();
const view = useView();
const workshop = useWorkshop();
function run(options: Record<string, unknown>) {
  if (props.operation.makesResult) view.showResult();
  void workshop.run(props.operation.id, options);
}
const open = computed(() => view.opened.includes(props.operation.id));
</script>

<template>
  <div class="fold" :data-operation="operation.id">
    <button
      class="link-action"
      :aria-expanded="open"
      @click="view.toggleOpened(operation.id)"
    >
      <i class="pi" :class="open ? 'pi-angle-down' : 'pi-angle-right'" />
      {{ operation.title }}
    </button>
    <template v-if="open">
      <p class="muted">{{ operation.about }}</p>
      <OperationForm :operation="operation" :values="values" @run="run" />
    </template>
  </div>
</template>

<style scoped>
p {
  margin: 2px 0 8px 4px;
  font-size: 12.5px;
}
.pi {
  font-size: 11px;
}
</style>
