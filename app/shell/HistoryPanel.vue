<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import PanelFrame from "./PanelFrame.vue";
import { call } from "../stores/api";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

/** Snapshots with their pictures, and every revision; any can be laid beside the present one, and restored. */
const props = defineProps<{
  picture(): Promise<ArrayBuffer>;
}>();
interface Row {
  id: number;
  title: string;
  made: string;
}
interface Snapshot {
  id: number;
  revision: number;
  name: string;
  made: string;
}
const view = useView();
const workshop = useWorkshop();
const name = ref("");
const snapshots = ref<Snapshot[]>([]);
const revisions = ref<Row[]>([]);
const id = computed(() => workshop.asset!.id);

async function load() {
  try {
    const found = await call<{ snapshots: Snapshot[]; revisions: Row[] }>(
      "GET",
      `assets/${id.value}/history`,
    );
    snapshots.value = found.snapshots;
    revisions.value = found.revisions;
  } catch (error) {
    workshop.fail(error);
  }
}
watch(() => workshop.asset?.revision, load, { immediate: true });

async function take() {
  const bytes = new Uint8Array(await props.picture());
  let text = "";
  for (const byte of bytes) text += String.fromCharCode(byte);
  try {
    await call("POST", `assets/${id.value}/snapshots`, {
      revision: workshop.asset!.revision,
      name: name.value,
      picture: btoa(text),
    });
    name.value = "";
    await load();
  } catch (error) {
    workshop.fail(error);
  }
}
async function forget(snapshot: number) {
  await call("DELETE", `assets/${id.value}/snapshots/${snapshot}`).catch(
    (error: unknown) => workshop.fail(error),
  );
  await load();
}
/** A revision beside the present one; with another one at the left already, beside that. */
function compare(revision: number, title: string) {
  const picked = { revision, title };
  if (view.other?.revision === revision) stop();
  else if (view.against?.revision === revision) view.compare(view.other!);
  else if (!view.other) view.compare(picked);
  // Older at the left.
  else if (revision < view.other.revision) view.compare(picked, view.other);
  else view.compare(view.other, picked);
}
const stop = () => view.stopComparing();
const compareWord = (revision: number) =>
  view.other?.revision === revision
    ? "Stop"
    : view.against?.revision === revision
      ? "Not this"
      : view.other
        ? "Compare with it"
        : "Compare";
const isCompared = (revision: number) =>
  view.other?.revision === revision || view.against?.revision === revision;
const when = (made: string) =>
  new Date(made).toLocaleString("en-GB", {
    day: "numeric",
    month: "short",
    hour: "2-digit",
    minute: "2-digit",
  });
</script>

<template>
  <PanelFrame title="History">
    <form class="take" @submit.prevent="take">
      <InputText
        v-model="name"
        placeholder="name of this state"
        aria-label="Name of the snapshot"
      />
      <Button type="submit" label="Keep as snapshot" :disabled="!name.trim()" />
    </form>
    <button v-if="view.other" class="link-action" @click="stop">
      Stop comparing “{{ view.other.title }}” with
      {{ view.against ? `“${view.against.title}”` : "now" }}
    </button>
    <ul v-if="snapshots.length" class="snapshots">
      <li
        v-for="each in snapshots"
        :key="each.id"
        :class="{ here: isCompared(each.revision) }"
      >
        <img
          :src="`/api/assets/${id}/snapshots/${each.id}`"
          :alt="`picture of ${each.name}`"
          width="96"
          height="60"
        />
        <div>
          <b>{{ each.name }}</b>
          <span class="muted">{{ when(each.made) }}</span>
          <span class="acts">
            <button
              class="link-action"
              @click="compare(each.revision, each.name)"
            >
              {{ compareWord(each.revision) }}
            </button>
            <button
              class="link-action"
              :disabled="
                workshop.locked || each.revision === workshop.asset!.revision
              "
              @click="workshop.restore(each.revision)"
            >
              Restore
            </button>
            <button class="link-action" @click="forget(each.id)">Forget</button>
          </span>
        </div>
      </li>
    </ul>
    <h2>Revisions</h2>
    <ol class="revisions">
      <li
        v-for="each in revisions"
        :key="each.id"
        :class="{
          now: each.id === workshop.asset!.revision,
          here: isCompared(each.id),
        }"
      >
        <span class="title">{{ each.title }}</span>
        <span v-if="each.id === workshop.asset!.revision" class="muted"
          >now</span
        >
        <span v-else class="acts">
          <button class="link-action" @click="compare(each.id, each.title)">
            {{ compareWord(each.id) }}
          </button>
          <button
            class="link-action"
            :disabled="workshop.locked"
            @click="workshop.restore(each.id)"
          >
            Restore
          </button>
        </span>
      </li>
    </ol>
  </PanelFrame>
</template>

<style scoped>
.take {
  display: grid;
  gap: 8px;
}
ul,
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
}
.snapshots li {
  display: flex;
  gap: 10px;
  align-items: center;
}
.snapshots div {
  display: grid;
  min-width: 0;
}
.snapshots b {
  overflow-wrap: anywhere;
  font-weight: 600;
}
img {
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--ground);
}
.acts {
  display: flex;
  gap: 10px;
  white-space: nowrap;
}
.revisions {
  gap: 3px;
}
.revisions li {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 2px 0 2px 8px;
  border-left: 3px solid var(--line);
}
.revisions .now {
  border-color: var(--tide);
}
li.here {
  background: var(--tide-wash);
}
.title {
  overflow-wrap: anywhere;
}
.muted {
  font-size: 12px;
}
</style>
