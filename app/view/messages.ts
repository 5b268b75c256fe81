import type { AssetDocument } from "../../core/asset/document";
import type { Camera, Show } from "../stores/view";

/** What the view shows, as one plain state; the worker works out what has to change. */
export interface ViewState {
  show: Show;
  divider: number;
  /** Share of the width that the sheet takes, 0 for none. */
  sheetShare: number;
  sheetShows: "islands" | "checker" | "normal" | "ao";
  wire: boolean;
  seams: boolean;
  hard: boolean;
  checker: boolean;
  hulls: boolean;
  light: number;
  dark: boolean;
  selected: string[];
  hidden: string[];
  edges: string[];
}

export type ToView =
  | { kind: "start"; canvas: OffscreenCanvas }
  | { kind: "size"; width: number; height: number; ratio: number }
  | { kind: "document"; document: AssetDocument }
  | { kind: "state"; state: ViewState }
  | { kind: "camera"; camera: Camera | null }
  | {
      kind: "move";
      how: "orbit" | "pan" | "zoom" | "frame";
      x: number;
      y: number;
      over: "table" | "sheet";
    }
  | { kind: "pick"; x: number; y: number; what: "part" | "edge"; add: boolean };

export type FromView =
  | { kind: "loading"; done: number; total: number; what: string }
  | { kind: "ready"; triangles: { source: number; game: number } }
  | { kind: "camera"; camera: Camera }
  | { kind: "picked"; part: string | null; add: boolean }
  | { kind: "edge"; edge: string | null }
  | { kind: "failed"; message: string };
