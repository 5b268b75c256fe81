<script setup lang="ts">
import Button from "primevue/button";
import MultiSelect from "primevue/multiselect";
import InputText from "primevue/inputtext";
import Select from "primevue/select";
import ToggleSwitch from "primevue/toggleswitch";
import type { Field } from "../../core/asset/operation";
import NumberField from "./NumberField.vue";
import { useDrafts } from "./drafts";
import { isAskedFor, takenFrom, valueFrom } from "./field-sources";
import { counted, spaced } from "../shared/figures";
import { numeral } from "../shared/numbers";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";
import type { OperationInfo } from "../shared/types";

/** The form of an operation, made from its declared options. Parts come from the selection. */
const props = defineProps<{
  operation: OperationInfo;
  label?: string;
  values?: Record<string, unknown>;
  main?: boolean;
  hide?: string[];
}>();
const emit = defineEmits<{
  run: [options: Record<string, unknown>];
}>();
const workshop = useWorkshop();
const view = useView();
const more = ref(false);
const { options, drafts, base, type, takeBack, changed } = useDrafts(
  () => props.operation,
  () => props.values,
);

const shown = computed(() =>
  props.operation.fields.filter(
    (field) => !props.hide?.includes(field.name) && isAskedFor(field, view),
  ),
);
const open = computed(() => shown.value.filter((field) => !field.folded));
const folded = computed(() => shown.value.filter((field) => field.folded));
function takes(kind: Field["kind"]): boolean {
  return props.operation.fields.some((field) => field.kind === kind);
}
const scope = computed(() => {
  const words: string[] = [];
  if (takes("faces") && view.chosen.faces)
    words.push(`on ${spaced(view.chosen.faces)} chosen faces`);
  else if (takes("faces") && !takes("parts")) words.push("choose faces first");
  const edges = props.operation.fields.find(({ kind }) => kind === "edges");
  if (edges) {
    const { length } = (valueFrom(edges.from!, view) ?? []) as string[];
    if (length) words.push(`${counted(length, "edge")} chosen`);
    else if (!edges.folded) words.push("no edge chosen");
  }
  if (takes("parts"))
    words.push(
      view.selected.length
        ? `on ${view.selected.join(", ")}`
        : takes("faces")
          ? ""
          : "on all parts",
    );
  return words.filter(Boolean).join("; ");
});
const idOf = (field: Field) =>
  `${props.operation.id.replace("/", "-")}-${field.name}`;
/** What a number that nobody gave comes from. */
const emptyWords = ({ brief, empty }: Field) =>
  brief
    ? `${spaced(workshop.asset!.document.brief[brief])} from the brief`
    : empty;
const isEmpty = (field: Field) =>
  Boolean(emptyWords(field)) && options.value[field.name] === field.default;
/** A value as a form would show it. */
function words(field: Field, value: unknown): string {
  if (field.empty && value === field.default) return field.empty;
  if (typeof value === "number")
    return `${numeral(value)}${field.unit ? ` ${field.unit}` : ""}`;
  if (typeof value === "boolean") return value ? "on" : "off";
  if (Array.isArray(value))
    return value.length ? counted(value.length, "choice") : "everything";
  return (
    field.choices?.find((each) => each.value === value)?.label ?? `“${value}”`
  );
}
/** What was typed and is no value keeps the form from being run. */
const wrong = computed(() =>
  shown.value.find(({ name }) => {
    const draft = drafts.value[name];
    return draft && !("value" in draft);
  }),
);

function run() {
  if (workshop.locked) return;
  if (wrong.value) {
    if (wrong.value.folded) more.value = true;
    const id = idOf(wrong.value);
    void nextTick(() => document.getElementById(id)?.focus());
    return;
  }
  const chosen = takenFrom(props.operation.fields, view);
  emit("run", { ...options.value, ...chosen });
}
defineExpose({ run });
</script>

<template>
  <form class="form" :data-operation="operation.id" @submit.prevent="run">
    <Button
      type="submit"
      class="go"
      :class="{ main }"
      :severity="main ? undefined : 'secondary'"
      :outlined="!main"
      :label="label ?? operation.title"
      :disabled="workshop.locked"
    />
    <p v-if="scope" class="scope muted">{{ scope }}</p>
    <template v-for="(list, which) in [open, more ? folded : []]" :key="which">
      <div
        v-for="field in list"
        :key="field.name"
        class="row"
        :title="field.help"
      >
        <label :for="idOf(field)">{{ field.label }}</label>
        <Select
          v-if="field.kind === 'choice'"
          :label-id="idOf(field)"
          :model-value="options[field.name]"
          :options="[...(field.choices ?? [])]"
          option-label="label"
          option-value="value"
          :aria-label="field.label"
          @update:model-value="type(field, $event)"
        />
        <MultiSelect
          v-else-if="field.kind === 'choices'"
          :input-id="idOf(field)"
          :model-value="options[field.name]"
          :options="[...(field.choices ?? [])]"
          option-label="label"
          option-value="value"
          :placeholder="field.empty ?? 'everything'"
          :max-selected-labels="1"
          selected-items-label="{0} chosen"
          @update:model-value="type(field, $event)"
        />
        <ToggleSwitch
          v-else-if="field.kind === 'flag'"
          :input-id="idOf(field)"
          :model-value="options[field.name] as boolean"
          @update:model-value="type(field, $event)"
        />
        <InputText
          v-else-if="field.kind === 'text'"
          :id="idOf(field)"
          :model-value="options[field.name] as string"
          @update:model-value="type(field, $event ?? '')"
        />
        <NumberField
          v-else
          :id="idOf(field)"
          :value="isEmpty(field) ? null : (options[field.name] as number)"
          :text="drafts[field.name]?.text"
          :integer="field.kind === 'integer'"
          :min="field.min"
          :max="field.max"
          :step="field.step"
          :unit="field.unit"
          :placeholder="emptyWords(field)"
          @take="type(field, $event ?? field.default)"
          @refuse="type(field, undefined, $event)"
        />
        <p v-if="drafts[field.name]" class="draft">
          <template v-if="changed(field)">
            changed meanwhile ·
            <button type="button" class="link-action" @click="takeBack(field)">
              take {{ words(field, changed(field)!.to) }}
            </button>
          </template>
          <button
            v-else
            type="button"
            class="link-action"
            :aria-label="`${field.label} back to ${words(field, base(field))}`"
            @click="takeBack(field)"
          >
            back to {{ words(field, base(field)) }}
          </button>
        </p>
      </div>
    </template>
    <button
      v-if="folded.length"
      type="button"
      class="link-action fold"
      :aria-expanded="more"
      @click="more = !more"
    >
      {{ more ? "Fewer settings" : counted(folded.length, "more setting") }}
    </button>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 8px;
}
.go {
  justify-content: center;
}
.go.main {
  padding: 8px 12px;
}
.scope {
  margin: -4px 0 0;
  font-size: 12px;
  overflow-wrap: anywhere;
}
.row {
  display: grid;
  grid-template-columns: 1fr minmax(110px, 150px);
  align-items: center;
  gap: 8px;
  min-height: 28px;
}
.row label {
  color: var(--ink);
}
.row :deep(.p-toggleswitch) {
  justify-self: end;
}
.row :deep(.p-select),
.row :deep(.p-inputtext) {
  width: 100%;
  min-width: 0;
}
.draft {
  grid-column: 1 / -1;
  justify-self: end;
  margin: -6px 0 2px;
  font-size: 11.5px;
  color: var(--brass-ink);
}
.draft .link-action {
  font-size: 11.5px;
}
.fold {
  justify-self: start;
}
</style>
