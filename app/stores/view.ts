import type { Armed, Camera, HullHandles, Tool } from "../shared/view-types";
import { OVERLAYS } from "../shared/view-types";
import { defineStore } from "pinia";
import { useAnswers } from "./answers";
import { useTrials } from "./trials";
import type { Stage } from "../../core/asset/stages";
import { STAGES } from "../../core/asset/stages";
import type { StageView } from "../shared/view-types";
import { viewEvents } from "./view-events";
import { VIEW_KEYS, viewOf, shownResult } from "./stage-views";
import type { ChosenFigures, Place } from "../shared/messages";

/** What is remembered of an asset: how it is shown now, and how the other stages were left. */
export interface Remembered extends StageView {
  stage: Stage;
  views: Partial<Record<Stage, StageView>>;
  floodAngle: number;
  brush: number;
  light: number;
  /** The light follows the pointer, to show faults of the shading. */
  pointerLight: boolean;
  camera: Camera | null;
  hidden: string[];
  /** Parts the artist is done with. */
  done: string[];
  /** Folded-open sections of the benches. */
  opened: string[];
  /** Another revision at the left of the divider, and one at the right where that is not the present one. */
  other: Compared | null;
  against: Compared | null;
  /** What was typed into forms and not used yet, by operation and field. */
  typed: Record<string, Record<string, Draft>>;
}

export interface Compared {
  revision: number;
  title: string;
}

/** Something that was typed into a field. */
export interface Draft {
  /** Left out where what was typed is no value. */
  value?: unknown;
  /** As it was typed, where it is no value. */
  text?: string;
  /** The value that the field had when somebody began to type. */
  base: unknown;
}

const FRESH: Omit<Remembered, "views" | "typed"> = {
  ...viewOf("intake"),
  stage: "intake",
  floodAngle: 20,
  brush: 28,
  light: 35,
  pointerLight: false,
  camera: null,
  hidden: [],
  done: [],
  opened: [],
  other: null,
  against: null,
};
/** px that route and parts take at first. */
const LEDGER = 252;

const START: Remembered = { ...FRESH, views: {}, typed: {} };

const NOTHING: ChosenFigures = {
  faces: 0,
  triangles: 0,
  area: 0,
  islands: 0,
  density: 0,
};

/** What the artist looks at and how; kept in the browser for each asset. */
export const useView = defineStore("view", {
  state: () => ({
    ...START,
    asset: 0,
    selected: [] as string[],
    edges: [] as string[],
    chosenHulls: [] as string[],
    /** What handles of hulls do, and what the next click or line on the table is for. */
    hullTool: "move" as HullHandles,
    armed: "" as Armed,
    /** Steps that handles keep to while `snapping`: mm and degrees. */
    snapping: true,
    snapLength: 5,
    snapAngle: 15,
    tool: "part" as Tool,
    /** Chosen faces in short form by part, and which mesh they are of. */
    faces: {} as Record<string, string>,
    facesOf: "source" as "source" | "game",
    chosen: NOTHING,
    place: null as Place | null,
    /** A texel density that was read off an island, texels per metre. */
    readDensity: 0,
    /** An operation that was asked for by name: to be run, or opened to be filled in. */
    asked: null as { operation: string; run: boolean } | null,
    dark: false,
    /** Whether letters, digits and signs act by themselves. */
    singleKeys: true,
    /** px that route and parts take. */
    ledgerWidth: LEDGER,
    panel: "" as "" | "keys" | "find" | "history",
  }),
  getters: {
    /** The chosen faces as operations take them. */
    faceList: (state): string[] =>
      Object.entries(state.faces).map(([part, ranges]) => `${part}:${ranges}`),
  },
  actions: {
    recall(asset: number) {
      let kept: Partial<Remembered> = {};
      try {
        kept = JSON.parse(
          localStorage.getItem(`arnik.view.${asset}`) ?? "{}",
        ) as Partial<Remembered>;
      } catch {
        // What can't be read is forgotten.
      }
      const stage = STAGES.includes(kept.stage!) ? kept.stage! : START.stage;
      const { views = {}, typed = {}, ...rest } = kept;
      // An overlay that there is no more.
      for (const each of [rest, ...Object.values(views)])
        if (each.overlay && !OVERLAYS.includes(each.overlay))
          delete each.overlay;
      // Set by themselves: a patch would leave stages in that are no longer among them.
      this.views = views;
      this.typed = typed;
      this.$patch({
        ...FRESH,
        ...viewOf(stage),
        ...rest,
        stage,
        asset,
        selected: [],
        edges: [],
        chosenHulls: [],
        armed: "",
        tool: "part",
        place: null,
        panel: "",
        asked: null,
        dark: localStorage.getItem("arnik.dark") === "1",
        singleKeys: localStorage.getItem("arnik.keys") !== "0",
        ledgerWidth: Number(localStorage.getItem("arnik.ledger")) || LEDGER,
      });
      this.clearFaces();
      useTrials().$reset();
      useAnswers().$reset();
      if (this.show === "revisions" && !this.other)
        this.show = viewOf(stage).show;
    },
    /** Goes to a stage, with the view that it was left with or that shows what it makes. */
    go(stage: Stage) {
      if (stage === this.stage) return;
      this.views = { ...this.views, [this.stage]: this.stageView() };
      this.stage = stage;
      this.armed = "";
      this.$patch(this.views[stage] ?? viewOf(stage));
    },
    /** Asks the bench of a stage for one of its operations. */
    ask(operation: string, stage: Stage, run: boolean) {
      this.go(stage);
      this.asked = { operation, run };
    },
    /** The sheet takes the table's place and room, and the other way round. */
    swapSheet() {
      this.sheetFirst = !this.sheetFirst;
      this.sheetShare = 1 - this.sheetShare;
    },
    /** Keeps what was typed into a field, or with null forgets it. */
    type(operation: string, field: string, draft: Draft | null) {
      const own = { ...this.typed[operation] };
      if (draft) own[field] = draft;
      else delete own[field];
      this.typed = { ...this.typed, [operation]: own };
    },
    /** How table and sheet look now. */
    stageView(): StageView {
      const shown = Object.fromEntries(
        VIEW_KEYS.map((key) => [key, this[key]]),
      ) as unknown as StageView;
      // Another revision is looked at for the time being.
      return shown.show === "revisions"
        ? { ...shown, show: viewOf(this.stage).show }
        : shown;
    },
    /** Lays another revision beside the present one, or beside a third. */
    compare(other: Compared, against: Compared | null = null) {
      this.other = other;
      this.against = against;
      this.show = "revisions";
    },
    /** Ends the comparison of revisions and shows something else. */
    stopComparing(show?: StageView["show"]) {
      this.other = this.against = null;
      this.show = show ?? viewOf(this.stage).show;
    },
    /** Shows what the stage makes, where the view hides it. */
    showResult() {
      this.$patch(shownResult(this.stage, this));
    },
    keep() {
      if (!this.asset) return;
      const kept = Object.fromEntries(
        Object.keys(START).map((key) => [key, this[key as keyof Remembered]]),
      );
      kept.views = { ...this.views, [this.stage]: this.stageView() };
      localStorage.setItem(`arnik.view.${this.asset}`, JSON.stringify(kept));
      localStorage.setItem("arnik.dark", this.dark ? "1" : "0");
      localStorage.setItem("arnik.keys", this.singleKeys ? "1" : "0");
      localStorage.setItem("arnik.ledger", String(this.ledgerWidth));
    },
    /** Chooses a hull, or with `add` also that one; null chooses none. */
    chooseHull(name: string | null, add: boolean) {
      if (name === null) this.chosenHulls = add ? this.chosenHulls : [];
      else if (!add) this.chosenHulls = [name];
      else
        this.chosenHulls = this.chosenHulls.includes(name)
          ? this.chosenHulls.filter((each) => each !== name)
          : [...this.chosenHulls, name];
    },
    toggleSelected(name: string, add: boolean) {
      if (!add)
        this.selected =
          this.selected.length === 1 && this.selected[0] === name ? [] : [name];
      else if (this.selected.includes(name))
        this.selected = this.selected.filter((each) => each !== name);
      else this.selected.push(name);
    },
    clearSelection() {
      this.selected = [];
      this.edges = [];
      this.chosenHulls = [];
      this.armed = "";
      this.clearFaces();
      this.place = null;
      this.panel = "";
      viewEvents.emit("cleared");
    },
    clearFaces() {
      this.choose({}, this.facesOf);
    },
    /** Chooses faces from the page: the view is told. */
    choose(faces: Record<string, string>, of: "source" | "game") {
      this.hearFaces(faces, of, NOTHING);
      viewEvents.emit("chosen", { faces, of });
    },
    /** What the view says is chosen, as a whole: a patch would leave parts in that are no longer among them. */
    hearFaces(
      faces: Record<string, string>,
      of: "source" | "game",
      figures: ChosenFigures,
    ) {
      this.faces = faces;
      this.facesOf = of;
      this.chosen = figures;
    },
    /** Hides all but the chosen parts; with nothing chosen shows everything again. */
    isolate(all: readonly string[]) {
      this.hidden = this.selected.length
        ? all.filter((name) => !this.selected.includes(name))
        : [];
    },
    /** Marks the chosen parts as done and hides them. */
    finish() {
      this.done = [...new Set([...this.done, ...this.selected])];
      this.hidden = [...new Set([...this.hidden, ...this.selected])];
      this.selected = [];
    },
    /** Shows what is not done yet, or with nothing hidden by it, everything. */
    showLeft() {
      this.hidden = [...this.done];
    },
    toggleOpened(id: string) {
      this.opened = this.opened.includes(id)
        ? this.opened.filter((each) => each !== id)
        : [...this.opened, id];
    },
  },
});
