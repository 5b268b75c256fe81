<script setup lang="ts">
import Button from "primevue/button";
import { counted, spaced } from "../../shared/figures";
import { useAnswers } from "../../stores/answers";
import PointerLight from "../../components/PointerLight.vue";
import { useView } from "../../stores/view";
import { useWorkshop } from "../../stores/workshop";

/** Hard and smooth by selection, and what splits cost, counted on the meshes as they are. */
const emit = defineEmits<{
  look: [at: [number, number, number], radius: number];
}>();
const view = useView();
const answers = useAnswers();
const workshop = useWorkshop();
const faces = computed(() => view.facesOf === "game" && view.chosen.faces > 0);
const ready = computed(
  () => (view.edges.length > 0 || faces.value) && !workshop.locked,
);
const limit = computed(() => workshop.asset!.document.brief.vertices);
const laid = computed(() =>
  workshop.asset!.document.parts.some((part) => part.game?.streams.uvs),
);
const at = ref(-1);
async function mark(to: "hard" | "smooth") {
  await workshop.run("edges/mark", {
    edges: [...view.edges],
    ...(view.edges.length ? {} : { faces: [...view.faceList], mesh: "game" }),
    to,
  });
  view.edges = [];
  view.hard = true;
}
function look() {
  const places = answers.facts?.breaches.flatMap((each) => each.places) ?? [];
  if (!places.length) return;
  at.value = (at.value + 1) % places.length;
  view.show = "game";
  view.hard = true;
  emit("look", places[at.value].at, places[at.value].radius);
}
</script>

<template>
  <section>
    <h2>By hand</h2>
    <p class="muted">
      {{
        view.edges.length
          ? `${counted(view.edges.length, "edge")} chosen`
          : faces
            ? `hard round, smooth within ${counted(view.chosen.faces, "chosen face")}`
            : "Click edges of the game mesh on the table, or choose loops or faces; Alt-click chooses parts."
      }}
    </p>
    <div class="pair">
      <Button
        severity="secondary"
        outlined
        label="Make hard"
        :disabled="!ready"
        @click="mark('hard')"
      />
      <Button
        severity="secondary"
        outlined
        label="Make smooth"
        :disabled="!ready"
        @click="mark('smooth')"
      />
    </div>
    <PointerLight />
  </section>
  <section v-if="answers.facts" class="cost">
    <h2>What splits cost</h2>
    <dl>
      <dt>Places</dt>
      <dd class="mono">{{ spaced(answers.facts.places) }}</dd>
      <dt>Vertices for an engine</dt>
      <dd class="mono" :class="{ bad: limit && answers.facts.split > limit }">
        {{ spaced(answers.facts.split)
        }}<small v-if="limit"> ≤ {{ spaced(limit) }}</small>
      </dd>
      <dt>Hard edges · seams</dt>
      <dd class="mono">
        {{ spaced(answers.facts.hard) }} · {{ spaced(answers.facts.seams) }}
      </dd>
    </dl>
    <ul v-if="laid">
      <li v-if="answers.facts.unsplit" class="bad-row">
        <button class="text" @click="look">
          {{ counted(answers.facts.unsplit, "hard edge") }} without a UV split;
          a bake shows a gradient there
        </button>
        <button
          class="link-action"
          :disabled="workshop.locked"
          @click="workshop.run('unwrap/split-at', {})"
        >
          Split
        </button>
        <button
          class="link-action"
          :disabled="workshop.locked"
          @click="workshop.run('edges/smooth-unsplit', {})"
        >
          Smooth
        </button>
      </li>
      <li v-else class="muted">Every hard edge is a UV split.</li>
      <li v-if="answers.facts.softSeams" class="note-row">
        <span>
          {{ counted(answers.facts.softSeams, "seam edge") }} lie on smooth
          ground; where one shows and can't be moved, hardening it hides it
        </span>
        <button
          class="link-action"
          :disabled="workshop.locked"
          @click="workshop.run('edges/harden-seams', {})"
        >
          Harden
        </button>
      </li>
    </ul>
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
dl {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 3px 12px;
  margin: 6px 0;
}
dd {
  margin: 0;
  text-align: right;
}
.bad {
  color: var(--rust);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 4px;
}
li {
  display: flex;
  gap: 8px;
  align-items: center;
}
.bad-row,
.note-row {
  border-left: 4px solid var(--rust);
  padding-left: 8px;
  border-radius: 2px;
}
.note-row {
  border-color: var(--line);
}
.note-row span {
  flex: 1;
}
.text {
  flex: 1;
  border: 0;
  background: none;
  padding: 0;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}
</style>
