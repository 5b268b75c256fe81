<script setup lang="ts">
import AimMark from "./AimMark.vue";
import TableLegend from "./TableLegend.vue";
import TableSwitches from "./TableSwitches.vue";
import SheetTags from "./SheetTags.vue";
import TableTags from "./TableTags.vue";
import TableTools from "./TableTools.vue";
import ChosenWords from "./ChosenWords.vue";
import SheetDivider from "./SheetDivider.vue";
import CompareDivider from "./CompareDivider.vue";
import OffSheet from "./OffSheet.vue";
import { useDensityStrokes } from "./density-strokes";
import { useOtherRevisions } from "./other-revisions";
import { useTableLink } from "./table-link";
import { useTableState } from "./table-state";
import { hasTools as toolsAt } from "../shared/tools";
import { layoutOf } from "../shared/layout";
import { plain } from "../shared/plain";
import type { Rect } from "../shared/layout";
import { useSetSeams } from "../stages/unwrap/set-seams";
import { useTableAim } from "./table-aim";
import { useTableInput } from "./table-input";
import { useTrials } from "../stores/trials";
import { useAnswers } from "../stores/answers";
import { useView } from "../stores/view";
import { useViewEvent } from "../stores/view-events";
import { useWorkshop } from "../stores/workshop";

/** The 3D view and the sheet: hands input to the worker that draws, and shows what it says. */
const view = useView();
const answers = useAnswers();
const trials = useTrials();
const workshop = useWorkshop();
const holder = ref<HTMLDivElement | null>(null);
const canvas = ref<HTMLCanvasElement | null>(null);
/** Edge of the silhouettes shown side by side, px. */
const OUTLINE = 132;
let observer: ResizeObserver | null = null;
const document = computed(() => workshop.asset!.document);
const some = (is: (part: (typeof document.value.parts)[number]) => unknown) =>
  document.value.parts.some((part) => is(part));
const { post, start, loading, failed, offSheet, moveIslands, picture } =
  useTableLink({
    held: (point) => holdDot(point),
    heldHull: (held) => holdHull(held),
    stroke: (faces, of) => paintDensity(faces, of),
  });
useOtherRevisions(post);
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
  hasShape,
  reducing,
  trying,
  comparing,
  divided,
  effective,
  state,
} = useTableState(sharing, covered);
const picksEdges = computed(
  () =>
    ["edges", "unwrap"].includes(view.stage) &&
    hasGame.value &&
    view.tool === "part",
);
const worksHulls = computed(
  () => view.stage === "collide" && view.hulls && !answers.dropped,
);
const dragsIslands = computed(() => view.stage === "unwrap");
const overHandle = computed(
  () =>
    worksHulls.value &&
    !view.armed &&
    view.chosenHulls.length > 0 &&
    answers.overHandle,
);
const hasTools = computed(() => toolsAt(view.stage) && hasShape.value);

onMounted(() => {
  start(canvas.value!);
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
onBeforeUnmount(() => observer?.disconnect());
watch(state, (value) => post({ kind: "state", state: plain(value) }), {
  deep: true,
});
useViewEvent("turned", () =>
  post({ kind: "camera", camera: plain(view.camera) }),
);
useViewEvent("drop", (wanted) => post({ kind: "drop", ...plain(wanted) }));
useViewEvent("chosen", ({ faces, of }) =>
  post({ kind: "faces", faces: plain(faces), of }),
);
watch(
  () => workshop.asset?.revision,
  () => {
    if (!workshop.asset) return;
    view.place = null;
    view.edges = [];
    offSheet.value = null;
    trials.forget();
    post({ kind: "document", document: plain(document.value) });
  },
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

const {
  box,
  line,
  press,
  down,
  move,
  up,
  wheel,
  turnAbout,
  keys,
  holdDot,
  holdHull,
} = useTableInput({
  holder,
  layout,
  hasTools,
  picksEdges,
  dragsIslands,
  worksHulls,
  post,
  strokeDone: () => {
    if (view.tool === "paint" && trials.density) post({ kind: "settle" });
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
  drags: () =>
    (hasTools.value && ["paint", "box", "stroke"].includes(view.tool)) ||
    (worksHulls.value && (view.armed === "cut" || overHandle.value)),
  down: press,
  move,
  up,
});
const paintDensity = useDensityStrokes();
const dropTrace = () => post({ kind: "trace", what: "clear", x: 0, y: 0 });
const seams = useSetSeams(dropTrace);
function onKey(event: KeyboardEvent) {
  if (view.stage === "unwrap" && event.key === "Enter" && answers.trace)
    void seams.wish("seam");
  else if (event.target !== event.currentTarget || !aimKeys(event)) keys(event);
}
watch(() => [view.tool, view.stage], dropTrace);
useViewEvent("cleared", dropTrace);

defineExpose({
  frame: () => post({ kind: "move", how: "frame", x: 0, y: 0, over: "table" }),
  askOutlines: (towards: number[][]) =>
    post({ kind: "outlines", towards: plain(towards), size: OUTLINE }),
  look: (at: [number, number, number], radius: number) =>
    post({ kind: "look", at: plain(at), radius }),
  trace: (what: "back" | "clear") => post({ kind: "trace", what, x: 0, y: 0 }),
  alter: (what: "grow" | "shrink" | "invert" | "all") =>
    post({ kind: "alter", what }),
  picture,
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
        :class="{ armed: worksHulls && view.armed, grip: overHandle }"
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
          <TableTags
            v-if="hasSource || hasGame"
            :effective="effective"
            :trying="trying"
            :comparing="comparing"
          />
        </div>
        <ChosenWords v-if="hasTools" class="over" />
        <CompareDivider v-if="divided" :table="layout.table" />
        <p v-if="!hasShape" class="blank">
          Drop OBJ, PLY, STL, GLB or glTF files anywhere on this page,<br />or
          choose them on the bench at the right.
        </p>
        <div ref="lower" class="lower">
          <template v-if="hasShape">
            <p
              v-if="reducing && trials.gameSize"
              class="tag sized"
              :style="{ bottom: `${covered.lower + 28 + trials.gameSize}px` }"
            >
              source and game mesh, {{ trials.gameSize }} px high
            </p>
            <TableLegend />
            <TableSwitches over="table" :effective="effective" />
          </template>
        </div>
        <svg v-if="line" class="cut" aria-hidden="true">
          <line
            :x1="line[0][0] - layout.table.left"
            :y1="line[0][1] - layout.table.top"
            :x2="line[1][0] - layout.table.left"
            :y2="line[1][1] - layout.table.top"
          />
        </svg>
        <p v-if="answers.hullDrag" class="tag dragged mono">
          {{ answers.hullDrag }}
        </p>
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
            <SheetTags
              :width="state.sheetWidth"
              :height="state.sheetHeight"
              :padding="state.padding"
            />
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
      <p v-if="loading && hasShape" class="loading" role="status">
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
.armed {
  cursor: crosshair;
}
.grip {
  cursor: grab;
}
.cut {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.cut line {
  stroke: var(--raspberry);
  stroke-width: 1.5;
  stroke-dasharray: 6 4;
}
.dragged {
  position: absolute;
  left: 50%;
  top: 40px;
  transform: translateX(-50%);
  margin: 0;
}
.lasso {
  position: absolute;
  border: 1px dashed var(--raspberry);
  background: color-mix(in srgb, var(--raspberry) 10%, transparent);
}
</style>
