import type { PaletteEntry } from "../../core/base/pictures";
import type { AssetDocument } from "../../core/asset/document";
import type { TrialMaps } from "../../core/bake/methods/trial-bake";
import type { Trial, TrialName } from "../../core/collide/methods/trials";
import type { Shots } from "../../core/ship/methods/shots";
import type { HullMove } from "../../core/mesh/move-hull";
import type { HullHandles, Landing } from "./view-types";
import type { UvFacts } from "./view-types";
import type { StageView } from "./view-types";
import type { Beside, Camera, Tool } from "./view-types";
import type { Sharing } from "./layout";

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
export interface ViewState extends Omit<
  StageView,
  "sheet" | "sheetShare" | "sheetTurned" | "sheetFirst" | "cage"
> {
  sharing: Sharing;
  /** px along the upper and lower edge of table and sheet that switches lie over. */
  covered: { above: number; below: number };
  sheetCovered: { above: number; below: number };
  /** px of a sheet, free px between islands, and the tiles there are, from 0. */
  sheetWidth: number;
  sheetHeight: number;
  padding: number;
  tiles: number[];
  /** Texels per metre that are wanted or meant, for the density map. */
  texels: number;
  /** Whether chosen edges are tried as seams on the sheet. */
  triesSeams: boolean;
  pointerLight: boolean;
  /** Whether cages are shown: ray distances of all and of single parts, metres, 0 for what is found; or null. */
  cage: { all: number; own: Record<string, number> } | null;
  /** How far parts are drawn apart, 0 … 1. */
  apart: number;
  /** A bake that is tried in place of what was baked: its options, and names of chosen parts, none for all; or null. */
  bakeTrial: {
    options: Record<string, unknown>;
    parts: string[];
  } | null;
  /** What is compared with the sources. */
  beside: Beside;
  /** Faces seen by no more than this share of the views count as unseen, 0 … 1. */
  threshold: number;
  /** Levels of subdivision shown in place of the chosen sources, 0 for none. */
  subdivide: number;
  /** Whether what was tried on the sources is shown in their place. */
  triedSources: boolean;
  /** Which mesh tools choose on. */
  facesOf: "source" | "game";
  /** Chosen faces in short form by part. */
  faces: Record<string, string>;
  place: Place | null;
  light: number;
  dark: boolean;
  selected: string[];
  hidden: string[];
  edges: string[];
  chosenHulls: string[];
  /** What handles of chosen hulls do; "" for none. */
  hullTool: "" | HullHandles;
  /** Steps that handles keep to, metres and degrees; null for none. */
  snap: { length: number; angle: number } | null;
  palette: readonly PaletteEntry[];
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
  /** Whether the wire shows the edges that triangulating adds, as a delivery has them. */
  triangulated: boolean;
  /** End of the scale of what hulls stand off, metres. */
  standOff: number;
  /** Ends of the distance map's scale, metres; 0 where nothing was measured. */
  farthest: number;
}

/** What a trial of a bake comes to so far. */
export interface BakeTrialFigures extends Omit<TrialMaps, "maps"> {
  /** Width of the sheet, px. */
  full: number;
  /** Whether lighter meshes stand for sources. */
  light: boolean;
  milliseconds: number;
}

/** How a choice goes with what was chosen before. */
export type How = "only" | "add" | "remove";

export type ToView =
  | { kind: "start"; canvas: OffscreenCanvas }
  | { kind: "size"; width: number; height: number; ratio: number }
  | { kind: "document"; document: AssetDocument }
  /** Another revision to be shown at a side of the divider, or none. */
  | { kind: "other"; side: "left" | "right"; document: AssetDocument | null }
  | { kind: "state"; state: ViewState }
  | { kind: "camera"; camera: Camera | null }
  | {
      kind: "move";
      how: "orbit" | "pan" | "frame";
      x: number;
      y: number;
      over: "table" | "sheet";
    }
  /** Goes nearer or away at a place. */
  | { kind: "zoom"; by: number; x: number; y: number }
  /** Turns about what lies at a place from now on. */
  | { kind: "turn-about"; x: number; y: number }
  | { kind: "look"; at: [number, number, number]; radius: number }
  | {
      kind: "pick";
      x: number;
      y: number;
      what: "part" | "edge" | "hull";
      add: boolean;
    }
  /** Takes hold of a handle of hulls, drags it, lets it go, or puts hulls back; `free` of steps. */
  | {
      kind: "hull";
      what: "hover" | "grab" | "move" | "end" | "back";
      x: number;
      y: number;
      free: boolean;
    }
  /** A line drawn over hulls, to cut them along. */
  | { kind: "cut"; line: [[number, number], [number, number]]; free: boolean }
  /** Plays a trial of the drop test; null puts everything back. */
  | { kind: "drop"; trial: TrialName | null; slope: number; friction: number }
  /** Asks what lies at a place, to put a shape there. */
  | { kind: "spot"; x: number; y: number }
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
  /** The page chose faces, in short form by part. */
  | {
      kind: "faces";
      faces: Record<string, string>;
      of: "source" | "game";
    }
  | { kind: "alter"; what: "grow" | "shrink" | "invert" | "all" }
  /** Traces a seam through waypoints, which can be moved and taken out, or shows the region at a place. */
  | {
      kind: "trace";
      what:
        | "hover"
        | "point"
        | "grab"
        | "move"
        | "remove"
        | "region"
        | "back"
        | "clear";
      x: number;
      y: number;
    }
  /** Drags chosen islands on the sheet; begins at a place, goes on by pixels. */
  | { kind: "drag"; what: "begin" | "move" | "end"; x: number; y: number }
  /** Where the pointer is, for a light that follows it. */
  | { kind: "pointer"; x: number; y: number }
  /** Asks for the chosen faces once all before it is done. */
  | { kind: "settle" }
  /** Asks for silhouettes of source and game mesh. */
  | { kind: "outlines"; towards: number[][]; size: number }
  /** Asks for a picture of the table. */
  | { kind: "picture" }
  /** Asks for pictures of game meshes without what is chosen on them, of these parts, or all; null stops them. */
  | { kind: "portraits"; shots: Shots | null; parts: string[] };

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
  /** Islands with a chosen face, and their texels per metre; 0 without UVs. */
  islands: number;
  density: number;
}

/** A place on a part, metres, and a size for what is put there. */
export interface Spot {
  part: string;
  at: number[];
  size: number;
}

export type FromView =
  | { kind: "loading"; done: number; total: number; what: string }
  | { kind: "ready"; triangles: { source: number; game: number } }
  | { kind: "camera"; camera: Camera }
  | { kind: "picked"; part: string | null; add: boolean }
  | { kind: "picked-hull"; name: string | null; add: boolean }
  /** Whether a handle lies under the pointer, and whether one was taken hold of. */
  | { kind: "hull-over"; over: boolean }
  | { kind: "hull-held"; held: boolean }
  /** What a drag comes to so far, in words; "" once it is over. */
  | { kind: "hull-drag"; text: string }
  | { kind: "hull-moved"; by: HullMove }
  /** A plane to cut by: unit normal, and a point, metres. */
  | { kind: "hull-cut"; normal: number[]; point: number[] }
  /** A trial is being played, or over; null where everything was put back. */
  | { kind: "dropped"; trial: Trial | null; over: boolean }
  /** What lies at a place, metres, and how large the asset is. */
  | { kind: "spot"; spot: Spot | null }
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
  /** The seam being traced: its waypoints and edges, and why the last click was not taken. */
  | { kind: "trace"; points: number; edges: string[]; refused: string }
  /** The number of the waypoint that was taken hold of, −1 for none. */
  | { kind: "held"; point: number }
  | {
      kind: "tried";
      part: string;
      islands: number;
      stretch: number;
      milliseconds: number;
    }
  /** What a trial of a bake comes to; null before it does, or with a word why it can't be tried. */
  | { kind: "bake-trial"; figures: BakeTrialFigures | null; refused: string }
  | { kind: "facts"; facts: UvFacts }
  /** Islands were dragged by so many pixels of the sheet. */
  | { kind: "dragged"; x: number; y: number; landing: Landing }
  | { kind: "outlines"; pictures: OutlinePicture[] }
  | { kind: "unseen"; faces: number; triangles: number; share: number }
  | { kind: "picture"; png: ArrayBuffer }
  /** One of the pictures that were asked for, in their order. */
  | { kind: "portrait"; name: string; png: ArrayBuffer }
  | { kind: "failed"; message: string };
