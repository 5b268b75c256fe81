<script setup lang="ts">
import { area, spaced } from "./figures";
import type { Tool } from "../stores/view";
import { useView } from "../stores/view";

/** What a click chooses, and what is chosen: along the upper edge of the table. */
const emit = defineEmits<{
  alter: [what: "grow" | "shrink" | "invert" | "all"];
}>();
const view = useView();
const TOOLS: { value: Tool; label: string; icon: string }[] = [
  { value: "part", label: "part", icon: "pi-box" },
  { value: "component", label: "component", icon: "pi-clone" },
  { value: "material", label: "material", icon: "pi-palette" },
  { value: "face", label: "face", icon: "pi-stop" },
  { value: "flood", label: "flood", icon: "pi-expand" },
  { value: "island", label: "island", icon: "pi-map" },
  { value: "edge", label: "edge", icon: "pi-minus" },
  { value: "loop", label: "edge loop", icon: "pi-replay" },
  { value: "ring", label: "edge ring", icon: "pi-align-justify" },
  { value: "paint", label: "paint", icon: "pi-pencil" },
  { value: "stroke", label: "stroke of edges", icon: "pi-wave-pulse" },
  { value: "box", label: "box", icon: "pi-window-maximize" },
];
const ALTER = [
  { what: "grow", label: "grow", icon: "pi-plus" },
  { what: "shrink", label: "shrink", icon: "pi-minus" },
  { what: "invert", label: "invert", icon: "pi-sort-alt" },
] as const;
/** Seams are drawn at Unwrap only. */
const SEAM_TOOLS: typeof TOOLS = [
  { value: "trace", label: "trace a seam", icon: "pi-share-alt" },
  { value: "region", label: "region", icon: "pi-stop-circle" },
];
const UV_STAGES = ["edges", "unwrap"];
/** What is of little use for UVs makes room for what is. */
const tools = computed(() =>
  UV_STAGES.includes(view.stage)
    ? [
        ...TOOLS.filter(({ value }) => value !== "material"),
        ...(view.stage === "unwrap" ? SEAM_TOOLS : []),
      ]
    : TOOLS.filter(({ value }) => value !== "island"),
);
const choosesFaces = computed(
  () =>
    !["part", "edge", "loop", "ring", "stroke", "trace", "region"].includes(
      view.tool,
    ),
);
const words = computed(() => {
  const { faces, triangles, area: square } = view.chosen;
  const parts = view.selected.length;
  return [
    ...(parts ? [`${parts} ${parts === 1 ? "part" : "parts"}`] : []),
    ...(faces
      ? [
          `${spaced(faces)} ${faces === 1 ? "face" : "faces"}`,
          `${spaced(triangles)} triangles`,
          area(square),
          ...(view.chosen.density
            ? [`${spaced(view.chosen.density)} texels/m`]
            : []),
        ]
      : []),
    ...(view.edges.length
      ? [`${view.edges.length} ${view.edges.length === 1 ? "edge" : "edges"}`]
      : []),
  ];
});
</script>

<template>
  <div class="tools">
    <div
      class="switch-group"
      role="radiogroup"
      aria-label="What a click chooses"
    >
      <button
        v-for="tool in tools"
        :key="tool.value"
        role="radio"
        :aria-checked="view.tool === tool.value"
        :aria-label="`choose by ${tool.label}`"
        :title="`choose by ${tool.label}`"
        :class="{ on: view.tool === tool.value }"
        @click="view.tool = tool.value"
      >
        <i class="pi" :class="tool.icon" />
        <span v-if="view.tool === tool.value">{{ tool.label }}</span>
      </button>
    </div>
    <label v-if="view.tool === 'flood'" class="switch-group reach">
      up to
      <input
        v-model.number="view.floodAngle"
        type="range"
        min="0"
        max="90"
        aria-label="Flood angle"
      />
      <b class="mono">{{ view.floodAngle }}°</b>
    </label>
    <label v-if="view.tool === 'paint'" class="switch-group reach">
      brush
      <input
        v-model.number="view.brush"
        type="range"
        min="4"
        max="120"
        aria-label="Brush radius"
      />
      <b class="mono">{{ view.brush }} px</b>
    </label>
    <div v-if="choosesFaces" class="switch-group">
      <button
        v-for="each in ALTER"
        :key="each.what"
        :aria-label="each.label"
        :title="each.label"
        @click="emit('alter', each.what)"
      >
        <i class="pi" :class="each.icon" />
      </button>
    </div>
    <p v-if="words.length" class="chosen" role="status">
      {{ words.join(" · ") }}
      <button aria-label="choose nothing" @click="view.clearSelection()">
        <i class="pi pi-times" />
      </button>
    </p>
  </div>
</template>

<style scoped>
.tools {
  position: absolute;
  left: 10px;
  right: 10px;
  top: 38px;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.switch-group button {
  padding-inline: 6px;
  display: flex;
  align-items: center;
  gap: 5px;
  min-height: 24px;
}
.switch-group .pi {
  font-size: 12.5px;
}
.reach {
  align-items: center;
  gap: 6px;
  padding: 2px 8px;
  font-size: 12px;
}
.reach input {
  width: 80px;
  accent-color: var(--tide);
}
.chosen {
  margin: 0;
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 3px 4px 3px 8px;
  background: color-mix(in srgb, var(--paper) 92%, transparent);
  border-left: 3px solid var(--raspberry);
  border-radius: 3px;
  font-size: 12.5px;
  pointer-events: auto;
}
.chosen button {
  border: 0;
  background: none;
  padding: 2px 4px;
  color: var(--ink-3);
  cursor: pointer;
}
.chosen .pi {
  font-size: 10px;
}
.switch-group {
  flex-wrap: wrap;
}
</style>
