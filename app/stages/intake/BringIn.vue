<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Select from "primevue/select";
import ToggleSwitch from "primevue/toggleswitch";
import { isArchive } from "../../../core/formats/archive";
import { useWorkshop } from "../../stores/workshop";

/** Choosing files, and how to read them; files dropped on the page come the same way. */
const workshop = useWorkshop();
const picker = ref<HTMLInputElement | null>(null);
const operation = computed(() =>
  workshop.operations.find((each) => each.id === "intake/bring-in"),
);
const options = ref<Record<string, unknown>>({});
watch(
  operation,
  (found) =>
    (options.value = Object.fromEntries(
      (found?.fields ?? []).map((field) => [field.name, field.default]),
    )),
  { immediate: true },
);
/** Name patterns only matter where both kinds come in together. */
const fields = computed(() =>
  (operation.value?.fields ?? []).filter(
    (field) =>
      !field.folded && (field.kind !== "text" || options.value.role === "both"),
  ),
);
/** A project is the asset itself; all else is brought into it. */
function send(files: File[]) {
  if (files.some(({ name }) => isArchive(name)))
    void workshop.send("intake/open-project", files, {});
  else if (files.length)
    void workshop.send("intake/bring-in", files, options.value);
}
function chosen() {
  send([...(picker.value?.files ?? [])]);
  picker.value!.value = "";
}
const dropped = (event: Event) => send((event as CustomEvent<File[]>).detail);
onMounted(() => window.addEventListener("arnik-files", dropped));
onBeforeUnmount(() => window.removeEventListener("arnik-files", dropped));
</script>

<template>
  <div class="bring">
    <input
      ref="picker"
      class="hidden-label"
      type="file"
      multiple
      accept=".obj,.mtl,.ply,.stl,.glb,.gltf,.bin,.png,.jpg,.jpeg,.zip"
      aria-label="Mesh files or a project"
      @change="chosen"
    />
    <Button
      label="Choose files…"
      class="go"
      :outlined="workshop.canRunRoute"
      :severity="workshop.canRunRoute ? 'secondary' : undefined"
      :disabled="workshop.locked"
      @click="picker?.click()"
    />
    <template v-if="workshop.canRunRoute">
      <Button
        label="Run the route"
        class="go"
        :disabled="workshop.locked"
        @click="workshop.step('route')"
      />
      <p class="muted">
        Through all stages to the archive, with the brief's figures. Every stage
        can be opened and refined afterwards.
      </p>
    </template>
    <div
      v-for="field in fields"
      :key="field.name"
      class="row"
      :title="field.help"
    >
      <span :id="`bring-${field.name}`">{{ field.label }}</span>
      <InputText
        v-if="field.kind === 'text'"
        v-model="options[field.name] as string"
        class="mono"
        :aria-labelledby="`bring-${field.name}`"
      />
      <ToggleSwitch
        v-else-if="field.kind === 'flag'"
        v-model="options[field.name] as boolean"
        class="switch"
        :aria-labelledby="`bring-${field.name}`"
      />
      <Select
        v-else
        v-model="options[field.name]"
        :options="[...(field.choices ?? [])]"
        option-label="label"
        option-value="value"
        :aria-labelledby="`bring-${field.name}`"
      />
    </div>
  </div>
</template>

<style scoped>
.bring {
  display: grid;
  gap: 8px;
}
.go {
  justify-content: center;
  padding: 8px;
}
.row {
  display: grid;
  grid-template-columns: 1fr 150px;
  align-items: center;
  gap: 8px;
}
.switch {
  justify-self: end;
}
</style>
