<script setup lang="ts">
import Button from "primevue/button";
import ChoiceRow from "../../components/ChoiceRow.vue";
import SpokenLine from "../../components/SpokenLine.vue";
import { counted } from "../../shared/figures";
import type { Tool } from "../../shared/view-types";
import { useAnswers } from "../../stores/answers";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";
import { useSetSeams } from "./set-seams";

/** Seams by hand: what a click draws, what becomes of it, and how it would lay out. */
const emit = defineEmits<{ trace: [what: "back" | "clear"] }>();
const view = useView();
const answers = useAnswers();
const workshop = useWorkshop();
const TOOLS: { value: Tool; label: string; title: string }[] = [
  {
    value: "trace",
    label: "Trace",
    title: "Click waypoints; the best way between them is shown",
  },
  {
    value: "region",
    label: "Region",
    title: "Click a cap, pocket or lobe to cut it out",
  },
  { value: "edge", label: "Edges", title: "Click single edges" },
  { value: "loop", label: "Loops", title: "Click edge loops" },
  { value: "ring", label: "Rings", title: "Click edge rings" },
];
const { edges, faces, ready, wish } = useSetSeams(() => emit("trace", "clear"));
const words = computed(() => {
  if (answers.trace?.points)
    return `${counted(answers.trace.points, "waypoint")}, ${counted(answers.trace.edges.length, "edge")}; drag a dot to move it, Ctrl-click takes it out, Backspace the last one`;
  if (edges.value.length) return counted(edges.value.length, "edge");
  if (faces.value) return `round ${counted(view.chosen.faces, "chosen face")}`;
  return (
    {
      trace: "Click waypoints on the game mesh.",
      region: "Click a cap, pocket or lobe of the game mesh.",
    }[view.tool as string] ??
    "Choose edges of the game mesh, or faces to cut round."
  );
});
function use(tool: Tool) {
  view.tool = view.tool === tool ? "part" : tool;
  view.seams = view.wire = true;
  if (view.show !== "game") view.show = "game";
  if (workshop.asset!.document.parts.some((part) => part.game?.streams.uvs))
    view.sheet = true;
}
function showLeft() {
  view.hidden = workshop
    .asset!.document.parts.filter((part) => part.game?.streams.uvs)
    .map((part) => part.name);
}
</script>

<template>
  <div class="seams">
    <ChoiceRow
      class="switch-group"
      label="What a click draws"
      :options="TOOLS"
      :value="view.tool"
      @choose="use"
    />
    <p v-if="answers.traceRefused" class="refused" role="alert">
      {{ answers.traceRefused }}
    </p>
    <SpokenLine class="muted">{{ words }}</SpokenLine>
    <p v-if="answers.tried" class="tried">
      {{ answers.tried.part }} would be
      {{ counted(answers.tried.islands, "new island") }}, stretch
      <b class="mono">{{ answers.tried.stretch.toFixed(3) }}</b>,
      <span class="muted mono"
        >{{ Math.round(answers.tried.milliseconds) }} ms</span
      >
    </p>
    <div class="actions">
      <Button label="Set seam" :disabled="!ready" @click="wish('seam')" />
      <Button
        severity="secondary"
        outlined
        label="Join"
        title="Take seams away"
        :disabled="!ready"
        @click="wish('joined')"
      />
      <Button
        severity="secondary"
        outlined
        label="Never"
        title="Forbid seams here"
        :disabled="!ready"
        @click="wish('no seam')"
      />
      <Button
        severity="secondary"
        outlined
        label="Forget"
        title="As it comes"
        :disabled="!ready"
        @click="wish('as found')"
      />
    </div>
    <div class="links">
      <button class="link-action" @click="showLeft">
        Show what is left to unwrap
      </button>
      <button
        v-if="view.hidden.length"
        class="link-action"
        @click="view.hidden = []"
      >
        Show all
      </button>
    </div>
  </div>
</template>

<style scoped>
.seams {
  display: grid;
  gap: 6px;
}
p {
  margin: 0;
  font-size: 12.5px;
}
.refused {
  color: var(--rust);
}
.switch-group {
  justify-self: start;
}
.actions {
  display: grid;
  grid-template-columns: repeat(4, auto);
  gap: 6px;
}
.actions :deep(.p-button) {
  padding-inline: 6px;
}
.tried b {
  font-weight: 600;
}
.links {
  display: flex;
  gap: 12px;
}
</style>
