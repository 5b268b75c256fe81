<script setup lang="ts">
import { useView } from "../stores/view";

/** A light that goes with the pointer, to show faults of the shading. */
const view = useView();
</script>

<template>
  <label>
    <input v-model="view.pointerLight" type="checkbox" />
    Light follows the pointer
  </label>
</template>

<style scoped>
label {
  display: flex;
  gap: 6px;
  align-items: center;
  margin-top: 8px;
}
input {
  accent-color: var(--tide);
}
</style>
