<script setup lang="ts">
import { length, percent } from "../shared/figures";
import ChoiceRow from "../components/ChoiceRow.vue";
import { STATUS_LOOKS } from "../../core/bake/methods/status";
import { standOff } from "../stages/collide/hull-figures";
import { farthest } from "../stages/reduce/figures";
import { sheetShown } from "../shared/sheet-shown";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";
import {
  MOST_OFF,
  MOST_SEEN,
  POLYGONS,
  RAMP,
  UNSEEN,
} from "../view/face-colours";
import { FIELDS } from "../view/checker-pixels";
import { MOST_ANGLE, MOST_AREA, MOST_TEXELS } from "../view/uv-colours";

/** What the colours and lines on the table mean. */
const view = useView();
const workshop = useWorkshop();
const brief = computed(() => workshop.asset!.document.brief);
const palette = computed(() => workshop.asset!.document.palette);
const early = computed(() => ["intake", "survey"].includes(view.stage));
const ramp = `linear-gradient(90deg, ${RAMP.join(", ")})`;
/** What stretch is measured in: a switch with two scales. */
const SCALES = [
  { value: "angles", label: "angles" },
  { value: "areas", label: "areas" },
] as const;
const stretched = computed(
  () => SCALES.find(({ value }) => value === view.overlay)?.value ?? null,
);
const checked = computed(
  () =>
    view.checker &&
    view.overlay === "none" &&
    !early.value &&
    workshop.asset!.document.parts.some((part) => part.game?.streams.uvs),
);
/** Whether a map that tells of the bake is seen, on the sheet or on the model. */
const shows = (kind: "status" | "angle") =>
  !early.value &&
  (view.sheet || view.overlay === "map") &&
  ["none", "map"].includes(view.overlay) &&
  sheetShown(view.sheetShows, workshop.asset!.document) === kind;
const raysShown = computed(() => shows("status"));
const angleShown = computed(() => shows("angle"));
const MOST_LISTED = 10;
/** How many texels a field of the checker is wide. */
const field = computed(() => Math.round(brief.value.sheetSize / FIELDS));
const off = computed(() => length(standOff(workshop.asset!.document)));
const reach = computed(() => length(farthest(workshop.asset!.document)));
</script>

<template>
  <div
    v-if="
      !['none', 'own', 'map'].includes(view.overlay) ||
      raysShown ||
      angleShown ||
      checked ||
      (!early && (view.seams || view.hard || view.hulls))
    "
    class="legend"
  >
    <template v-if="view.overlay === 'seen'">
      <span><i class="box" :style="{ background: UNSEEN }" /> unseen</span>
      <span class="mono">0</span>
      <i class="ramp" :style="{ background: ramp }" />
      <span class="mono">{{ percent(MOST_SEEN, 0) }}</span> of views
    </template>
    <template v-else-if="view.overlay === 'distance'">
      game mesh inside <span class="mono">−{{ reach }}</span>
      <i class="ramp" :style="{ background: ramp }" />
      <span class="mono">+{{ reach }}</span> outside
    </template>
    <template v-else-if="view.overlay === 'standoff'">
      touches <span class="mono">0</span>
      <i class="ramp" :style="{ background: ramp }" />
      <span class="mono">{{ off }}</span> stands off
    </template>
    <template v-else-if="view.overlay === 'quality'">
      thin <span class="mono">0</span>
      <i class="ramp" :style="{ background: ramp }" />
      <span class="mono">1</span> equilateral
    </template>
    <template v-else-if="view.overlay === 'density'">
      coarser <i class="ramp" :style="{ background: ramp }" /> finer
      <span><i class="box" :style="{ background: UNSEEN }" /> left</span>
    </template>
    <template v-else-if="stretched">
      <ChoiceRow
        class="switch-group"
        label="Stretch of"
        :options="SCALES"
        :value="stretched"
        @choose="view.overlay = $event"
      />
      <template v-if="stretched === 'angles'">
        true <span class="mono">1.0</span>
        <i class="ramp" :style="{ background: ramp }" />
        <span class="mono">{{ MOST_ANGLE.toFixed(1) }}</span> sheared
      </template>
      <template v-else>
        smaller <span class="mono">÷ {{ MOST_AREA }}</span>
        <i class="ramp" :style="{ background: ramp }" />
        <span class="mono">× {{ MOST_AREA }}</span> larger than its share
      </template>
    </template>
    <template v-else-if="view.overlay === 'texels'">
      <span class="mono">÷ {{ MOST_TEXELS }}</span>
      <i class="ramp" :style="{ background: ramp }" />
      <span class="mono">× {{ MOST_TEXELS }}</span> of
      {{ brief.texelsPerMetre ? "the brief's" : "the mean" }} texels/m
    </template>
    <template v-else-if="view.overlay === 'polygons'">
      <span
        ><i class="box" :style="{ background: POLYGONS.triangle }" />
        triangle</span
      >
      <span><i class="box" :style="{ background: POLYGONS.quad }" /> quad</span>
      <span
        ><i class="box" :style="{ background: POLYGONS.ngon }" /> n-gon</span
      >
    </template>
    <template v-else-if="raysShown">
      <span v-for="each in STATUS_LOOKS" :key="each.status"
        ><i class="box" :style="{ background: each.colour }" />
        {{ each.title }}</span
      >
    </template>
    <template v-else-if="angleShown">
      true <span class="mono">0°</span>
      <i class="ramp" :style="{ background: ramp }" />
      <span class="mono">{{ MOST_OFF }}°</span> off the source
    </template>
    <template v-else-if="view.overlay === 'ids'">
      <span v-for="each in palette.slice(0, MOST_LISTED)" :key="each.name"
        ><i class="box" :style="{ background: each.colour }" />
        {{ each.name }}</span
      >
      <span v-if="palette.length > MOST_LISTED"
        >and {{ palette.length - MOST_LISTED }} more</span
      >
    </template>
    <template v-if="!early">
      <span v-if="checked"
        >field <b class="mono">{{ field }}</b> texels · pennants fly right</span
      >
      <span v-if="checked"><i class="box mirrored" /> mirrored</span>
      <span v-if="view.seams"><i class="stitch" /> seam</span>
      <span v-if="view.hard"><i class="line hard" /> hard</span>
      <span v-if="view.hulls && view.overlay !== 'standoff'"
        ><i class="box hull" /> hulls, one colour each</span
      >
    </template>
  </div>
</template>

<style scoped>
.legend {
  justify-self: start;
  display: flex;
  flex-wrap: wrap;
  gap: 3px 10px;
  align-items: center;
  padding: 3px 8px;
  background: color-mix(in srgb, var(--paper) 90%, transparent);
  border-radius: 3px;
  font-size: 12px;
}
span {
  display: inline-flex;
  align-items: center;
  gap: 5px;
}
.ramp {
  width: 110px;
  height: 10px;
  border-radius: 2px;
}
.line {
  width: 18px;
  height: 2px;
}
.hard {
  background: #34489a;
}
.stitch {
  width: 18px;
  height: 8px;
  background:
    linear-gradient(#2a2f36, #2a2f36) 0 50% / 100% 1px no-repeat,
    repeating-linear-gradient(90deg, #2a2f36 0 1px, transparent 1px 4px);
}
.box {
  width: 12px;
  height: 12px;
  border-radius: 2px;
  border: 1px solid rgb(0 0 0 / 25%);
}
.mirrored {
  background: #d8a0a6;
  border-color: #a0545e;
}
.hull {
  background: rgb(79 127 58 / 35%);
  border-color: #3f6a2d;
}
</style>
