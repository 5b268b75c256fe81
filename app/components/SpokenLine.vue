<script setup lang="ts">
import { useSpeech } from "../stores/speech";

/** A line whose words change by themselves: they are said to screen readers too, once a second at most. */
const speech = useSpeech();
const line = ref<HTMLElement | null>(null);
const say = () => speech.say(line.value?.textContent ?? "");
onMounted(say);
onUpdated(say);
</script>

<template>
  <p ref="line"><slot /></p>
</template>
