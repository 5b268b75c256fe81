<script setup lang="ts">
import Button from "primevue/button";
import { UNNAMED } from "../../core/asset/asset";
import SentElsewhere from "../shell/SentElsewhere.vue";
import { spaced } from "../shared/figures";
import { Refusal, call } from "../stores/api";
import type { AssetState, AssetSummary } from "../shared/types";
import { useWorkshop } from "../stores/workshop";

const workshop = useWorkshop();
const over = ref(false);
const assets = ref<AssetSummary[] | null>(null);
const trouble = ref("");
const doomed = ref<number | null>(null);

onMounted(load);
useHead({ title: "Arnik" });

async function load() {
  try {
    assets.value = await call<AssetSummary[]>("GET", "assets");
  } catch (error) {
    trouble.value = (error as Error).message;
  }
}
/** Begins an asset. @param files are brought in as soon as it is open */
async function begin(files: File[] = []) {
  try {
    const made = await call<AssetState>("POST", "assets", {
      name: UNNAMED,
    });
    workshop.dropped = files;
    await navigateTo(`/asset/${made.id}`);
  } catch (error) {
    trouble.value = (error as Error).message;
  }
}
const picker = ref<HTMLInputElement | null>(null);
/** Opens a project as an asset of its own. */
function open() {
  const files = [...(picker.value?.files ?? [])];
  if (files.length) void begin(files);
}
function drop(event: DragEvent) {
  over.value = false;
  const files = [...(event.dataTransfer?.files ?? [])];
  if (files.length) void begin(files);
}
async function remove(asset: AssetSummary) {
  if (doomed.value !== asset.id) {
    doomed.value = asset.id;
    return;
  }
  doomed.value = null;
  try {
    await call("DELETE", `assets/${asset.id}`);
  } catch (error) {
    trouble.value = error instanceof Refusal ? error.message : String(error);
  }
  await load();
}
const done = (asset: AssetSummary) =>
  asset.standing.filter((each) => each.state === "current").length;
const stale = (asset: AssetSummary) =>
  asset.standing.filter((each) => each.state === "stale").length;
</script>

<template>
  <main
    class="home"
    :class="{ over }"
    @dragover.prevent="over = true"
    @dragleave.self="over = false"
    @drop.prevent="drop"
  >
    <header>
      <div>
        <h1>Arn<span>i</span>k</h1>
        <p class="muted">
          High-detail models in, game-ready meshes out, inside the budget.
        </p>
      </div>
      <div class="begin">
        <input
          ref="picker"
          class="hidden-label"
          type="file"
          accept=".zip"
          aria-label="Project"
          @change="open"
        />
        <NuxtLink to="/yard" class="to-yard">Yard</NuxtLink>
        <Button
          label="Open a project…"
          severity="secondary"
          outlined
          @click="picker?.click()"
        />
        <Button label="Begin an asset" @click="begin()" />
      </div>
    </header>
    <SentElsewhere />
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <p v-if="assets && !assets.length" class="muted empty">
      There is no asset yet. Drop OBJ, PLY, STL, GLB or glTF files here, or a
      project; or begin one.
    </p>
    <ul>
      <li v-for="asset in assets ?? []" :key="asset.id">
        <NuxtLink :to="`/asset/${asset.id}`" class="card">
          <img
            v-if="asset.parts"
            :src="`/api/assets/${asset.id}/picture?r=${asset.revision}`"
            alt=""
            width="320"
            height="240"
          />
          <span v-else class="no-picture muted">no mesh yet</span>
          <span class="words">
            <b>{{ asset.name }}</b>
            <span class="mono"
              >{{ spaced(asset.source) }} →
              {{ asset.game ? spaced(asset.game) : "–" }}
              <small>of {{ spaced(asset.budget) }}</small></span
            >
            <span
              class="steps"
              role="img"
              :aria-label="`${done(asset)} of 9 stages current, ${stale(asset)} stale`"
            >
              <i
                v-for="each in asset.standing"
                :key="each.stage"
                :class="each.state"
                :title="`${each.stage}: ${each.state}`"
              />
            </span>
          </span>
        </NuxtLink>
        <button
          class="link-action drop"
          :class="{ sure: doomed === asset.id }"
          @click="remove(asset)"
          @blur="doomed = null"
        >
          {{
            doomed === asset.id
              ? `${asset.busy ? "Cancel its job, delete" : "Delete"} it and all its revisions?`
              : "Delete"
          }}
        </button>
      </li>
    </ul>
  </main>
</template>

<style scoped>
.over {
  outline: 3px solid var(--tide);
  outline-offset: -3px;
}
.home {
  max-width: 1120px;
  min-height: 100vh;
  margin: 0 auto;
  padding: 36px 32px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: end;
  margin-bottom: 24px;
  padding-bottom: 16px;
  border-bottom: 1px solid var(--line);
}
.begin {
  display: flex;
  align-items: center;
  gap: 8px;
}
.to-yard {
  margin-right: 8px;
  font-weight: 600;
}
h1 {
  font-size: 34px;
  line-height: 1;
}
h1 span {
  color: var(--brass);
}
header p {
  margin: 6px 0 0;
  font-size: 14px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(300px, 1fr));
  gap: 20px;
}
li {
  background: var(--paper);
  border: 1px solid var(--line);
  border-radius: 3px;
  overflow: hidden;
}
li:hover {
  border-color: var(--tide);
}
.card {
  display: block;
  color: var(--ink);
  text-decoration: none;
}
.card img,
.no-picture {
  display: block;
  width: 100%;
  height: auto;
  aspect-ratio: 4 / 3;
  background: var(--fog);
  object-fit: cover;
}
.no-picture {
  display: grid;
  place-items: center;
}
.words {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px 8px;
  padding: 10px 12px 4px;
  align-items: baseline;
}
.words b {
  font: 600 16px var(--slab);
}
.words small {
  color: var(--ink-3);
}
.steps {
  grid-column: 1 / -1;
  display: flex;
  gap: 4px;
}
.steps i {
  flex: 1;
  height: 5px;
  background: var(--well);
  border-radius: 1px;
}
.steps .current {
  background: var(--kelp);
}
.steps .stale {
  background: var(--brass);
}
.drop {
  margin: 2px 8px 8px;
  font-weight: 400;
  color: var(--ink-3);
}
.drop.sure {
  color: var(--rust);
  font-weight: 600;
}
.trouble {
  color: var(--rust);
}
.empty {
  font-size: 15px;
}
</style>
