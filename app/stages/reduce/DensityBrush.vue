<script setup lang="ts">
import ToggleSwitch from "primevue/toggleswitch";
import ChoiceRow from "../../components/ChoiceRow.vue";
import NumberField from "../../components/NumberField.vue";
import type { DensityBrush } from "../../stores/trials";
import { useTrials } from "../../stores/trials";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** The round brush that paints where triangles are wanted: every stroke on the source is density at once. */
const view = useView();
const trials = useTrials();
const workshop = useWorkshop();
type Wish = DensityBrush["wish"] | null;
const WISHES: { value: Wish; label: string }[] = [
  { value: null, label: "no brush" },
  { value: "finer", label: "finer" },
  { value: "coarser", label: "coarser" },
  { value: "leave", label: "leave" },
  { value: "plain", label: "erase" },
];
const rest = reactive({ strength: 0.5, falloff: 0, mirror: false });
const options = computed(() =>
  WISHES.map((each) => ({
    ...each,
    disabled:
      each.value !== null &&
      workshop.locked &&
      trials.density?.wish !== each.value,
  })),
);
function hold(wish: Wish) {
  trials.density = wish && { wish, ...rest };
  view.tool = wish ? "paint" : "part";
  if (!wish) return;
  view.clearFaces();
  view.overlay = "density";
  if (view.show === "game" || view.show === "baked") view.show = "source";
}
watch(rest, () => {
  if (trials.density) trials.density = { ...trials.density, ...rest };
});
watch(
  () => view.tool,
  (tool) => {
    if (tool !== "paint") trials.density = null;
  },
);
onBeforeUnmount(() => (trials.density = null));
</script>

<template>
  <div class="brush">
    <ChoiceRow
      class="switch-group"
      label="Density brush"
      :options="options"
      :value="trials.density?.wish ?? null"
      @choose="hold"
    />
    <template v-if="trials.density">
      <p class="muted">
        Drag over the source; its size is on the table's upper edge.
      </p>
      <div class="row">
        <label for="brush-strength">Strength</label>
        <input
          id="brush-strength"
          v-model.number="rest.strength"
          type="range"
          min="0.05"
          max="1"
          step="0.05"
        />
        <b class="mono">{{ rest.strength.toFixed(2) }}</b>
      </div>
      <div class="row">
        <label for="brush-falloff">Falloff</label>
        <NumberField
          id="brush-falloff"
          :value="rest.falloff"
          :min="0"
          :max="10000"
          unit="mm"
          @take="rest.falloff = $event ?? 0"
        />
      </div>
      <div class="row">
        <label for="brush-mirror">Mirror</label>
        <ToggleSwitch v-model="rest.mirror" input-id="brush-mirror" />
      </div>
    </template>
  </div>
</template>

<style scoped>
.brush {
  display: grid;
  gap: 6px;
}
p {
  margin: 0;
}
.row {
  display: grid;
  grid-template-columns: 76px minmax(0, 1fr) auto;
  gap: 8px;
  align-items: center;
}
.row :deep(.number) {
  width: 110px;
}
input[type="range"] {
  accent-color: var(--tide);
  width: 100%;
}
</style>
