import { defineStore } from "pinia";
import type { Stage } from "../../core/asset/stages";
import { STAGES } from "../../core/asset/stages";
import type { UvFacts } from "../view/uv-facts";
import type {
  ChosenFigures,
  FromView,
  OutlinePicture,
  Place,
  ViewState,
} from "../view/messages";

export type Show = "compare" | "source" | "game" | "baked" | "revisions";
export type Overlay =
  | "none"
  | "own"
  | "ids"
  | "seen"
  | "polygons"
  | "distance"
  | "quality"
  | "density"
  | "stretch"
  | "angles"
  | "areas"
  | "texels";
/** What a click on the table chooses. */
export type Tool =
  | "part"
  | "component"
  | "material"
  | "face"
  | "flood"
  | "edge"
  | "loop"
  | "ring"
  | "paint"
  | "stroke"
  | "box"
  | "island"
  | "trace"
  | "region";
/** How source and game mesh are compared: left and right of a divider, one over the other, or in turn. */
export type CompareBy = "divider" | "overlay" | "blink";

export interface Camera {
  yaw: number;
  pitch: number;
  distance: number;
  target: [number, number, number];
}

export interface Remembered {
  stage: Stage;
  show: Show;
  compareBy: CompareBy;
  divider: number;
  sheet: boolean;
  sheetShows: "islands" | "checker" | "normal" | "ao" | "painted";
  wire: boolean;
  seams: boolean;
  hard: boolean;
  checker: boolean;
  hulls: boolean;
  overlay: Overlay;
  threshold: number;
  normals: "off" | "faces" | "vertices";
  figure: boolean;
  references: boolean;
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
}

const START: Remembered = {
  stage: "intake",
  show: "compare",
  compareBy: "divider",
  divider: 0.5,
  sheet: false,
  sheetShows: "islands",
  wire: true,
  seams: false,
  hard: false,
  checker: false,
  hulls: false,
  overlay: "none",
  threshold: 0,
  normals: "off",
  figure: false,
  references: true,
  floodAngle: 20,
  brush: 28,
  light: 35,
  pointerLight: false,
  camera: null,
  hidden: [],
  done: [],
  opened: [],
};

/** What the density brush paints, as `reduce/paint-density` takes it. */
export interface DensityBrush {
  wish: "finer" | "coarser" | "leave" | "plain";
  strength: number;
  /** mm */
  falloff: number;
  mirror: boolean;
}

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
    tool: "part" as Tool,
    /** Chosen faces in short form by part, and which mesh they are of. */
    faces: {} as Record<string, string>,
    facesOf: "source" as "source" | "game",
    chosen: NOTHING,
    /** Counts how often the page itself chose faces; what the view chose must not come back to it as news. */
    facesSet: 0,
    place: null as Place | null,
    subdivide: 0,
    /** Whether what was tried on the sources is shown in their place. */
    triedSources: false,
    /** Budget that is being tried, 0 for none. */
    previewBudget: 0,
    /** Budgets of single parts that are being tried. */
    previewOwn: {} as Record<string, number>,
    /** Loops that are being tried out: the parts' meshes thinned to so many triangles each. */
    thin: null as ViewState["thin"],
    /** Faces of the source tried without, by part. */
    without: {} as Record<string, string>,
    /** What a stroke of the brush paints, where the brush paints density. */
    density: null as DensityBrush | null,
    /** Height in px at which both meshes are shown as a game would, 0 for not. */
    gameSize: 0,
    outlines: [] as OutlinePicture[],
    /** Counts how often the view has loaded all there is. */
    loaded: 0,
    preview: null as Omit<
      Extract<FromView, { kind: "preview" }>,
      "kind"
    > | null,
    level: 0,
    /** What splits cost and where hard edges lack one, as the view counts it. */
    facts: null as UvFacts | null,
    /** The seam that is being traced, or the region about to be cut out. */
    trace: null as Omit<Extract<FromView, { kind: "trace" }>, "kind"> | null,
    /** How the seams that are being drawn would lay out. */
    tried: null as Omit<Extract<FromView, { kind: "tried" }>, "kind"> | null,
    /** A texel density that was read off an island, texels per metre. */
    readDensity: 0,
    /** Counts how often everything chosen was let go: what was being traced goes too. */
    cleared: 0,
    /** Counts how often the page itself itself turned the camera. */
    turned: 0,
    /** What looking from outside found under the threshold, as the view counts it. */
    unseen: null as { faces: number; triangles: number; share: number } | null,
    /** Another revision on the left of the divider. */
    other: null as { revision: number; title: string } | null,
    dark: false,
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
      this.$patch({
        ...START,
        ...kept,
        asset,
        selected: [],
        edges: [],
        tool: "part",
        place: null,
        subdivide: 0,
        triedSources: false,
        preview: null,
        density: null,
        gameSize: 0,
        outlines: [],
        level: 0,
        unseen: null,
        facts: null,
        trace: null,
        tried: null,
        other: null,
        panel: "",
        dark: localStorage.getItem("arnik.dark") === "1",
      });
      this.clearFaces();
      this.forgetTrials();
      if (!STAGES.includes(this.stage)) this.stage = "intake";
      if (this.show === "revisions") this.show = "compare";
    },
    keep() {
      if (!this.asset) return;
      const kept = Object.fromEntries(
        Object.keys(START).map((key) => [key, this[key as keyof Remembered]]),
      );
      localStorage.setItem(`arnik.view.${this.asset}`, JSON.stringify(kept));
      localStorage.setItem("arnik.dark", this.dark ? "1" : "0");
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
      this.clearFaces();
      this.place = null;
      this.panel = "";
      this.cleared++;
    },
    /** Shows the game meshes as they are; set one by one, as a patch would leave parts in. */
    forgetTrials() {
      this.previewBudget = 0;
      this.previewOwn = {};
      this.thin = null;
      this.without = {};
    },
    clearFaces() {
      this.choose({}, this.facesOf);
    },
    /** Chooses faces from the page: the view is told. */
    choose(faces: Record<string, string>, of: "source" | "game") {
      this.hearFaces(faces, of, NOTHING);
      this.facesSet++;
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
