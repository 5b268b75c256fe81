<script setup lang="ts">
import ToggleSwitch from "primevue/toggleswitch";
import type { Command } from "./commands";
import { shownKey } from "./commands";
import PanelFrame from "./PanelFrame.vue";
import { useView } from "../stores/view";

/** Which keys do what, and whether single ones do anything. */
defineProps<{ commands: Command[] }>();
const view = useView();
</script>

<template>
  <PanelFrame title="Keys">
    <label class="row" for="single-keys"
      >Single keys act
      <ToggleSwitch v-model="view.singleKeys" input-id="single-keys" />
    </label>
    <p v-if="!view.singleKeys" class="muted">
      Letters, digits and signs do nothing by themselves now. Ctrl K finds
      everything by name.
    </p>
    <ul :class="{ off: !view.singleKeys }">
      <li
        v-for="command in commands.filter((each) => each.key)"
        :key="command.name"
      >
        <button class="command" @click="command.act()">
          <span>{{ command.name }}</span>
          <kbd>{{ shownKey(command) }}</kbd>
        </button>
      </li>
    </ul>
    <p class="muted">
      On the table: drag turns, Shift-drag or the right button moves, the wheel
      goes nearer to what is under the pointer, a double click turns about it.
      Arrow keys turn, + and − go nearer and away. F6 goes to the next area of
      the page, Shift F6 back; Ctrl Enter runs the main action.
    </p>
    <p class="muted">
      Without a mouse: Enter on the table takes aim. Arrow keys move the aim,
      with Alt by single pixels; Space clicks there, with Shift it adds, with
      Ctrl it takes away; with the brush, a box or a stroke Space begins and
      ends. Esc puts the aim down.
    </p>
  </PanelFrame>
</template>

<style scoped>
.row {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.command {
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
.command:hover {
  background: var(--tide-wash);
}
.off kbd {
  text-decoration: line-through;
}
p {
  margin: 0;
  font-size: 12.5px;
}
</style>
