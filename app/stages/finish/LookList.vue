<script setup lang="ts">
import Slider from "primevue/slider";
import type { SurfaceLook } from "../../../core/base/pictures";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** One row a material; a change is kept when the handle is let go. */
const workshop = useWorkshop();
const view = useView();
type Row = Pick<
  SurfaceLook,
  "material" | "colour" | "roughness" | "metalness"
> & { opacity: number };
/** How every material looks, as it is kept. */
function rowsNow(): Row[] {
  const { parts, looks: kept } = workshop.asset!.document;
  const names = new Set(
    parts.flatMap(
      (part) => part.game?.materials ?? part.source?.materials ?? [],
    ),
  );
  return [...names].map((material) => {
    const {
      colour = "#b8b2a6",
      roughness = 0.6,
      metalness = 0,
      opacity = 1,
    } = kept.find((look) => look.material === material) ?? {};
    return { material, colour, roughness, metalness, opacity };
  });
}
const looks = ref<Row[]>([]);
watch(
  () => workshop.asset?.revision,
  () => (looks.value = rowsNow()),
  { immediate: true },
);
const SLIDERS = ["roughness", "metalness", "opacity"] as const;
/** A slider that is only passed by the keyboard changes nothing. */
function keep(look: Row) {
  const kept = rowsNow().find(({ material }) => material === look.material);
  if (JSON.stringify(kept) !== JSON.stringify(look))
    void workshop.run("finish/look", { ...look });
}
</script>

<template>
  <section class="looks">
    <div v-for="look in looks" :key="look.material" class="look">
      <input
        v-model="look.colour"
        type="color"
        :aria-label="`colour of ${look.material}`"
        :disabled="workshop.locked"
        @change="keep(look)"
      />
      <b>{{ look.material }}</b>
      <label v-for="what in SLIDERS" :key="what"
        ><span>{{ what }}</span
        ><Slider
          v-model="look[what]"
          :min="0"
          :max="1"
          :step="0.01"
          :disabled="workshop.locked"
          :aria-label="`${what} of ${look.material}`"
          @slideend="keep(look)"
          @keyup="keep(look)"
        /><span class="mono">{{ look[what].toFixed(2) }}</span></label
      >
    </div>
    <label class="light"
      ><span>Light from</span
      ><Slider
        v-model="view.light"
        :min="-180"
        :max="180"
        aria-label="Direction of the light"
      /><span class="mono">{{ view.light }}°</span></label
    >
    <button
      v-if="view.show !== 'baked'"
      class="link-action"
      @click="view.show = 'baked'"
    >
      Show the baked look
    </button>
  </section>
</template>

<style scoped>
.looks {
  display: grid;
  gap: 12px;
}
.look {
  display: grid;
  grid-template-columns: 30px 1fr;
  align-items: center;
  column-gap: 8px;
  row-gap: 4px;
}
.look input {
  width: 26px;
  height: 22px;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: none;
}
label {
  grid-column: 1 / -1;
  display: grid;
  grid-template-columns: 72px 1fr 40px;
  align-items: center;
  gap: 10px;
  font-size: 12.5px;
  color: var(--ink-2);
}
label .mono {
  text-align: right;
}
.link-action {
  justify-self: start;
}
</style>
