<script setup lang="ts">
import InputText from "primevue/inputtext";
import type { Command } from "./commands";
import { foundBy, shownKey } from "./commands";
import PanelFrame from "./PanelFrame.vue";
import { useView } from "../stores/view";

/** Finds a command by its words; the field keeps the focus, arrow keys go through what is found. */
const props = defineProps<{ commands: Command[] }>();
const view = useView();
const text = ref("");
const at = ref(0);
const field = ref<{ $el: HTMLInputElement } | null>(null);
const list = ref<HTMLUListElement | null>(null);
const found = computed(() => foundBy(props.commands, text.value));
watch(text, () => (at.value = 0));
watch(
  at,
  (i) => list.value?.children[i]?.scrollIntoView({ block: "nearest" }),
  { flush: "post" },
);
onMounted(() => field.value?.$el.focus());
function press(event: KeyboardEvent) {
  if (event.key === "ArrowDown")
    at.value = Math.min(found.value.length - 1, at.value + 1);
  else if (event.key === "ArrowUp") at.value = Math.max(0, at.value - 1);
  else if (event.key === "Enter") choose(found.value[at.value]);
  else return;
  event.preventDefault();
}
function choose(command: Command | undefined) {
  if (!command) return;
  view.panel = "";
  command.act();
}
</script>

<template>
  <PanelFrame title="Find a command">
    <InputText
      ref="field"
      v-model="text"
      placeholder="what to do"
      aria-label="What to do"
      role="combobox"
      aria-autocomplete="list"
      aria-expanded="true"
      aria-controls="commands-found"
      :aria-activedescendant="found.length ? `command-${at}` : undefined"
      @keydown="press"
    />
    <ul
      v-if="found.length"
      id="commands-found"
      ref="list"
      role="listbox"
      aria-label="Commands found"
    >
      <li
        v-for="(command, i) in found"
        :id="`command-${i}`"
        :key="command.name"
        role="option"
        :aria-selected="i === at"
        :class="{ here: i === at }"
        @click="choose(command)"
      >
        <span>{{ command.name }}</span>
        <kbd v-if="command.key">{{ shownKey(command) }}</kbd>
        <small v-else-if="command.does" class="muted">{{ command.does }}</small>
      </li>
    </ul>
    <p v-else id="commands-found" class="muted">nothing is called that</p>
  </PanelFrame>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 3px 6px;
  border-radius: 3px;
  cursor: pointer;
}
li:hover,
li.here {
  background: var(--tide-wash);
}
.here small {
  color: var(--ink-2);
}
p {
  margin: 0;
}
</style>
