import { defineStore } from "pinia";
import type { Stage } from "../../core/asset/stages";
import { STAGES } from "../../core/asset/stages";

export type Show = "compare" | "source" | "game" | "baked";

export interface Camera {
  yaw: number;
  pitch: number;
  distance: number;
  target: [number, number, number];
}

export interface Remembered {
  stage: Stage;
  show: Show;
  divider: number;
  sheet: boolean;
  sheetShows: "islands" | "checker" | "normal" | "ao";
  wire: boolean;
  seams: boolean;
  hard: boolean;
  checker: boolean;
  hulls: boolean;
  light: number;
  camera: Camera | null;
  hidden: string[];
}

const START: Remembered = {
  stage: "intake",
  show: "compare",
  divider: 0.5,
  sheet: false,
  sheetShows: "islands",
  wire: true,
  seams: false,
  hard: false,
  checker: false,
  hulls: false,
  light: 35,
  camera: null,
  hidden: [],
};

/** What the artist looks at and how; kept in the browser for each asset. */
export const useView = defineStore("view", {
  state: () => ({
    ...START,
    asset: 0,
    selected: [] as string[],
    edges: [] as string[],
    dark: false,
    panel: "" as "" | "keys" | "find",
  }),
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
        panel: "",
        dark: localStorage.getItem("arnik.dark") === "1",
      });
      if (!STAGES.includes(this.stage)) this.stage = "intake";
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
  },
});
