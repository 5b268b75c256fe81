<script setup lang="ts">
import type { OutlinePicture } from "../../shared/messages";
import { percent } from "../../shared/figures";
import { useAnswers } from "../../stores/answers";
import { useViewEvent } from "../../stores/view-events";

/** The silhouettes that differ most, source and game mesh side by side, with what only one of them covers. */
const props = defineProps<{ views: { towards: number[]; share: number }[] }>();
const emit = defineEmits<{
  ask: [towards: number[][]];
  look: [towards: number[]];
}>();
const answers = useAnswers();
const canvases = ref<HTMLCanvasElement[]>([]);
const SHADE = [74, 82, 88];
const ONLY = { source: [31, 111, 120], game: [180, 67, 43] };

function draw() {
  answers.outlines.forEach((picture, i) => {
    const canvas = canvases.value[i];
    if (canvas) paint(canvas, picture);
  });
}
/** Left the source, right the game mesh, each with what the other lacks in colour. */
function paint(canvas: HTMLCanvasElement, picture: OutlinePicture) {
  const { size } = picture;
  canvas.width = 2 * size;
  canvas.height = size;
  const context = canvas.getContext("2d")!;
  const image = context.createImageData(2 * size, size);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const at = (size - 1 - y) * size + x;
      const [s, g] = [picture.source[at], picture.game[at]];
      // What differs is drawn a pixel wider, so that it can be seen at all.
      const [lost, won] = [
        near(picture.source, picture.game, at, size),
        near(picture.game, picture.source, at, size),
      ];
      [
        { on: s || lost, colour: lost ? ONLY.source : SHADE },
        { on: g || won, colour: won ? ONLY.game : SHADE },
      ].forEach(({ on, colour }, side) => {
        if (!on) return;
        const to = 4 * (y * 2 * size + side * size + x);
        for (let k = 0; k < 3; k++) image.data[to + k] = colour[k];
        image.data[to + 3] = 255;
      });
    }
  context.putImageData(image, 0, 0);
}
/** Whether one mask covers what the other does not, here or right beside. */
const near = (one: Uint8Array, other: Uint8Array, at: number, size: number) =>
  [0, -1, 1, -size, size].some((step) => one[at + step] > other[at + step]);
const ask = () =>
  emit(
    "ask",
    props.views.map(({ towards }) => towards),
  );
onMounted(ask);
watch(() => props.views, ask);
useViewEvent("loaded", ask);
watch(
  () => answers.outlines,
  () => void nextTick(draw),
);
</script>

<template>
  <h3>Silhouettes that differ most</h3>
  <p class="muted">
    source and game mesh; <i class="source" /> only the source
    <i class="game" /> only the game mesh
  </p>
  <ul>
    <li v-for="(each, i) in views" :key="i">
      <button
        :aria-label="`Look from view ${i + 1}`"
        @click="emit('look', each.towards)"
      >
        <canvas ref="canvases" role="img" :aria-label="`View ${i + 1}`" />
        <span
          >view {{ i + 1 }}
          <b class="mono">{{ percent(each.share, 2) }}</b></span
        >
      </button>
    </li>
  </ul>
</template>

<style scoped>
h3 {
  margin: 10px 0 2px;
  font-size: 13px;
}
p {
  margin: 0 0 4px;
}
i {
  display: inline-block;
  width: 10px;
  height: 10px;
  margin-left: 6px;
  border-radius: 2px;
}
i.source {
  background: rgb(31 111 120);
}
i.game {
  background: rgb(180 67 43);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  gap: 6px;
}
button {
  width: 100%;
  padding: 4px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: #e7e2d7;
  color: #1e2328;
  font: 12.5px/1.3 var(--sans);
  cursor: pointer;
}
button:hover {
  border-color: var(--tide);
}
canvas {
  display: block;
  max-width: 100%;
  margin: 0 auto;
}
span {
  display: flex;
  justify-content: space-between;
}
b {
  font-weight: 500;
}
</style>
