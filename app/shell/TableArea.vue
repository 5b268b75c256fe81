<script setup lang="ts">
import type { Landing } from "../shared/view-types";
import { percent, spaced } from "../shared/figures";
import TableLegend from "./TableLegend.vue";
import TableSwitches from "./TableSwitches.vue";
import TableTools from "./TableTools.vue";
import ChosenWords from "./ChosenWords.vue";
import SheetDivider from "./SheetDivider.vue";
import { hasTools as toolsAt } from "../shared/tools";
import type { AssetDocument } from "../../core/asset/document";
import { layoutOf } from "../shared/layout";
import type { Rect } from "../shared/layout";
import type { FromView, ToView, ViewState } from "../shared/messages";
import { farthest, switchPoints } from "../stages/reduce/figures";
import { sheetState, udims } from "../stages/unwrap/figures";
import { useSetSeams } from "../stages/unwrap/set-seams";
import { followPointer } from "../shared/drag";
import { useTableInput } from "./table-input";
import { useView } from "../stores/view";
import { call } from "../stores/api";
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
/** Edge of the silhouettes shown side by side, px. */
const OUTLINE = 132;
let worker: Worker | null = null;
let observer: ResizeObserver | null = null;
let pictured: ((png: ArrayBuffer) => void) | null = null;
const document = computed(() => workshop.asset!.document);
const some = (is: (part: (typeof document.value.parts)[number]) => unknown) =>
  document.value.parts.some((part) => is(part));
const size = ref({ width: 1, height: 1 });
const sharing = computed(() => ({
  share:
    view.sheet && some((part) => part.game?.streams.uvs) ? view.sheetShare : 0,
  turned: view.sheetTurned,
  first: view.sheetFirst,
}));
const layout = computed(() =>
  layoutOf(size.value.width, size.value.height, sharing.value),
);
const inPixels = ({ left, top, width, height }: Rect) => ({
  left: `${left}px`,
  top: `${top}px`,
  width: `${width}px`,
  height: `${height}px`,
});
/** What lies over the edges of table and sheet; the model and the sheet are framed into what is left. */
const edges = {
  upper: ref<HTMLElement | null>(null),
  lower: ref<HTMLElement | null>(null),
  sheetUpper: ref<HTMLElement | null>(null),
  sheetLower: ref<HTMLElement | null>(null),
};
const { upper, lower, sheetUpper, sheetLower } = edges;
const covered = ref({ upper: 0, lower: 0, sheetUpper: 0, sheetLower: 0 });
const hasGame = computed(() => some((part) => part.game));
const hasSource = computed(() => some((part) => part.source));
const comparing = computed(() =>
  view.show === "revisions"
    ? view.other !== null
    : trying.value ||
      (view.show === "compare" && hasGame.value && hasSource.value),
);
const divided = computed(
  () =>
    comparing.value &&
    (trying.value || view.show === "revisions" || view.compareBy === "divider"),
);
const total = (which: "source" | "game") =>
  document.value.parts.reduce(
    (sum, part) => sum + (part[which]?.triangles ?? 0),
    0,
  );
const picksEdges = computed(
  () =>
    ["edges", "unwrap"].includes(view.stage) &&
    hasGame.value &&
    view.tool === "part",
);
const dragsIslands = computed(() => view.stage === "unwrap");
const hasTools = computed(
  () => toolsAt(view.stage) && (hasSource.value || hasGame.value),
);
const reducing = computed(() => view.stage === "reduce");
const trying = computed(
  () => reducing.value && Object.keys(view.without).length > 0,
);
const tiles = computed(() => udims(document.value));
const lightened = computed(() => some((part) => part.light));
const post = (message: ToView) => worker?.postMessage(message);
const plain = <T,>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

const state = computed((): ViewState => ({
  show: view.show,
  divider: view.divider,
  sharing: sharing.value,
  covered: { above: covered.value.upper, below: covered.value.lower },
  sheetCovered: {
    above: covered.value.sheetUpper,
    below: covered.value.sheetLower,
  },
  sheetShows: view.sheetShows,
  ...sheetState(document.value),
  triesSeams: view.stage === "unwrap",
  pointerLight: view.pointerLight,
  wire: view.wire,
  seams: view.seams,
  hard: view.hard,
  checker: view.checker,
  hulls: view.hulls,
  overlay: view.overlay,
  threshold: view.threshold / 100,
  normals: view.normals,
  figure: view.figure,
  references: view.references,
  subdivide: view.stage === "survey" ? view.subdivide : 0,
  triedSources: view.stage === "survey" && view.triedSources,
  facesOf: view.facesOf,
  faces: view.faces,
  facesSet: view.facesSet,
  place: view.stage === "survey" ? view.place : null,
  light: view.light,
  dark: view.dark,
  selected: view.selected,
  hidden: view.hidden,
  edges: view.edges,
  palette: document.value.palette,
  compareBy: view.compareBy,
  gameSize: view.stage === "reduce" ? view.gameSize : 0,
  previewBudget: reducing.value ? view.previewBudget : 0,
  previewOwn: reducing.value ? view.previewOwn : {},
  thin: reducing.value ? view.thin : null,
  without: reducing.value ? view.without : {},
  level: view.level,
  switchPoints: switchPoints(document.value),
  farthest: farthest(document.value),
}));

onMounted(() => {
  worker = new Worker(new URL("../view/table.worker.ts", import.meta.url), {
    type: "module",
  });
  worker.onmessage = (event: MessageEvent<FromView>) => receive(event.data);
  worker.onerror = () =>
    (failed.value =
      "the view could not start: this browser lacks WebGL 2 in workers");
  const surface = canvas.value!.transferControlToOffscreen();
  worker.postMessage({ kind: "start", canvas: surface } satisfies ToView, [
    surface,
  ]);
  observer = new ResizeObserver(resize);
  observer.observe(holder.value!);
  for (const each of Object.values(edges))
    watch(
      each,
      (now, before) => {
        if (before) observer?.unobserve(before);
        if (now) observer?.observe(now);
        resize();
      },
      { immediate: true, flush: "post" },
    );
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
  () => view.turned,
  () => post({ kind: "camera", camera: plain(view.camera) }),
);
watch(
  () => workshop.asset?.revision,
  () => {
    if (!workshop.asset) return;
    view.place = null;
    view.edges = [];
    offSheet.value = null;
    view.forgetTrials();
    post({ kind: "document", document: plain(document.value) });
  },
);

/** Another revision at a side of the divider, whenever one is wanted there. */
for (const [side, wanted] of [
  ["left", () => view.other?.revision],
  ["right", () => view.against?.revision],
] as const)
  watch(
    wanted,
    async (revision) => {
      let document: AssetDocument | null = null;
      if (revision !== undefined)
        try {
          ({ document } = await call<{ document: AssetDocument }>(
            "GET",
            `assets/${workshop.asset!.id}/revisions/${revision}`,
          ));
        } catch (error) {
          workshop.fail(error);
          view.stopComparing();
        }
      if (wanted() === revision)
        post({ kind: "other", side, document: document && plain(document) });
    },
    { immediate: true, flush: "post" },
  );

function resize() {
  if (!holder.value) return;
  const bounds = holder.value.getBoundingClientRect();
  const [width, height] = [bounds.width, bounds.height].map(Math.round);
  const high = (each: HTMLElement | null) => each?.offsetHeight ?? 0;
  covered.value = {
    upper: high(upper.value),
    lower: high(lower.value),
    sheetUpper: high(sheetUpper.value),
    sheetLower: high(sheetLower.value),
  };
  if (size.value.width === width && size.value.height === height) return;
  size.value = { width, height };
  post({
    kind: "size",
    width,
    height,
    ratio: Math.min(2, window.devicePixelRatio),
  });
}

function receive(message: FromView) {
  switch (message.kind) {
    case "loading":
      loading.value = message;
      return;
    case "ready":
      loading.value = null;
      view.loaded++;
      return;
    case "failed":
      failed.value = message.message;
      return;
    case "camera":
      view.camera = message.camera;
      return;
    case "picked":
      if (message.part) view.toggleSelected(message.part, message.add);
      else if (!message.add) view.selected = [];
      return;
    case "edge":
      if (message.edge) toggleEdge(message.edge);
      return;
    case "edges":
      view.edges = message.edges;
      return;
    case "faces":
      view.hearFaces(message.faces, message.of, message.figures);
      return;
    case "preview":
      view.preview = message;
      return;
    case "facts":
      view.facts = message.facts;
      return;
    case "trace":
      view.trace = message.points || message.edges.length ? message : null;
      view.traceRefused = message.refused;
      if (!view.trace) view.tried = null;
      return;
    case "held":
      holdDot(message.point);
      return;
    case "tried":
      view.tried = message;
      return;
    case "dragged":
      if (message.landing.off) offSheet.value = message;
      else moveIslands(message);
      return;
    case "unseen":
      view.unseen = message;
      return;
    case "settled":
      paintDensity(message.faces, message.of);
      return;
    case "outlines":
      view.outlines = message.pictures;
      return;
    case "picture":
      pictured?.(message.png);
      pictured = null;
  }
}

/** Islands that were let go off the sheet: they wait for a word. */
const offSheet = ref<{ x: number; y: number; landing: Landing } | null>(null);
const offWords = computed(() => {
  const landing = offSheet.value?.landing;
  const fill = Number(document.value.results.unwrap?.report.fill ?? 0);
  if (!landing) return "";
  const { tilesBefore, tilesAfter } = landing;
  const falls =
    fill && tilesAfter > tilesBefore
      ? `, and fill would fall from ${percent(fill, 0)} to about ${percent((fill * tilesBefore) / tilesAfter, 0)}`
      : "";
  return `That is off the sheet: nothing would be baked there${falls}.`;
});
function moveIslands({ x, y }: { x: number; y: number }) {
  offSheet.value = null;
  void workshop.run("unwrap/move", {
    faces: [...view.faceList],
    mesh: "game",
    x,
    y,
  });
}

function toggleEdge(edge: string) {
  if (view.facesOf !== "game") view.choose({}, "game");
  view.edges = view.edges.includes(edge)
    ? view.edges.filter((each) => each !== edge)
    : [...view.edges, edge];
}

const { box, down, move, up, wheel, turnAbout, keys, holdDot } = useTableInput({
  holder,
  layout,
  hasTools,
  picksEdges,
  dragsIslands,
  post,
  strokeDone: () => {
    if (view.tool === "paint" && view.density) post({ kind: "settle" });
  },
});

const seams = useSetSeams(() =>
  post({ kind: "trace", what: "clear", x: 0, y: 0 }),
);
function onKey(event: KeyboardEvent) {
  if (view.stage === "unwrap" && event.key === "Enter" && view.trace)
    void seams.wish("seam");
  else keys(event);
}
watch(
  () => [view.tool, view.stage, view.cleared],
  () => post({ kind: "trace", what: "clear", x: 0, y: 0 }),
);

/** Strokes of the density brush that wait until the one before them is density. */
const strokes: object[] = [];
function paintDensity(faces: Record<string, string>, of: "source" | "game") {
  const { density } = view;
  view.clearFaces();
  const list = Object.entries(faces).map(([part, own]) => `${part}:${own}`);
  if (!density || !list.length) return;
  strokes.push({ ...density, faces: list, mesh: of });
  void nextStroke();
}
async function nextStroke() {
  while (strokes.length && !workshop.locked)
    await workshop.run("reduce/paint-density", strokes.shift()!);
}
watch(
  () => workshop.locked,
  (locked) => {
    if (!locked) void nextStroke();
  },
);
defineExpose({
  frame: () => post({ kind: "move", how: "frame", x: 0, y: 0, over: "table" }),
  askOutlines: (towards: number[][]) =>
    post({ kind: "outlines", towards: plain(towards), size: OUTLINE }),
  look: (at: [number, number, number], radius: number) =>
    post({ kind: "look", at: plain(at), radius }),
  trace: (what: "back" | "clear") => post({ kind: "trace", what, x: 0, y: 0 }),
  alter: (what: "grow" | "shrink" | "invert" | "all") =>
    post({ kind: "alter", what }),
  picture: () =>
    new Promise<ArrayBuffer>((resolve) => {
      pictured = resolve;
      post({ kind: "picture" });
    }),
});

function dragDivider(event: PointerEvent) {
  const bounds = holder.value!.getBoundingClientRect();
  const { left, width } = layout.value.table;
  followPointer(event, ({ clientX }) => {
    const at = (clientX - bounds.left - left) / width;
    view.divider = Math.min(1, Math.max(0, at));
  });
}
function nudge(event: KeyboardEvent) {
  const way =
    event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
  if (!way) return;
  view.divider = Math.min(1, Math.max(0, view.divider + way * 0.02));
  event.preventDefault();
  event.stopPropagation();
}
const effective = computed(() => {
  if (view.show === "revisions") return view.other ? "revisions" : "source";
  if (!hasGame.value) return "source";
  return view.show === "compare" && !hasSource.value ? "game" : view.show;
});
</script>

<template>
  <main
    class="table"
    data-region
    tabindex="0"
    aria-label="Table: arrow keys turn the view"
    @keydown="onKey"
  >
    <TableTools
      v-if="hasTools"
      @alter="post({ kind: 'alter', what: $event })"
    />
    <div ref="holder" class="holder">
      <canvas
        ref="canvas"
        data-test="view"
        :data-ready="loading === null"
        @pointerdown="down"
        @pointermove="move"
        @pointerup="up"
        @dblclick="turnAbout"
        @wheel.prevent="wheel"
        @contextmenu.prevent
      />
      <div class="part" data-test="table" :style="inPixels(layout.table)">
        <div ref="upper" class="upper">
          <div v-if="hasSource || hasGame" class="tags">
            <span v-if="effective === 'revisions'" class="tag">{{
              view.other?.title
            }}</span>
            <span v-else-if="trying" class="tag">detail as geometry</span>
            <span v-else-if="comparing || effective === 'source'" class="tag"
              >source ·
              <b class="mono">{{ spaced(total("source")) }}</b><template
                v-if="lightened"
              >
                · drawn lighter</template
              ></span
            >
            <span v-if="effective === 'revisions'" class="tag right">{{
              view.against?.title ?? "now"
            }}</span>
            <span v-else-if="trying" class="tag right">detail as map</span>
            <span
              v-else-if="comparing || effective !== 'source'"
              class="tag right"
              >{{ effective === "baked" ? "baked" : "game" }} ·
              <b class="mono">{{ spaced(total("game")) }}</b></span
            >
          </div>
        </div>
        <ChosenWords v-if="hasTools" class="over" />
        <div
          v-if="divided"
          class="divider"
          role="slider"
          tabindex="0"
          aria-label="Divider between both sides"
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
        <div ref="lower" class="lower">
          <template v-if="hasSource || hasGame">
            <p
              v-if="reducing && view.gameSize"
              class="tag sized"
              :style="{ bottom: `${covered.lower + 28 + view.gameSize}px` }"
            >
              source and game mesh, {{ view.gameSize }} px high
            </p>
            <TableLegend />
            <TableSwitches over="table" :effective="effective" />
          </template>
        </div>
        <div
          v-if="box"
          class="lasso"
          :style="{
            left: `${box.x - layout.table.left}px`,
            top: `${box.y - layout.table.top}px`,
            width: `${box.width}px`,
            height: `${box.height}px`,
          }"
        />
      </div>
      <template v-if="layout.sheet">
        <div class="part" data-test="sheet" :style="inPixels(layout.sheet)">
          <div ref="sheetUpper" class="upper">
            <div class="tags">
              <span class="tag mono" :title="`Padding ${state.padding} px`"
                >{{
                  tiles.length > 1
                    ? `${tiles.length} tiles from ${tiles[0].tile}`
                    : `sheet ${tiles[0].tile}`
                }}
                · {{ state.sheetWidth }} × {{ state.sheetHeight }}
                <template v-if="tiles.length === 1"
                  >· padding {{ state.padding }} px</template
                ></span
              >
              <span class="switch-group right">
                <button
                  :title="
                    view.sheetTurned ? 'Side by side' : 'One above the other'
                  "
                  @click="view.sheetTurned = !view.sheetTurned"
                >
                  turn
                </button>
                <button
                  title="Exchange table and sheet"
                  @click="view.swapSheet()"
                >
                  swap
                </button>
              </span>
            </div>
          </div>
          <div ref="sheetLower" class="lower">
            <div v-if="offSheet" class="off" role="alertdialog">
              <p>{{ offWords }}</p>
              <button class="link-action" @click="offSheet = null">
                Leave them where they were
              </button>
              <button class="link-action" @click="moveIslands(offSheet)">
                Put them there
              </button>
            </div>
            <TableSwitches over="sheet" :effective="effective" />
          </div>
        </div>
        <SheetDivider :layout="layout" :size="size" />
      </template>
      <p v-if="loading && (hasSource || hasGame)" class="loading" role="status">
        laying out {{ loading.what }}
        <span class="mono">{{ loading.done }} of {{ loading.total }}</span>
      </p>
      <p v-if="failed" class="loading bad" role="alert">{{ failed }}</p>
    </div>
  </main>
</template>

<style scoped>
.table {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
  outline-offset: -2px;
}
.holder {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: hidden;
  background: var(--fog);
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  display: block;
  touch-action: none;
}
.part {
  position: absolute;
  overflow: hidden;
  pointer-events: none;
}
.upper {
  padding: 8px 10px 4px;
}
.tags {
  display: flex;
  gap: 10px;
}
.tag {
  padding: 2px 8px;
  background: color-mix(in srgb, var(--paper) 88%, transparent);
  border-radius: 3px;
  font-size: 12px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.tags > .right {
  margin-left: auto;
}
.tags .switch-group {
  flex-wrap: nowrap;
  padding: 0 2px;
}
.tags .switch-group button {
  padding: 1px 6px;
  font-size: 12px;
}
.tag.sized {
  position: absolute;
  left: 10px;
  margin: 0;
}
.over {
  position: absolute;
  left: 10px;
  top: 36px;
}
.lower {
  position: absolute;
  left: 0;
  right: 0;
  bottom: 0;
  display: grid;
  gap: 6px;
  padding: 4px 10px 10px;
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
.off {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  padding: 6px 10px;
  background: var(--brass-wash);
  border-left: 3px solid var(--brass);
  border-radius: 3px;
  pointer-events: auto;
}
.off p {
  width: 100%;
  margin: 0;
}
.lasso {
  position: absolute;
  border: 1px dashed var(--raspberry);
  background: color-mix(in srgb, var(--raspberry) 10%, transparent);
}
</style>
