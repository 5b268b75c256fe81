<script setup lang="ts" generic="T extends string | number | null">
/**
 * One of a few: radio buttons side by side. Arrow keys go from one to the next, and only the chosen one is on the
 * way of the Tab key.
 */
const props = defineProps<{
  options: readonly {
    value: T;
    label: string;
    /** What a screen reader says in the place of the label. */
    spoken?: string;
    title?: string;
    disabled?: boolean;
  }[];
  value: T;
  /** What is chosen here. */
  label: string;
}>();
const emit = defineEmits<{ choose: [value: T] }>();
const buttons = ref<HTMLButtonElement[]>([]);
const at = computed(() =>
  props.options.findIndex(({ value }) => value === props.value),
);
const onTheWay = (i: number) => i === Math.max(0, at.value);
const STEPS: Record<string, number> = {
  ArrowLeft: -1,
  ArrowUp: -1,
  ArrowRight: 1,
  ArrowDown: 1,
};
function press(event: KeyboardEvent, from: number) {
  const { length } = props.options;
  const step = STEPS[event.key];
  let i = event.key === "End" ? length - 1 : event.key === "Home" ? 0 : -1;
  if (step) {
    i = from;
    do i = (i + step + length) % length;
    while (props.options[i].disabled && i !== from);
  }
  if (i < 0) return;
  event.preventDefault();
  event.stopPropagation();
  if (props.options[i].disabled) return;
  buttons.value[i].focus();
  emit("choose", props.options[i].value);
}
</script>

<template>
  <span role="radiogroup" :aria-label="label">
    <button
      v-for="(each, i) in options"
      :key="String(each.value)"
      ref="buttons"
      type="button"
      role="radio"
      :aria-checked="i === at"
      :aria-label="each.spoken"
      :title="each.title"
      :class="{ on: i === at }"
      :disabled="each.disabled"
      :tabindex="onTheWay(i) ? 0 : -1"
      @click="emit('choose', each.value)"
      @keydown="press($event, i)"
    >
      {{ each.label }}
    </button>
  </span>
</template>
