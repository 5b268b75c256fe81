<script setup lang="ts">
import Select from "primevue/select";
import type { ReferenceDocument } from "../../../core/asset/document";
import FileButton from "../../components/FileButton.vue";
import { useWorkshop } from "../../stores/workshop";

/** Reference pictures: added from files, placed, faded, taken away. They can't be picked in the view. */
const workshop = useWorkshop();
const pictures = computed(() => workshop.asset!.document.references);
const PLANES = [
  { value: "front", label: "front" },
  { value: "side", label: "side" },
  { value: "top", label: "lying" },
];
/** Where the middle of its lower edge stands, metres. */
const AXES = [
  { name: "x", label: "right" },
  { name: "y", label: "up" },
  { name: "z", label: "front" },
];
const add = (files: File[]) => workshop.send("intake/add-reference", files, {});
const edit = (picture: ReferenceDocument, change: object) =>
  workshop.run("intake/edit-reference", {
    picture: picture.name,
    plane: picture.plane,
    size: picture.size,
    x: picture.at[0],
    y: picture.at[1],
    z: picture.at[2],
    opacity: picture.opacity,
    ...change,
  });
const number = (event: Event) =>
  Number((event.target as HTMLInputElement).value);
</script>

<template>
  <section>
    <div class="head">
      <h2>Reference pictures</h2>
      <FileButton
        label="Add…"
        field="Reference pictures"
        accept=".png,.jpg,.jpeg"
        multiple
        small
        :disabled="workshop.locked"
        @files="add"
      />
    </div>
    <ul v-if="pictures.length">
      <li v-for="picture in pictures" :key="picture.name">
        <span class="name">{{ picture.name }}</span>
        <button
          class="link-action"
          :disabled="workshop.locked"
          @click="edit(picture, { remove: true })"
        >
          Remove
        </button>
        <Select
          :model-value="picture.plane"
          :options="PLANES"
          option-label="label"
          option-value="value"
          :aria-label="`plane of ${picture.name}`"
          @update:model-value="edit(picture, { plane: $event })"
        />
        <label
          >height
          <input
            type="number"
            min="0.01"
            step="0.01"
            :value="picture.size.toFixed(3)"
            @change="edit(picture, { size: number($event) })"
          />
          m</label
        >
        <span class="place">
          <label v-for="(axis, k) in AXES" :key="axis.name"
            >{{ axis.label }}
            <input
              type="number"
              step="0.01"
              :value="Number(picture.at[k].toFixed(3))"
              :aria-label="`${axis.label} of ${picture.name}, m`"
              @change="edit(picture, { [axis.name]: number($event) })"
            />
          </label>
          m
        </span>
        <label class="fade"
          >opacity
          <input
            type="range"
            min="0"
            max="1"
            step="0.05"
            :value="picture.opacity"
            :aria-label="`opacity of ${picture.name}`"
            @change="edit(picture, { opacity: number($event) })"
        /></label>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  display: grid;
  gap: 10px;
}
li {
  display: grid;
  grid-template-columns: 110px 1fr;
  gap: 4px 8px;
  align-items: center;
}
li .link-action {
  justify-self: end;
}
.name {
  overflow-wrap: anywhere;
}
label {
  display: flex;
  gap: 6px;
  align-items: center;
  justify-content: flex-end;
  font-size: 12.5px;
}
.place,
.fade {
  grid-column: 1 / -1;
}
.place {
  display: flex;
  gap: 6px;
  align-items: center;
  justify-content: space-between;
  font-size: 12.5px;
}
.place label {
  gap: 4px;
}
/* Without the arrows, whose width the digits need. */
.place input[type="number"] {
  width: 56px;
  padding-inline: 4px;
  appearance: textfield;
}
.place input::-webkit-inner-spin-button {
  display: none;
}
.fade input {
  flex: 1;
  min-width: 0;
  accent-color: var(--tide);
}
input[type="number"] {
  width: 74px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--paper);
  color: var(--ink);
  padding: 3px 6px;
  font: 12.5px var(--mono);
}
</style>
