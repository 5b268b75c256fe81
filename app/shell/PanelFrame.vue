<script setup lang="ts">
import { useView } from "../stores/view";

/** What lies over the bench, never over the table, with a title and a way out. */
defineProps<{ title: string }>();
const view = useView();
</script>

<template>
  <section class="panel" :aria-label="title">
    <div class="head">
      <h2>{{ title }}</h2>
      <button class="link-action" @click="view.panel = ''">Close</button>
    </div>
    <slot />
  </section>
</template>

<style scoped>
.panel {
  display: flex;
  flex-direction: column;
  gap: 8px;
  height: 100%;
  padding: 14px;
  overflow: auto;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
</style>
