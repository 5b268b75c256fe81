<script setup lang="ts">
import type { PartStandIn } from "../../../core/asset/asset";
import NumberField from "../../components/NumberField.vue";
import { length, spaced } from "../../shared/figures";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** The shapes that stand for pieces of the source: their sides can be changed, and they can go again. */
const view = useView();
const workshop = useWorkshop();
const rows = computed(() =>
  workshop.asset!.document.parts.flatMap((part) =>
    part.standIns.map((shape) => ({ part: part.name, shape })),
  ),
);
function again(part: string, shape: PartStandIn, change: object) {
  void workshop.run("reduce/stand-in", {
    faces: [`${part}:${shape.faces}`],
    mesh: "source",
    shape: shape.shape,
    sides: shape.sides,
    rings: shape.rings,
    capped: shape.capped,
    each: shape.each,
    ...change,
  });
}
/** Sides that were typed and not yet made, by the key of their row. */
const typed = reactive<Record<string, number | null>>({});
const keyOf = (part: string, shape: PartStandIn) => `${part}:${shape.faces}`;
function makeTyped(part: string, shape: PartStandIn) {
  const sides = typed[keyOf(part, shape)];
  delete typed[keyOf(part, shape)];
  if (sides && sides !== shape.sides) again(part, shape, { sides });
}
const round = ({ made }: PartStandIn) => /prism|turned|tube/.test(made);
</script>

<template>
  <div v-if="rows.length" class="shapes">
    <h3>Shapes in place</h3>
    <ul>
      <li v-for="{ part, shape } in rows" :key="part + shape.faces">
        <button class="link-action" @click="view.selected = [part]">
          {{ part }}
        </button>
        <span class="what"
          >{{ shape.made }}
          <span class="mono muted"
            >{{ spaced(shape.triangles) }} tri · {{ length(shape.max) }} off at
            worst</span
          ></span
        >
        <label class="sides">
          <NumberField
            v-if="round(shape)"
            :id="`sides-${keyOf(part, shape)}`"
            :value="typed[keyOf(part, shape)] ?? shape.sides"
            integer
            :min="3"
            :max="64"
            :disabled="workshop.locked"
            :label="`Sides of the shape in ${part}`"
            @take="typed[keyOf(part, shape)] = $event"
            @refuse="delete typed[keyOf(part, shape)]"
            @keydown.enter="makeTyped(part, shape)"
            @focusout="makeTyped(part, shape)"
          />
          <template v-if="round(shape)">sides</template>
        </label>
        <button
          class="link-action"
          :disabled="workshop.locked"
          @click="again(part, shape, { shape: 'none' })"
        >
          Drop
        </button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
h3 {
  margin: 8px 0 2px;
  font-size: 13px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 6px;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto;
  gap: 2px 8px;
  align-items: center;
  justify-items: start;
}
.what {
  grid-column: 1 / -1;
  grid-row: 2;
}
.what .mono {
  white-space: nowrap;
}
.sides {
  display: flex;
  align-items: center;
  gap: 6px;
}
.sides :deep(.number) {
  width: 84px;
}
</style>
