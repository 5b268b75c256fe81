<script setup lang="ts">
/** A name shortened in its middle where there is no room: how it begins and how it ends both tell it from others. */
const props = defineProps<{ name: string }>();
const END = 7;
const at = computed(() =>
  props.name.length > END + 2 ? props.name.length - END : props.name.length,
);
</script>

<template>
  <span class="name" :title="name"
    ><span class="begin">{{ name.slice(0, at) }}</span
    ><span v-if="at < name.length" class="end">{{ name.slice(at) }}</span></span
  >
</template>

<style scoped>
.name {
  display: inline-flex;
  min-width: 0;
  max-width: 100%;
  white-space: pre;
}
.begin {
  overflow: hidden;
  text-overflow: ellipsis;
}
.end {
  flex: none;
}
</style>
