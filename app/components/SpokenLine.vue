<script setup lang="ts">
import { useSpeech } from "../stores/speech";

/** A line whose words change by themselves: they are said to screen readers too, once a second at most. */
const speech = useSpeech();
const name = useId();
const line = ref<HTMLElement | null>(null);
let said = "";
function say() {
  const text = line.value?.textContent ?? "";
  if (text === said) return;
  said = text;
  speech.say(text, name);
}
onMounted(say);
onUpdated(say);
</script>

<template>
  <p ref="line"><slot /></p>
</template>
