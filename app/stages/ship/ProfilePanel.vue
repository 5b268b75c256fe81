<script setup lang="ts">
import Select from "primevue/select";
import { profileOf, profileText } from "../../../core/asset/profile";
import { examplesOf } from "../../../core/ship/methods/names";
import type { NamePatterns } from "../../../core/ship/methods/names";
import OperationForm from "../../components/OperationForm.vue";
import { useDrafts } from "../../components/drafts";
import { useProfiles } from "../../stores/profiles";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";
import { profileOptions } from "./profile-options";

/** Which delivery profile the asset goes by; changing it, keeping it in the list, and as JSON in and out. */
const SET = "ship/profile";
const workshop = useWorkshop();
const view = useView();
const profiles = useProfiles();
const picker = ref<HTMLInputElement | null>(null);
const operation = computed(() =>
  workshop.operations.find((each) => each.id === SET)!,
);
const brief = computed(() => workshop.asset!.document.brief);
const present = computed(() => profileOf(brief.value).name);
const values = computed(() => profileOptions(brief.value, operation.value));
const listed = computed(() =>
  profiles.list.find(({ name }) => name === present.value),
);
/** Its own one stands in the list too, where it is not kept. */
const names = computed(() => [
  ...profiles.list.map(({ name }) => name),
  ...(listed.value ? [] : [present.value]),
]);
const open = computed(() => view.opened.includes(SET));
const { options } = useDrafts(
  () => operation.value,
  () => values.value,
);
/** What the patterns make of this asset, as they are typed. */
const examples = computed(() => {
  const { document } = workshop.asset!;
  const found = examplesOf(
    document.name,
    document.parts[0]?.name ?? "part",
    options.value as unknown as NamePatterns,
  );
  return found && Object.values(found);
});

onMounted(() => act(() => profiles.load()));

async function act(what: () => Promise<unknown>) {
  try {
    await what();
  } catch (error) {
    workshop.fail(error);
  }
}
function use(name: string) {
  const chosen = profiles.list.find((each) => each.name === name);
  if (chosen && name !== present.value) void workshop.run(SET, chosen.options);
}
/** What the asset goes by, as a file. */
const json = () => profileText(values.value);
const keep = () =>
  act(async () => {
    await profiles.keep(`${present.value}.json`, json());
    workshop.say(`${present.value} is kept in the list`);
  });
const drop = () =>
  act(async () => {
    await profiles.remove(present.value);
    workshop.say(`${present.value} is no longer in the list`);
  });
function save() {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(
    new Blob([json()], { type: "application/json" }),
  );
  link.download = `${present.value}.json`;
  link.click();
  URL.revokeObjectURL(link.href);
}
const bring = () =>
  act(async () => {
    const file = picker.value?.files?.[0];
    if (!file) return;
    const kept = await profiles.keep(file.name, await file.text());
    picker.value!.value = "";
    await workshop.run(SET, kept.options);
  });
</script>

<template>
  <section class="profile" :data-operation="SET">
    <h2 id="profile-title">Delivery profile</h2>
    <Select
      :model-value="present"
      :options="names"
      aria-labelledby="profile-title"
      :disabled="workshop.locked"
      @update:model-value="use"
    />
    <div class="links">
      <button
        class="link-action"
        :aria-expanded="open"
        @click="view.toggleOpened(SET)"
      >
        <i class="pi" :class="open ? 'pi-angle-down' : 'pi-angle-right'" />
        Change it
      </button>
      <button
        v-if="listed?.own"
        class="link-action"
        :disabled="workshop.locked"
        @click="drop"
      >
        Take from the list
      </button>
      <button v-else-if="!listed" class="link-action" @click="keep">
        Keep in the list
      </button>
      <button class="link-action" @click="save">Save as JSON</button>
      <button class="link-action" @click="picker?.click()">
        Bring JSON in…
      </button>
      <input
        ref="picker"
        class="hidden-label"
        type="file"
        accept=".json"
        tabindex="-1"
        aria-label="Profile"
        @change="bring"
      />
    </div>
    <template v-if="open">
      <OperationForm
        :operation="operation"
        :values="values"
        label="Use this profile"
        @run="workshop.run(SET, $event)"
      />
      <div class="examples">
        <span class="muted">So called here:</span>
        <ul v-if="examples" class="mono">
          <li v-for="name in examples" :key="name">{{ name }}</li>
        </ul>
        <p v-else class="trouble">
          A pattern lacks a place, or has one that means nothing.
        </p>
      </div>
    </template>
  </section>
</template>

<style scoped>
.profile {
  display: grid;
  gap: 6px;
}
.links {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
}
.pi {
  font-size: 11px;
}
.examples {
  font-size: 12px;
}
.examples ul {
  margin: 2px 0 0;
  padding: 0;
  list-style: none;
}
.examples li {
  overflow-wrap: anywhere;
}
</style>
