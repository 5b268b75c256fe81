<script setup lang="ts">
import { spaced } from "./figures";
import type { FromView, ToView, ViewState } from "../view/messages";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

/** The 3D view and the sheet: hands input to the worker that draws, and shows what it says. */
const view = useView();
const workshop = useWorkshop();
const holder = ref<HTMLDivElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
const loading = ref<{ done: number; total: number; what: string } | null>({
  done: 0,
  total: 1,
  what: "",
});
const failed = ref("");
const SHEET_SHARE = 0.44;
let worker: Worker | null = null;
let observer: ResizeObserver | null = null;
let drag: {
  x: number;
  y: number;
  pan: boolean;
  moved: boolean;
  over: "table" | "sheet";
} | null = null;

const document = computed(() => workshop.asset!.document);
const sheetShare = computed(() =>
  view.sheet && hasUvs.value ? SHEET_SHARE : 0,
);
const hasUvs = computed(() =>
  document.value.parts.some((part) => part.game?.streams.uvs),
);
const hasGame = computed(() => document.value.parts.some((part) => part.game));
const hasSource = computed(() =>
  document.value.parts.some((part) => part.source),
);
const comparing = computed(
  () => view.show === "compare" && hasGame.value && hasSource.value,
);
const total = (which: "source" | "game") =>
  document.value.parts.reduce(
    (sum, part) => sum + (part[which]?.triangles ?? 0),
    0,
  );
const picksEdges = computed(() => view.stage === "edges" && hasGame.value);
const post = (message: ToView) => worker?.postMessage(message);
const plain = <T,>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

const state = computed((): ViewState => ({
  show: view.show,
  divider: view.divider,
  sheetShare: sheetShare.value,
  sheetShows: view.sheetShows,
  wire: view.wire,
  seams: view.seams,
  hard: view.hard,
  checker: view.checker,
  hulls: view.hulls,
  light: view.light,
  dark: view.dark,
  selected: view.selected,
  hidden: view.hidden,
  edges: view.edges,
}));

onMounted(() => {
  worker = new Worker(new URL("../view/table.worker.ts", import.meta.url), {
    type: "module",
  });
  worker.onmessage = (event: MessageEvent<FromView>) => hear(event.data);
  worker.onerror = () =>
    (failed.value =
      "the view could not start: this browser lacks WebGL 2 in workers");
  const surface = canvas.value!.transferControlToOffscreen();
  worker.postMessage({ kind: "start", canvas: surface } satisfies ToView, [
    surface,
  ]);
  observer = new ResizeObserver(resize);
  observer.observe(holder.value!);
  resize();
  post({ kind: "camera", camera: view.camera ? plain(view.camera) : null });
  post({ kind: "state", state: plain(state.value) });
  post({ kind: "document", document: plain(document.value) });
});
onBeforeUnmount(() => {
  observer?.disconnect();
  worker?.terminate();
});
watch(state, (value) => post({ kind: "state", state: plain(value) }), {
  deep: true,
});
watch(
  () => workshop.asset?.revision,
  () => {
    if (workshop.asset)
      post({ kind: "document", document: plain(document.value) });
  },
);

function resize() {
  const box = holder.value!.getBoundingClientRect();
  post({
    kind: "size",
    width: Math.round(box.width),
    height: Math.round(box.height),
    ratio: Math.min(2, window.devicePixelRatio),
  });
}

function hear(message: FromView) {
  if (message.kind === "loading") loading.value = message;
  else if (message.kind === "ready") loading.value = null;
  else if (message.kind === "failed") failed.value = message.message;
  else if (message.kind === "camera") view.camera = message.camera;
  else if (message.kind === "picked") {
    if (message.part) view.toggleSelected(message.part, message.add);
    else if (!message.add) view.selected = [];
  } else if (message.edge) {
    const { edge } = message;
    view.edges = view.edges.includes(edge)
      ? view.edges.filter((each) => each !== edge)
      : [...view.edges, edge];
  }
}

function place(event: PointerEvent | WheelEvent) {
  const box = holder.value!.getBoundingClientRect();
  const x = event.clientX - box.left;
  const y = event.clientY - box.top;
  return {
    x,
    y,
    over:
      x > box.width * (1 - sheetShare.value)
        ? ("sheet" as const)
        : ("table" as const),
  };
}
function down(event: PointerEvent) {
  const at = place(event);
  drag = { ...at, pan: event.shiftKey || event.button !== 0, moved: false };
  (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
}
function move(event: PointerEvent) {
  if (!drag) return;
  const at = place(event);
  const x = at.x - drag.x;
  const y = at.y - drag.y;
  if (!drag.moved && Math.hypot(x, y) < 4) return;
  post({
    kind: "move",
    how: drag.pan || drag.over === "sheet" ? "pan" : "orbit",
    x,
    y,
    over: drag.over,
  });
  drag = { ...drag, x: at.x, y: at.y, moved: true };
}
function up(event: PointerEvent) {
  if (drag && !drag.moved) {
    const at = place(event);
    const edge = picksEdges.value && at.over === "table" && !event.altKey;
    post({
      kind: "pick",
      x: at.x,
      y: at.y,
      what: edge ? "edge" : "part",
      add: event.shiftKey || event.ctrlKey,
    });
  }
  drag = null;
}
function wheel(event: WheelEvent) {
  post({
    kind: "move",
    how: "zoom",
    x: 0,
    y: event.deltaY,
    over: place(event).over,
  });
}
function keys(event: KeyboardEvent) {
  const turns: Record<string, [number, number]> = {
    ArrowLeft: [-24, 0],
    ArrowRight: [24, 0],
    ArrowUp: [0, -24],
    ArrowDown: [0, 24],
  };
  const turn = turns[event.key];
  if (turn)
    post({
      kind: "move",
      how: event.shiftKey ? "pan" : "orbit",
      x: turn[0],
      y: turn[1],
      over: "table",
    });
  else if (event.key === "+" || event.key === "-")
    post({
      kind: "move",
      how: "zoom",
      x: 0,
      y: event.key === "+" ? -150 : 150,
      over: "table",
    });
  else return;
  event.preventDefault();
}
const frame = () =>
  post({ kind: "move", how: "frame", x: 0, y: 0, over: "table" });
defineExpose({ frame });

function dragDivider(event: PointerEvent) {
  const box = holder.value!.getBoundingClientRect();
  const width = box.width * (1 - sheetShare.value);
  const follow = (to: PointerEvent) =>
    (view.divider = Math.min(1, Math.max(0, (to.clientX - box.left) / width)));
  const end = () => {
    window.removeEventListener("pointermove", follow);
    window.removeEventListener("pointerup", end);
  };
  window.addEventListener("pointermove", follow);
  window.addEventListener("pointerup", end);
  event.preventDefault();
}
function nudge(event: KeyboardEvent) {
  const way =
    event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
  if (!way) return;
  view.divider = Math.min(1, Math.max(0, view.divider + way * 0.02));
  event.preventDefault();
  event.stopPropagation();
}
const shows = computed(() => [
  {
    value: "compare" as const,
    label: "compare",
    usable: hasGame.value && hasSource.value,
  },
  { value: "source" as const, label: "source", usable: hasSource.value },
  { value: "game" as const, label: "game", usable: hasGame.value },
  { value: "baked" as const, label: "baked", usable: hasGame.value },
]);
const switches = computed(() => [
  { name: "wire" as const, label: "wire", usable: hasGame.value },
  { name: "seams" as const, label: "seams", usable: hasUvs.value },
  { name: "hard" as const, label: "hard edges", usable: hasGame.value },
  { name: "checker" as const, label: "checker", usable: hasUvs.value },
  {
    name: "hulls" as const,
    label: "hulls",
    usable: document.value.parts.some((part) => part.hulls.length),
  },
  { name: "sheet" as const, label: "sheet", usable: hasUvs.value },
]);
const sheetModes = computed(() => [
  { value: "islands" as const, label: "islands", usable: true },
  { value: "checker" as const, label: "checker", usable: true },
  {
    value: "normal" as const,
    label: "normal map",
    usable: document.value.maps.some((map) => map.kind === "normal"),
  },
  {
    value: "ao" as const,
    label: "occlusion",
    usable: document.value.maps.some((map) => map.kind === "ao"),
  },
]);
const effective = computed(() =>
  hasGame.value
    ? view.show === "compare" && !hasSource.value
      ? "game"
      : view.show
    : "source",
);
</script>

<template>
  <main
    ref="holder"
    class="table"
    tabindex="0"
    aria-label="Table: arrow keys turn the view"
    @keydown="keys"
  >
    <canvas
      ref="canvas"
      data-test="view"
      :data-ready="loading === null"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @wheel.prevent="wheel"
      @contextmenu.prevent
    />
    <div class="table-part" :style="{ width: `${100 * (1 - sheetShare)}%` }">
      <template v-if="hasSource || hasGame">
        <span v-if="comparing || effective === 'source'" class="tag left"
          >source · <b class="mono">{{ spaced(total("source")) }}</b></span
        >
        <span v-if="comparing || effective !== 'source'" class="tag right"
          >{{ effective === "baked" ? "baked" : "game" }} ·
          <b class="mono">{{ spaced(total("game")) }}</b></span
        >
      </template>
      <div
        v-if="comparing"
        class="divider"
        role="slider"
        tabindex="0"
        aria-label="Divider between source and game mesh"
        :aria-valuenow="Math.round(100 * view.divider)"
        aria-valuemin="0"
        aria-valuemax="100"
        :style="{ left: `${100 * view.divider}%` }"
        @pointerdown="dragDivider"
        @keydown="nudge"
      >
        <i class="pi pi-arrows-h" />
      </div>
      <p v-if="!hasSource && !hasGame" class="blank">
        Drop OBJ, PLY, STL, GLB or glTF files anywhere on this page,<br />or
        choose them on the bench at the right.
      </p>
      <div
        v-if="hasSource || hasGame"
        class="switches"
        role="toolbar"
        aria-label="What the table shows"
      >
        <span class="group">
          <button
            v-for="each in shows"
            :key="each.value"
            :class="{ on: effective === each.value }"
            :aria-pressed="effective === each.value"
            :disabled="!each.usable"
            @click="view.show = each.value"
          >
            {{ each.label }}
          </button>
        </span>
        <span class="group">
          <button
            v-for="each in switches"
            :key="each.name"
            :class="{ on: view[each.name] && each.usable }"
            :aria-pressed="view[each.name] && each.usable"
            :disabled="!each.usable"
            @click="view[each.name] = !view[each.name]"
          >
            {{ each.label }}
          </button>
        </span>
      </div>
      <p v-if="picksEdges && view.edges.length" class="legend">
        <i class="line chosen" /> {{ view.edges.length }} chosen
      </p>
      <p v-else-if="view.seams || view.hard || view.hulls" class="legend">
        <template v-if="view.seams && hasUvs"
          ><i class="stitch" /> seam</template
        >
        <template v-if="view.hard"><i class="line hard" /> hard</template>
        <template v-if="view.hulls"><i class="box" /> hull</template>
      </p>
    </div>
    <div
      v-if="sheetShare"
      class="sheet-part"
      :style="{ width: `${100 * sheetShare}%` }"
    >
      <span class="tag left mono"
        >sheet 1001 · {{ document.brief.sheetSize }} px · padding
        {{ document.brief.padding }} px</span
      >
      <div class="switches" role="toolbar" aria-label="What the sheet shows">
        <span class="group">
          <button
            v-for="each in sheetModes"
            :key="each.value"
            :class="{ on: view.sheetShows === each.value }"
            :aria-pressed="view.sheetShows === each.value"
            :disabled="!each.usable"
            @click="view.sheetShows = each.value"
          >
            {{ each.label }}
          </button>
        </span>
      </div>
    </div>
    <p v-if="loading && (hasSource || hasGame)" class="loading" role="status">
      laying out {{ loading.what }}
      <span class="mono">{{ loading.done }} of {{ loading.total }}</span>
    </p>
    <p v-if="failed" class="loading bad" role="alert">{{ failed }}</p>
  </main>
</template>

<style scoped>
.table {
  position: relative;
  overflow: hidden;
  background: var(--fog);
  outline-offset: -2px;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  display: block;
  touch-action: none;
}
.table-part,
.sheet-part {
  position: absolute;
  top: 0;
  bottom: 0;
  pointer-events: none;
}
.table-part {
  left: 0;
}
.sheet-part {
  right: 0;
  border-left: 1px solid var(--line);
}
.tag {
  position: absolute;
  top: 10px;
  padding: 2px 8px;
  background: color-mix(in srgb, var(--paper) 88%, transparent);
  border-radius: 3px;
  font-size: 12px;
}
.tag.left {
  left: 10px;
}
.tag.right {
  right: 10px;
}
.tag b {
  font-weight: 500;
}
.divider {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 24px;
  margin-left: -12px;
  cursor: ew-resize;
  pointer-events: auto;
  display: grid;
  place-items: center;
}
.divider::before {
  content: "";
  position: absolute;
  left: 11px;
  top: 0;
  bottom: 0;
  width: 2px;
  background: #1e2328;
}
.divider i {
  position: relative;
  width: 26px;
  height: 26px;
  border-radius: 50%;
  background: #fbfaf7;
  color: #1e2328;
  border: 1px solid #1e2328;
  display: grid;
  place-items: center;
  font-size: 13px;
}
.switches {
  position: absolute;
  left: 10px;
  right: 10px;
  bottom: 10px;
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  justify-content: center;
}
.group {
  display: flex;
  background: color-mix(in srgb, var(--paper) 92%, transparent);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 2px;
  pointer-events: auto;
}
.group button {
  border: 0;
  background: none;
  padding: 2px 8px;
  border-radius: 2px;
  color: var(--ink-2);
  font: 12.5px var(--sans);
  cursor: pointer;
  white-space: nowrap;
}
.group button:hover:not(:disabled) {
  background: var(--ground);
}
.group button.on {
  background: var(--tide-wash);
  color: var(--tide);
  font-weight: 600;
}
.dark .group button.on {
  color: var(--ink);
}
.group button:disabled {
  color: var(--line);
  cursor: default;
}
.legend {
  position: absolute;
  left: 10px;
  top: 36px;
  margin: 0;
  display: flex;
  gap: 6px;
  align-items: center;
  padding: 2px 8px;
  background: color-mix(in srgb, var(--paper) 88%, transparent);
  border-radius: 3px;
  font-size: 12px;
}
.legend i.line {
  width: 18px;
  height: 2px;
}
.legend .hard {
  background: #34489a;
}
.legend .chosen {
  background: var(--raspberry);
}
.legend .stitch {
  width: 18px;
  height: 8px;
  background:
    linear-gradient(#2a2f36, #2a2f36) 0 50% / 100% 1px no-repeat,
    repeating-linear-gradient(90deg, #2a2f36 0 1px, transparent 1px 4px);
}
.legend .box {
  width: 10px;
  height: 10px;
  border: 1px solid var(--kelp);
  background: color-mix(in srgb, var(--kelp) 25%, transparent);
}
.blank {
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  margin: 0;
  text-align: center;
  color: #3c4449;
  font-size: 14px;
  align-content: center;
}
.dark .blank {
  color: var(--ink);
}
.loading {
  position: absolute;
  left: 50%;
  top: 44px;
  transform: translateX(-50%);
  margin: 0;
  padding: 4px 12px;
  background: var(--paper);
  border: 1px solid var(--line);
  border-radius: 3px;
}
.bad {
  color: var(--rust);
}
</style>
