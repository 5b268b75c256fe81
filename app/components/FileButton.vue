<script setup lang="ts">
import Button from "primevue/button";

/** A button that opens files from disk, and tells which were chosen. */
defineProps<{
  label: string;
  /** What the field for the files is called where it is read aloud. */
  field: string;
  /** Endings, parted by commas. */
  accept: string;
  multiple?: boolean;
  disabled?: boolean;
  small?: boolean;
}>();
const emit = defineEmits<{ files: [File[]] }>();
const input = ref<HTMLInputElement | null>(null);
function chosen() {
  const files = [...(input.value?.files ?? [])];
  if (files.length) emit("files", files);
  // The same file may be chosen again.
  input.value!.value = "";
}
</script>

<template>
  <input
    ref="input"
    type="file"
    hidden
    :accept="accept"
    :multiple="multiple"
    :aria-label="field"
    @change="chosen"
  />
  <Button
    severity="secondary"
    outlined
    :size="small ? 'small' : undefined"
    :label="label"
    :disabled="disabled"
    @click="input?.click()"
  />
</template>
