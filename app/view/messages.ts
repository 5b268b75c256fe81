import type { PaletteEntry } from "../../core/asset/asset";
import type { AssetDocument } from "../../core/asset/document";
import type { Camera, CompareBy, Overlay, Show, Tool } from "../stores/view";

/** A place to look at, and what of a part to show there. */
export interface Place {
  part: string;
  at: [number, number, number];
  radius: number;
  /** Faces in short form, pairs of vertices, and vertices of the part's source. */
  faces: string;
  edges: number[];
  vertices: number[];
}

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
  /** Colours over the surface: none, IDs, how much is seen, or what is no quad. */
  overlay: Overlay;
  /** Faces seen by no more than this share of the views count as unseen, 0 … 1. */
  threshold: number;
  normals: "off" | "faces" | "vertices";
  figure: boolean;
  references: boolean;
  /** Levels of subdivision shown in place of the chosen sources, 0 for none. */
  subdivide: number;
  /** Which mesh tools choose on. */
  facesOf: "source" | "game";
  /** Chosen faces in short form by part. */
  faces: Record<string, string>;
  /** Counts how often the page itself chose them. */
  facesSet: number;
  place: Place | null;
  light: number;
  dark: boolean;
  selected: string[];
  hidden: string[];
  edges: string[];
  palette: readonly PaletteEntry[];
  compareBy: CompareBy;
  /** Height in px at which both meshes are shown in the corner as a game would, 0 for not. */
  gameSize: number;
  /** A budget the kept record is sought at, shown in place of the game meshes; 0 for none. */
  previewBudget: number;
  /** Budgets of single parts tried beside it. */
  previewOwn: Record<string, number>;
  /** Meshes of these parts with so many triangles left in their loops, each of its own. */
  thin: { triangles: Record<string, number>; mesh: "source" | "game" } | null;
  /** Faces of the source, in short form by part, that the game mesh is tried without. */
  without: Record<string, string>;
  /** Level of detail shown, 0 for the game meshes themselves; −1 for the one that its distance asks for. */
  level: number;
  /** Metres from which each further level sets in. */
  switchPoints: number[];
  /** Ends of the distance map's scale, metres; 0 where nothing was measured. */
  farthest: number;
}

/** How a choice goes with what was chosen before. */
export type How = "only" | "add" | "remove";

export type ToView =
  | { kind: "start"; canvas: OffscreenCanvas }
  | { kind: "size"; width: number; height: number; ratio: number }
  | { kind: "document"; document: AssetDocument }
  /** Another revision to be compared with, or none. */
  | { kind: "other"; document: AssetDocument | null }
  | { kind: "state"; state: ViewState }
  | { kind: "camera"; camera: Camera | null }
  | {
      kind: "move";
      how: "orbit" | "pan" | "zoom" | "frame";
      x: number;
      y: number;
      over: "table" | "sheet";
    }
  | { kind: "look"; at: [number, number, number]; radius: number }
  | { kind: "pick"; x: number; y: number; what: "part" | "edge"; add: boolean }
  | {
      kind: "choose";
      tool: Tool;
      x: number;
      y: number;
      how: How;
      /** Degrees for flood, px for paint. */
      reach: number;
    }
  | {
      kind: "box";
      from: [number, number];
      to: [number, number];
      how: How;
    }
  | { kind: "alter"; what: "grow" | "shrink" | "invert" | "all" }
  /** Asks for the chosen faces once all before it is done. */
  | { kind: "settle" }
  /** Asks for silhouettes of source and game mesh. */
  | { kind: "outlines"; towards: number[][]; size: number }
  /** Asks for a picture of the table. */
  | { kind: "picture" };

/** Two silhouettes from one direction. */
export interface OutlinePicture {
  towards: number[];
  /** px */
  size: number;
  /** size × size, 1 where covered; rows from the bottom up. */
  source: Uint8Array;
  game: Uint8Array;
}

/** Figures of what is chosen. */
export interface ChosenFigures {
  faces: number;
  triangles: number;
  /** m² */
  area: number;
}

export type FromView =
  | { kind: "loading"; done: number; total: number; what: string }
  | { kind: "ready"; triangles: { source: number; game: number } }
  | { kind: "camera"; camera: Camera }
  | { kind: "picked"; part: string | null; add: boolean }
  | { kind: "edge"; edge: string | null }
  | { kind: "edges"; edges: string[] }
  | {
      kind: "faces";
      faces: Record<string, string>;
      of: "source" | "game";
      figures: ChosenFigures;
    }
  /** What the shown preview comes to, and how long it took to find. */
  | {
      kind: "preview";
      triangles: number;
      milliseconds: number;
      level: number;
      /** Of thinned loops: how many went, and how far the surface moved at most, metres. */
      loops?: number;
      moved?: number;
    }
  | { kind: "settled"; faces: Record<string, string>; of: "source" | "game" }
  | { kind: "outlines"; pictures: OutlinePicture[] }
  | { kind: "unseen"; faces: number; triangles: number; share: number }
  | { kind: "picture"; png: ArrayBuffer }
  | { kind: "failed"; message: string };
