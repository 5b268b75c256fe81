<script setup lang="ts">
import Select from "primevue/select";
import { CONTACT_NAMES, isContact } from "../../../core/mesh/contacts";
import ChoiceRow from "../../components/ChoiceRow.vue";
import NumberField from "../../components/NumberField.vue";
import SpokenLine from "../../components/SpokenLine.vue";
import { counted } from "../../shared/figures";
import type { Armed } from "../../shared/view-types";
import { HULL_HANDLES } from "../../shared/view-types";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";
import { hullColour } from "../../view/hull-colours";
import { useHullHand } from "./hull-hand";

/** Hulls by hand: placed, chosen, moved by handles, cut, mirrored, merged, and what they feel like. */
const view = useView();
const workshop = useWorkshop();
const hand = useHullHand();
const SHAPES = ["box", "sphere", "capsule", "prism"] as const;
const HANDLES = HULL_HANDLES.map((value) => ({
  value,
  label: value,
  title: {
    move: "Arms move along an axis, the middle across the view",
    turn: "Rings turn about an axis",
    size: "Knobs move a side",
  }[value],
}));
const CONTACTS = [
  { value: "none", label: "nothing said" },
  ...CONTACT_NAMES.map((value) => ({ value: value as string, label: value })),
];
const rows = computed(() => {
  let number = 0;
  return workshop.asset!.document.parts.flatMap((part) =>
    part.hulls.map((hull) => ({
      hull,
      repeat: part.repeat !== null,
      colour: hullColour(number++),
    })),
  );
});
const own = computed(() => rows.value.filter(({ repeat }) => !repeat));
const chosen = computed(() =>
  own.value.filter(({ hull }) => view.chosenHulls.includes(hull.name)),
);
const contact = computed(() => {
  const found = new Set(chosen.value.map(({ hull }) => hull.contact ?? "none"));
  return found.size === 1 ? [...found][0] : null;
});
const arm = (what: Armed) => {
  view.armed = view.armed === what ? "" : what;
  view.hulls = true;
};
const busy = computed(() => workshop.locked);
const none = computed(() => busy.value || !chosen.value.length);
const hint = computed(() => {
  if (view.armed === "cut")
    return "Draw a line over the chosen hulls; with Ctrl it keeps its slant.";
  if (view.armed) return `Click where the ${view.armed} goes.`;
  if (chosen.value.length) return "";
  return "Click a hull on the table, or below. Alt-click chooses parts.";
});
// A hull that is gone is chosen no longer.
watch(own, (now) => {
  const names = now.map(({ hull }) => hull.name);
  if (view.chosenHulls.some((name) => !names.includes(name)))
    view.chosenHulls = view.chosenHulls.filter((name) => names.includes(name));
});
</script>

<template>
  <section class="hand">
    <h2>By hand</h2>
    <div class="line">
      <ChoiceRow
        class="switch-group"
        label="What the handles do"
        :options="HANDLES"
        :value="view.armed ? null : view.hullTool"
        @choose="
          (value) => {
            view.armed = '';
            if (value) view.hullTool = value;
          }
        "
      />
      <button
        class="link-action"
        :aria-pressed="view.armed === 'cut'"
        :disabled="none"
        @click="arm('cut')"
      >
        Cut
      </button>
    </div>
    <div class="line snap">
      <label>
        <input v-model="view.snapping" type="checkbox" />
        In steps of
      </label>
      <NumberField
        id="snap-length"
        label="Steps of length"
        unit="mm"
        :value="view.snapLength"
        :min="0.001"
        :max="100000"
        @take="view.snapLength = $event ?? 5"
      />
      <NumberField
        id="snap-angle"
        label="Steps of turning"
        unit="°"
        :value="view.snapAngle"
        :min="0.1"
        :max="180"
        @take="view.snapAngle = $event ?? 15"
      />
    </div>
    <SpokenLine v-if="hint" class="muted">{{ hint }}</SpokenLine>
    <template v-else>
      <SpokenLine class="muted">
        {{ counted(chosen.length, "hull") }} chosen
      </SpokenLine>
      <div class="line">
        <button
          class="link-action"
          :disabled="none"
          @click="hand.run('collide/move', { copy: true })"
        >
          Duplicate
        </button>
        <button
          class="link-action"
          :disabled="none"
          @click="hand.run('collide/mirror')"
        >
          Mirror
        </button>
        <button
          class="link-action"
          :disabled="none"
          @click="hand.run('collide/split')"
        >
          Halve
        </button>
        <button
          class="link-action"
          :disabled="busy || chosen.length < 2"
          @click="hand.run('collide/merge')"
        >
          Merge
        </button>
        <button
          class="link-action"
          :disabled="none"
          @click="hand.run('collide/remove')"
        >
          Remove
        </button>
      </div>
      <label class="contact">
        Contact
        <Select
          label-id="contact"
          aria-label="Contact material of the chosen hulls"
          :model-value="contact"
          :options="CONTACTS"
          option-label="label"
          option-value="value"
          placeholder="several"
          :disabled="busy"
          @update:model-value="hand.run('collide/contact', { contact: $event })"
        />
      </label>
    </template>
    <div class="line">
      Add
      <button
        v-for="shape in SHAPES"
        :key="shape"
        class="link-action"
        :aria-pressed="view.armed === shape"
        :disabled="busy"
        @click="arm(shape)"
      >
        {{ shape }}
      </button>
      <button
        v-if="view.selected.length"
        class="link-action"
        :disabled="busy"
        @click="hand.boxRound(view.selected)"
      >
        box round {{ counted(view.selected.length, "part") }}
      </button>
    </div>
    <ul v-if="own.length" aria-label="Hulls">
      <li v-for="{ hull, colour } in own" :key="hull.name">
        <button
          :aria-pressed="view.chosenHulls.includes(hull.name)"
          @click="view.chooseHull(hull.name, $event.shiftKey || $event.ctrlKey)"
        >
          <i :style="{ background: colour }" />
          <span class="name">{{ hull.name }}</span>
          <span class="muted"
            >{{ hull.kind
            }}<template v-if="isContact(hull.contact)">
              · {{ hull.contact }}</template
            ><template v-if="hull.level"> · level {{ hull.level }}</template
            ><template v-if="hull.byHand"> · by hand</template></span
          >
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.hand {
  display: grid;
  gap: 8px;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
}
.snap :deep(.number) {
  width: 86px;
}
.snap label,
.contact {
  display: flex;
  gap: 6px;
  align-items: center;
}
.contact {
  justify-content: space-between;
}
input {
  accent-color: var(--tide);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li button {
  display: grid;
  grid-template-columns: 12px minmax(0, 1fr) auto;
  gap: 8px;
  align-items: center;
  width: 100%;
  padding: 3px 6px;
  border: 0;
  border-radius: 3px;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}
li button:hover {
  background: var(--ground);
}
li button[aria-pressed="true"] {
  background: color-mix(in srgb, var(--raspberry) 14%, transparent);
}
i {
  width: 10px;
  height: 10px;
  border-radius: 2px;
}
.link-action[aria-pressed="true"] {
  color: var(--raspberry);
  font-weight: 600;
}
</style>
