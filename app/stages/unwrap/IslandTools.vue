<script setup lang="ts">
import SpokenLine from "../../components/SpokenLine.vue";
import { spaced } from "../../shared/figures";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** What can be done to chosen islands with one press. */
const view = useView();
const workshop = useWorkshop();
const WAYS = [
  { how: "left", icon: "pi-align-left", label: "Align left" },
  {
    how: "middle up",
    icon: "pi-align-center",
    label: "Align middles, upright",
  },
  { how: "right", icon: "pi-align-right", label: "Align right" },
  { how: "top", icon: "pi-arrow-up", label: "Align top" },
  { how: "middle across", icon: "pi-minus", label: "Align middles, across" },
  { how: "bottom", icon: "pi-arrow-down", label: "Align bottom" },
  { how: "spread across", icon: "pi-arrows-h", label: "Distribute across" },
  { how: "spread up", icon: "pi-arrows-v", label: "Distribute upright" },
  { how: "turn left", icon: "pi-undo", label: "Turn left by 90°" },
  { how: "turn right", icon: "pi-refresh", label: "Turn right by 90°" },
  { how: "mirror across", icon: "pi-sort-alt", label: "Mirror", turned: true },
  { how: "snap grid", icon: "pi-th-large", label: "Snap to the grid" },
  {
    how: "snap corner",
    icon: "pi-expand",
    label: "Snap to the nearest corner",
  },
] as const;
const some = computed(() => view.facesOf === "game" && view.chosen.islands > 0);
const on = () => ({ faces: [...view.faceList], mesh: "game" });
const arrange = (how: string) =>
  workshop.run("unwrap/arrange", { ...on(), how });
const pick = () => {
  view.tool = view.tool === "island" ? "part" : "island";
  view.sheet = true;
};
const give = (times: number) =>
  workshop.run("unwrap/give-density", { ...on(), by: "times", times });
const giveRead = () =>
  workshop.run("unwrap/give-density", {
    ...on(),
    by: "texels",
    density: view.readDensity,
  });
</script>

<template>
  <div class="islands">
    <SpokenLine class="muted">
      <template v-if="some">
        {{ view.chosen.islands }}
        {{ view.chosen.islands === 1 ? "island" : "islands" }} ·
        <b class="mono">{{ spaced(view.chosen.density) }}</b> texels/m
      </template>
      <template v-else>
        Click islands on the sheet, or with the island tool on the model; drag
        them on the sheet.
      </template>
    </SpokenLine>
    <div class="links">
      <button
        class="link-action"
        :aria-pressed="view.tool === 'island'"
        @click="pick"
      >
        {{
          view.tool === "island" ? "Stop choosing islands" : "Choose islands"
        }}
      </button>
      <button
        v-if="some"
        class="link-action"
        :disabled="workshop.locked"
        @click="
          workshop.run('unwrap/pack', {
            which: 'chosen',
            faces: [...view.faceList],
          })
        "
      >
        Pack into what is left
      </button>
    </div>
    <div class="grid">
      <button
        v-for="way in WAYS"
        :key="way.how"
        class="tool"
        :title="way.label"
        :aria-label="way.label"
        :disabled="!some || workshop.locked"
        @click="arrange(way.how)"
      >
        <i
          class="pi"
          :class="way.icon"
          :style="'turned' in way ? { transform: 'rotate(90deg)' } : {}"
        />
      </button>
    </div>
    <div class="links">
      <span class="muted">Texels ×</span>
      <button
        v-for="times in [0.25, 0.5, 1, 1.5, 2]"
        :key="times"
        class="link-action mono"
        :disabled="!some || workshop.locked"
        @click="give(times)"
      >
        {{ times }}
      </button>
    </div>
    <div class="links">
      <button
        class="link-action"
        :disabled="!some"
        @click="view.readDensity = view.chosen.density"
      >
        Read density
      </button>
      <button
        v-if="view.readDensity"
        class="link-action"
        :disabled="!some || workshop.locked"
        @click="giveRead"
      >
        Give {{ spaced(view.readDensity) }} texels/m
      </button>
    </div>
  </div>
</template>

<style scoped>
.islands {
  display: grid;
  gap: 6px;
}
p {
  margin: 0;
  font-size: 12.5px;
}
.grid {
  display: grid;
  grid-template-columns: repeat(7, 1fr);
  gap: 4px;
}
.tool {
  min-height: 28px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--paper);
  color: var(--ink-2);
  cursor: pointer;
}
.tool:hover:not(:disabled) {
  background: var(--well);
}
.tool:disabled {
  opacity: 0.45;
  cursor: default;
}
.tool .pi {
  font-size: 13px;
}
.links {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
}
</style>
