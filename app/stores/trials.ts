import { defineStore } from "pinia";
import type { ViewState } from "../shared/messages";

/** What the density brush paints, as `reduce/paint-density` takes it. */
export interface DensityBrush {
  wish: "finer" | "coarser" | "leave" | "plain";
  strength: number;
  /** mm */
  falloff: number;
  mirror: boolean;
}

/** What is tried out in the view for the time being: nothing of it is kept. */
export const useTrials = defineStore("trials", {
  state: () => ({
    /** Levels of subdivision shown in place of the chosen sources, 0 for none. */
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
    /** The level of detail that is shown; below 0 the one that fits the distance. */
    level: 0,
    /** How far parts are drawn apart, 0 … 1. */
    apart: 0,
    /** Whether the bake is tried as its settings change. */
    bake: false,
  }),
  actions: {
    /** Shows the game meshes as they are; set one by one, as a patch would leave parts in. */
    forget() {
      this.previewBudget = 0;
      this.previewOwn = {};
      this.thin = null;
      this.without = {};
    },
  },
});
