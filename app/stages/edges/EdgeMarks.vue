<script setup lang="ts">
import Button from "primevue/button";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** Hard and smooth by selection: edges are chosen by a click on the game mesh. */
const view = useView();
const workshop = useWorkshop();
async function mark(to: "hard" | "smooth") {
  const edges = [...view.edges];
  await workshop.run("edges/mark", { edges, to });
  view.edges = [];
  view.hard = true;
}
</script>

<template>
  <section>
    <h2>By hand</h2>
    <p class="muted">
      {{
        view.edges.length
          ? `${view.edges.length} edges chosen`
          : "Click edges of the game mesh on the table; Alt-click chooses parts."
      }}
    </p>
    <div class="pair">
      <Button
        severity="secondary"
        outlined
        label="Make hard"
        :disabled="!view.edges.length || workshop.locked"
        @click="mark('hard')"
      />
      <Button
        severity="secondary"
        outlined
        label="Make smooth"
        :disabled="!view.edges.length || workshop.locked"
        @click="mark('smooth')"
      />
    </div>
  </section>
</template>

<style scoped>
p {
  margin: 2px 0 8px;
  font-size: 12.5px;
}
.pair {
  display: flex;
  gap: 8px;
}
</style>
