<script setup lang="ts">
import type { Landing } from "../shared/view-types";
import { spaced } from "../shared/figures";
import AimMark from "./AimMark.vue";
import TableLegend from "./TableLegend.vue";
import TableSwitches from "./TableSwitches.vue";
import TableTools from "./TableTools.vue";
import ChosenWords from "./ChosenWords.vue";
import SheetDivider from "./SheetDivider.vue";
import CompareDivider from "./CompareDivider.vue";
import OffSheet from "./OffSheet.vue";
import { useDensityStrokes } from "./density-strokes";
import { useTableState } from "./table-state";
import { hasTools as toolsAt } from "../shared/tools";
import type { AssetDocument } from "../../core/asset/document";
import { layoutOf } from "../shared/layout";
import type { Rect } from "../shared/layout";
import type { FromView, ToView } from "../shared/messages";
import { udims } from "../stages/unwrap/figures";
import { useSetSeams } from "../stages/unwrap/set-seams";
import { useTableAim } from "./table-aim";
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
const {
  hasGame,
  hasSource,
  reducing,
  trying,
  comparing,
  divided,
  effective,
  state,
} = useTableState(sharing, covered);
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
const tiles = computed(() => udims(document.value));
const lightened = computed(() => some((part) => part.light));
const post = (message: ToView) => worker?.postMessage(message);
const plain = <T,>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

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

const { box, press, down, move, up, wheel, turnAbout, keys, holdDot } =
  useTableInput({
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

const {
  aim,
  keys: aimKeys,
  leave,
} = useTableAim({
  holder,
  middle: () => {
    const { left, top, width, height } = layout.value.table;
    return { x: left + width / 2, y: top + height / 2 };
  },
  drags: () => hasTools.value && ["paint", "box", "stroke"].includes(view.tool),
  down: press,
  move,
  up,
});
const paintDensity = useDensityStrokes();
const seams = useSetSeams(() =>
  post({ kind: "trace", what: "clear", x: 0, y: 0 }),
);
function onKey(event: KeyboardEvent) {
  if (view.stage === "unwrap" && event.key === "Enter" && view.trace)
    void seams.wish("seam");
  else if (event.target !== event.currentTarget || !aimKeys(event)) keys(event);
}
watch(
  () => [view.tool, view.stage, view.cleared],
  () => post({ kind: "trace", what: "clear", x: 0, y: 0 }),
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
</script>

<template>
  <main
    class="table"
    data-region
    tabindex="0"
    aria-label="Table: arrow keys turn the view, Enter takes aim to choose without a mouse"
    @keydown="onKey"
    @blur="leave"
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
      <AimMark v-if="aim" :aim="aim" />
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
        <CompareDivider v-if="divided" :table="layout.table" />
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
            <OffSheet
              v-if="offSheet"
              :landing="offSheet.landing"
              @leave="offSheet = null"
              @put="moveIslands(offSheet)"
            />
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
.lasso {
  position: absolute;
  border: 1px dashed var(--raspberry);
  background: color-mix(in srgb, var(--raspberry) 10%, transparent);
}
</style>
