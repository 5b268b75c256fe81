<script setup lang="ts">
import Button from "primevue/button";
import Select from "primevue/select";
import SelectButton from "primevue/selectbutton";
import ToggleSwitch from "primevue/toggleswitch";
import { TRIALS } from "../../core/collide/methods/trials";
import type { TrialName } from "../../core/collide/methods/trials";
import FigureList from "../components/FigureList.vue";
import { TRIAL_WORDS } from "../stages/collide/drop-figures";
import { trialRows } from "../shared/trial-rows";
import { drawnRows, factRows, textureRows } from "../yard/rows";
import { COPIES, LIGHTS, useYard } from "../yard/use-yard";

/** A stand-in for an engine: opens what was shipped, and nothing else, and shows what an engine would make of it. */
useHead({ title: "Yard · Arnik" });
const route = useRoute();
const canvas = ref<HTMLCanvasElement | null>(null);
const picker = ref<HTMLInputElement | null>(null);
const over = ref(false);
const trial = ref<TrialName>("dropped");
const yard = useYard(canvas);
const { state, opened, drawn, played, trouble, busy } = yard;

const copies = COPIES.map((value) => ({
  value,
  label: value === 1 ? "one" : `${value} in rows`,
}));
const lights = LIGHTS.map((value) => ({
  value,
  label: value === "lamps" ? "three lamps" : value,
}));
const WAYS = [
  { value: false, label: "turn about it" },
  { value: true, label: "walk" },
];
const levels = computed(() => [
  { value: -1, label: "by its share of the screen" },
  ...(opened.value?.facts.levels ?? []).map((_, l) => ({
    value: l,
    label: l ? `level ${l}` : "full detail",
  })),
]);
/** What is picked from a list, each by its name in the state. */
const picks = computed(
  () =>
    [
      { key: "light", label: "Light", options: lights },
      { key: "copies", label: "Copies", options: copies },
      { key: "level", label: "Level", options: levels.value },
    ] as const,
);
const trials = TRIALS.map((value) => ({ value, label: TRIAL_WORDS[value] }));

/** Brings what was told of a trial into sight. */
const shown = (list: unknown) =>
  (list as { $el?: HTMLElement } | null)?.$el?.scrollIntoView({
    block: "nearest",
  });
onMounted(() => {
  const job = Number(route.query.job);
  if (Number.isInteger(job) && job > 0) void yard.fetchJob(job);
});
function chosen() {
  void yard.open([...(picker.value?.files ?? [])]);
  picker.value!.value = "";
}
function drop(event: DragEvent) {
  over.value = false;
  void yard.open([...(event.dataTransfer?.files ?? [])]);
}
</script>

<template>
  <main
    class="yard"
    :class="{ over }"
    @dragover.prevent="over = true"
    @dragleave.self="over = false"
    @drop.prevent="drop"
  >
    <header>
      <NuxtLink to="/" class="home" aria-label="All assets"
        >Arn<span>i</span>k</NuxtLink
      >
      <h1>Yard</h1>
      <Select
        v-if="opened && opened.names.length > 1"
        class="file mono"
        :model-value="opened.name"
        :options="opened.names"
        aria-label="File of the delivery"
        @update:model-value="yard.choose"
      />
      <span v-else class="file mono">{{
        opened?.name ?? "nothing opened yet"
      }}</span>
      <input
        ref="picker"
        class="hidden-label"
        type="file"
        accept=".glb,.zip"
        aria-label="Delivery"
        @change="chosen"
      />
      <Button
        :label="opened ? 'Open another…' : 'Open a delivery…'"
        :outlined="Boolean(opened)"
        :severity="opened ? 'secondary' : undefined"
        @click="picker?.click()"
      />
    </header>
    <section class="view" aria-label="Yard">
      <canvas
        ref="canvas"
        tabindex="0"
        aria-label="The delivery in the yard"
        @pointerdown="yard.press"
        @pointermove="yard.move"
        @wheel.prevent="yard.wheel"
        @keydown="yard.key($event, true)"
        @keyup="yard.key($event, false)"
        @blur="yard.stand()"
        @contextmenu.prevent
      />
      <p v-if="busy" class="tag" role="status">{{ busy }}</p>
      <p v-else-if="trouble" class="tag trouble" role="alert">{{ trouble }}</p>
      <p v-else-if="!opened" class="tag">
        Drop a GLB or a shipped archive here. The yard looks at what was
        delivered, not at the asset it came from.
      </p>
      <p class="keys muted">
        {{
          state.walking
            ? "W A S D walk · Shift runs · drag looks round · F stands before it"
            : "drag turns · right drag moves · wheel goes nearer · F frames"
        }}
      </p>
    </section>
    <aside aria-label="What an engine makes of it">
      <section class="controls">
        <SelectButton
          v-model="state.walking"
          :options="WAYS"
          option-label="label"
          option-value="value"
          :allow-empty="false"
          aria-label="How to look"
        />
        <div v-for="{ key, label, options } in picks" :key="key" class="row">
          <span :id="`yard-${key}`">{{ label }}</span>
          <Select
            v-model="state[key]"
            :options="options"
            option-label="label"
            option-value="value"
            :aria-labelledby="`yard-${key}`"
          />
        </div>
        <div
          v-for="[key, label] in [
            ['hulls', 'Hulls'],
            ['wire', 'Wire'],
            ['wrongGreen', 'Green the wrong way'],
          ] as const"
          :key="key"
          class="row"
        >
          <span :id="`yard-${key}`">{{ label }}</span>
          <ToggleSwitch
            v-model="state[key]"
            class="switch"
            :aria-labelledby="`yard-${key}`"
          />
        </div>
        <p v-if="state.wrongGreen" class="note">
          Bumps look like dents: light seems to come from below. So it looks in
          an engine that wants green the other way.
        </p>
      </section>
      <template v-if="opened">
        <section v-if="opened.facts.findings.length" class="findings">
          <h2>What to look at</h2>
          <ul>
            <li
              v-for="{ tone, text } in opened.facts.findings"
              :key="text"
              :class="tone"
            >
              {{ text }}
            </li>
          </ul>
        </section>
        <p v-else class="clean">Nothing is wrong with it.</p>
        <FigureList :rows="factRows(opened.facts)" :stale="false" />
        <section v-if="drawn">
          <h2>Drawn now</h2>
          <FigureList
            class="bare"
            :rows="drawnRows(drawn)"
            :stale="false"
            data-drawn
          />
        </section>
        <section v-if="opened.facts.textures.length">
          <h2>Textures, with mips</h2>
          <FigureList
            class="bare"
            :rows="textureRows(opened.facts)"
            :stale="false"
          />
        </section>
        <section v-if="opened.facts.hulls.count" class="drop">
          <h2>Drop test</h2>
          <div class="row">
            <Select
              v-model="trial"
              :options="trials"
              option-label="label"
              option-value="value"
              aria-label="Trial"
            />
            <Button
              :label="played ? 'Again' : 'Let go'"
              severity="secondary"
              outlined
              @click="yard.play(trial)"
            />
          </div>
          <FigureList
            v-if="played"
            :ref="shown"
            class="bare"
            :rows="trialRows(played)"
            :stale="false"
          />
          <button v-if="played" class="link-action" @click="yard.stop()">
            Put it back
          </button>
        </section>
      </template>
    </aside>
  </main>
</template>

<style scoped>
.yard {
  display: grid;
  grid-template: 48px minmax(0, 1fr) / minmax(0, 1fr) 320px;
  height: 100vh;
  overflow: hidden;
}
.over {
  outline: 3px solid var(--tide);
  outline-offset: -3px;
}
header {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 0 14px;
  background: var(--paper);
  border-bottom: 1px solid var(--line);
}
.home {
  font: 600 24px/1 var(--slab);
  color: var(--ink);
  text-decoration: none;
}
.home span {
  color: var(--brass);
}
h1 {
  font-size: 17px;
}
header > :last-child {
  margin-left: auto;
}
.file {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.view {
  position: relative;
  overflow: hidden;
  background: var(--fog);
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  touch-action: none;
}
.tag {
  position: absolute;
  top: 16px;
  left: 50%;
  transform: translateX(-50%);
  max-width: 80%;
  margin: 0;
  padding: 6px 12px;
  background: var(--paper);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.keys {
  position: absolute;
  left: 12px;
  bottom: 10px;
  margin: 0;
  padding: 2px 8px;
  background: var(--paper);
  border-radius: 3px;
  font-size: 12px;
}
aside {
  overflow: auto;
  background: var(--paper);
  border-left: 1px solid var(--line);
}
aside > * {
  padding: 12px 14px;
}
aside > * + * {
  border-top: 1px solid var(--line);
}
.controls,
.drop {
  display: grid;
  gap: 8px;
}
.row {
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: center;
  gap: 8px;
}
.row > :deep(.p-select) {
  min-width: 168px;
}
.switch {
  justify-self: end;
}
.note {
  margin: 0;
  padding: 6px 8px;
  background: var(--brass-wash);
  font-size: 12px;
}
.clean {
  margin: 0;
  color: var(--kelp-ink);
}
.findings ul {
  margin: 6px 0 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 4px;
}
.findings li {
  padding: 4px 8px;
  border-left: 3px solid var(--brass);
  background: var(--brass-wash);
}
.findings .bad {
  border-color: var(--rust);
  background: var(--rust-wash);
}
.bare :deep(h2) {
  display: none;
}
</style>
