<script setup lang="ts">
import InputText from "primevue/inputtext";
import { numeral, readNumber } from "../shared/numbers";

/** A number to type: what does not fit stays as it was typed and is said, never changed. */
const props = defineProps<{
  id: string;
  value: number | null;
  /** What was typed and is no value. */
  text?: string;
  integer?: boolean;
  min?: number;
  max?: number;
  step?: number;
  unit?: string;
  /** What an empty field stands for. */
  placeholder?: string;
  label?: string;
  disabled?: boolean;
}>();
const emit = defineEmits<{
  /** null where the field was emptied. */
  take: [value: number | null];
  refuse: [text: string];
}>();
const typed = ref<string | null>(null);
const shown = computed(
  () =>
    typed.value ??
    props.text ??
    (props.value === null ? "" : numeral(props.value)),
);
const wrong = computed(() => {
  if (!shown.value.trim()) return "";
  const read = readNumber(shown.value, { ...props, integer: props.integer });
  return "wrong" in read ? read.wrong : "";
});
function read(text: string) {
  typed.value = text;
  if (!text.trim()) return emit("take", null);
  const read = readNumber(text, { ...props, integer: props.integer });
  if ("value" in read) emit("take", read.value);
  else emit("refuse", text);
}
function press(event: KeyboardEvent) {
  const way = event.key === "ArrowUp" ? 1 : event.key === "ArrowDown" ? -1 : 0;
  if (!way) return;
  event.preventDefault();
  const step = props.step ?? (props.integer ? 1 : 0.1);
  const next = (props.value ?? props.min ?? 0) + way * step;
  const inside = Math.min(
    props.max ?? Infinity,
    Math.max(props.min ?? -Infinity, Number(next.toPrecision(12))),
  );
  typed.value = null;
  emit("take", inside);
}
</script>

<template>
  <span class="number" :class="{ wrong }">
    <InputText
      :id="id"
      :model-value="shown"
      inputmode="decimal"
      autocomplete="off"
      :placeholder="placeholder"
      :disabled="disabled"
      :aria-label="label"
      :aria-invalid="wrong ? true : undefined"
      :aria-describedby="wrong ? `${id}-wrong` : undefined"
      :class="{ bare: !unit || shown === '' }"
      @update:model-value="read($event ?? '')"
      @keydown="press"
      @blur="typed = null"
    />
    <span v-if="unit && shown !== ''" class="unit">{{ unit }}</span>
    <span v-if="wrong" :id="`${id}-wrong`" class="said" role="alert">{{
      wrong
    }}</span>
  </span>
</template>

<style scoped>
.number {
  position: relative;
  display: block;
}
.number :deep(input) {
  font-family: var(--mono);
  font-size: 12.5px;
  width: 100%;
  padding-right: 62px;
}
.number :deep(input.bare) {
  padding-right: 8px;
}
.number :deep(input::placeholder) {
  font-family: var(--sans);
}
.wrong :deep(input) {
  border-color: var(--rust);
}
.unit {
  position: absolute;
  right: 8px;
  top: 14px;
  transform: translateY(-50%);
  color: var(--ink-3);
  font-family: var(--mono);
  font-size: 11.5px;
  pointer-events: none;
}
.said {
  display: block;
  color: var(--rust);
  font-size: 12px;
  line-height: 1.3;
  padding-top: 2px;
}
</style>
