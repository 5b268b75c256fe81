<script setup lang="ts">
import InputText from "primevue/inputtext";
import type { Command } from "./commands";
import { useView } from "../stores/view";

/** Keys and the command search; lies over the bench, never over the table. */
const props = defineProps<{ commands: Command[] }>();
const view = useView();
const text = ref("");
const at = ref(0);
const field = ref<{ $el: HTMLInputElement } | null>(null);
const found = computed(() => {
  const words = text.value.toLowerCase().split(/\s+/).filter(Boolean);
  const hits = props.commands.filter((command) =>
    words.every((word) =>
      `${command.name} ${command.words ?? ""}`.toLowerCase().includes(word),
    ),
  );
  // By their own name first, then those that the word says most of.
  const rank = ({ name, words: other = "" }: Command) =>
    words.every((word) => name.toLowerCase().includes(word))
      ? 0
      : 1 + Math.max(...words.map((word) => other.indexOf(word)));
  return hits.toSorted((a, b) => rank(a) - rank(b));
});
watch(text, () => (at.value = 0));
watch(
  () => view.panel,
  async (panel) => {
    text.value = "";
    if (panel !== "find") return;
    await nextTick();
    field.value?.$el.focus();
  },
  { immediate: true },
);
function press(event: KeyboardEvent) {
  if (event.key === "ArrowDown")
    at.value = Math.min(found.value.length - 1, at.value + 1);
  else if (event.key === "ArrowUp") at.value = Math.max(0, at.value - 1);
  else if (event.key === "Enter") choose(found.value[at.value]);
  else return;
  event.preventDefault();
}
const shownKey = ({ key, shown, shift }: Command) =>
  shown ?? (shift ? "Shift " : "") + key!.toUpperCase();
function choose(command: Command | undefined) {
  if (!command) return;
  view.panel = "";
  command.act();
}
</script>

<template>
  <section
    class="panel"
    :aria-label="view.panel === 'find' ? 'Find a command' : 'Keys'"
  >
    <div class="head">
      <h2>{{ view.panel === "find" ? "Find a command" : "Keys" }}</h2>
      <button class="link-action" @click="view.panel = ''">Close</button>
    </div>
    <InputText
      v-if="view.panel === 'find'"
      ref="field"
      v-model="text"
      placeholder="what to do"
      aria-label="What to do"
      @keydown="press"
    />
    <ul role="listbox">
      <li
        v-for="(command, i) in view.panel === 'find'
          ? found
          : commands.filter((each) => each.key)"
        :key="command.name"
        role="option"
        :aria-selected="view.panel === 'find' && i === at"
      >
        <button
          :class="{ here: view.panel === 'find' && i === at }"
          tabindex="-1"
          @click="choose(command)"
        >
          <span>{{ command.name }}</span>
          <kbd v-if="command.key">{{ shownKey(command) }}</kbd>
          <small v-else-if="command.does" class="muted">{{
            command.does
          }}</small>
        </button>
      </li>
      <li v-if="view.panel === 'find' && !found.length" class="muted">
        nothing is called that
      </li>
    </ul>
    <p v-if="view.panel === 'keys'" class="muted">
      On the table: drag turns, Shift-drag or the right button moves, the wheel
      goes nearer to what is under the pointer, a double click turns about it.
      Arrow keys turn, + and − go nearer and away. F6 goes to the next area of
      the page, Shift F6 back; Ctrl Enter runs the main action.
    </p>
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
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li button {
  display: flex;
  justify-content: space-between;
  align-items: center;
  width: 100%;
  padding: 3px 6px;
  border: 0;
  border-radius: 3px;
  background: none;
  color: var(--ink);
  font: 13px var(--sans);
  text-align: left;
  cursor: pointer;
}
li button:hover,
li button.here {
  background: var(--tide-wash);
}
kbd {
  font: 11px var(--mono);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 1px 5px;
  background: var(--ground);
}
p {
  margin: 0;
  font-size: 12.5px;
}
</style>
