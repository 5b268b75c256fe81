import { sheetShown } from "../shared/sheet-shown";
import type { Ref } from "vue";
import { bakeToTry } from "../stages/bake/trial";
import { givenDistances } from "../stages/bake/bench";
import { standOff } from "../stages/collide/hull-figures";
import { farthest, switchPoints } from "../stages/reduce/figures";
import { sheetState } from "../stages/unwrap/figures";
import { besideOf } from "../shared/view-types";
import type { ViewState } from "../shared/messages";
import { useTrials } from "../stores/trials";
import { useView } from "../stores/view";
import { useWorkshop } from "../stores/workshop";

/** What lies over the edges of table and sheet, px. */
export interface Covered {
  upper: number;
  lower: number;
  sheetUpper: number;
  sheetLower: number;
}

/**
 * What the table shows of the asset, and all that the view has to know of the page.
 * In one piece: it is one message, field by field.
 */
export function useTableState(
  sharing: Ref<ViewState["sharing"]>,
  covered: Ref<Covered>,
) {
  const view = useView();
  const trials = useTrials();
  const workshop = useWorkshop();
  const document = computed(() => workshop.asset!.document);
  const some = (is: (part: (typeof document.value.parts)[number]) => unknown) =>
    document.value.parts.some((part) => is(part));
  const reducing = computed(() => view.stage === "reduce");
  const trying = computed(
    () => reducing.value && Object.keys(trials.without).length > 0,
  );
  const hasGame = computed(() => some((part) => part.game));
  const hasSource = computed(() => some((part) => part.source));
  const hasShape = computed(() =>
    some((part) => part.game ?? part.source ?? part.hulls[0]),
  );
  const comparing = computed(() =>
    view.show === "revisions"
      ? view.other !== null
      : trying.value ||
        (view.show === "compare" && hasGame.value && hasSource.value),
  );
  const divided = computed(
    () =>
      comparing.value &&
      (trying.value ||
        view.show === "revisions" ||
        view.compareBy === "divider"),
  );
  const bakeTrial = computed(() =>
    trials.bake && view.stage === "bake"
      ? {
          options: bakeToTry(workshop.operations, document.value, view.typed),
          parts: view.selected,
        }
      : null,
  );
  const state = computed((): ViewState => ({
    show: view.show,
    divider: view.divider,
    sharing: sharing.value,
    covered: { above: covered.value.upper, below: covered.value.lower },
    sheetCovered: {
      above: covered.value.sheetUpper,
      below: covered.value.sheetLower,
    },
    sheetShows:
      bakeTrial.value && view.sheetShows === "normal"
        ? "normal"
        : sheetShown(view.sheetShows, document.value),
    ...sheetState(document.value),
    triesSeams: view.stage === "unwrap",
    pointerLight: view.pointerLight,
    cage:
      view.cage && view.stage === "bake"
        ? givenDistances(document.value)
        : null,
    apart: view.stage === "bake" ? trials.apart : 0,
    bakeTrial: bakeTrial.value,
    beside: besideOf(
      view.stage,
      document.value.maps.some(({ kind }) => kind === "normal"),
    ),
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
    subdivide: view.stage === "survey" ? trials.subdivide : 0,
    triedSources: view.stage === "survey" && trials.triedSources,
    facesOf: view.facesOf,
    faces: view.faces,
    place: view.stage === "survey" ? view.place : null,
    light: view.light,
    dark: view.dark,
    selected: view.selected,
    hidden: view.hidden,
    edges: view.edges,
    chosenHulls: view.stage === "collide" ? view.chosenHulls : [],
    hullTool: view.stage === "collide" && !view.armed ? view.hullTool : "",
    snap: view.snapping
      ? { length: view.snapLength / 1000, angle: view.snapAngle }
      : null,
    palette: document.value.palette,
    compareBy: view.compareBy,
    gameSize: view.stage === "reduce" ? trials.gameSize : 0,
    previewBudget: reducing.value ? trials.previewBudget : 0,
    previewOwn: reducing.value ? trials.previewOwn : {},
    thin: reducing.value ? trials.thin : null,
    without: reducing.value ? trials.without : {},
    level: trials.level,
    switchPoints: switchPoints(document.value),
    farthest: farthest(document.value),
    triangulated: view.stage === "ship",
    hullSolid: view.hullSolid,
    standOff: standOff(document.value),
  }));
  /** What is shown of what is asked for, as far as it is there. */
  const effective = computed(() => {
    if (view.show === "revisions") return view.other ? "revisions" : "source";
    if (!hasGame.value) return "source";
    return view.show === "compare" && !hasSource.value ? "game" : view.show;
  });
  return {
    hasGame,
    hasSource,
    hasShape,
    reducing,
    trying,
    comparing,
    divided,
    effective,
    state,
  };
}
