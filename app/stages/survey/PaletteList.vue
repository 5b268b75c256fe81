<script setup lang="ts">
import OperationForm from "../../components/OperationForm.vue";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** Gives IDs, and lists their colours to be renamed and recoloured. */
const view = useView();
const workshop = useWorkshop();
const operation = computed(() =>
  workshop.operations.find((each) => each.id === "survey/paint-ids"),
);
const palette = computed(() => workshop.asset!.document.palette);
const MOST_LISTED = 40;
async function give(options: Record<string, unknown>) {
  await workshop.run("survey/paint-ids", options);
  if (!workshop.error) view.overlay = "ids";
}
const edit = (entry: string, change: { name?: string; colour?: string }) =>
  workshop.run("survey/palette", { entry, ...change });
</script>

<template>
  <section v-if="operation">
    <h2>
      IDs <small v-if="palette.length" class="mono">{{ palette.length }}</small>
    </h2>
    <OperationForm :operation="operation" @run="give" />
    <ul v-if="palette.length">
      <li v-for="each in palette.slice(0, MOST_LISTED)" :key="each.name">
        <input
          type="color"
          :value="each.colour"
          :aria-label="`colour of ${each.name}`"
          :disabled="workshop.locked"
          @change="
            edit(each.name, {
              colour: ($event.target as HTMLInputElement).value,
            })
          "
        />
        <input
          class="name"
          :value="each.name"
          :aria-label="`name of ${each.name}`"
          :disabled="workshop.locked"
          @change="
            edit(each.name, { name: ($event.target as HTMLInputElement).value })
          "
        />
        <span class="mono">{{ each.colour }}</span>
      </li>
    </ul>
    <p v-if="palette.length > MOST_LISTED" class="muted">
      and {{ palette.length - MOST_LISTED }} more
    </p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
}
small {
  color: var(--ink-3);
  font-weight: 400;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 2px;
}
li {
  display: grid;
  grid-template-columns: 26px 1fr auto;
  gap: 8px;
  align-items: center;
}
input[type="color"] {
  width: 26px;
  height: 22px;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: none;
}
.name {
  min-width: 0;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  padding: 2px 4px;
  color: var(--ink);
  font: 13px var(--sans);
}
.name:hover,
.name:focus {
  border-color: var(--line);
}
.mono {
  color: var(--ink-3);
  font-size: 12px;
}
p {
  margin: 0;
}
</style>
