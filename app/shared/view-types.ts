import type { Stage } from "../../core/asset/stages";
import type { MapKind } from "../../core/base/pictures";
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

/** What the handles of hulls do. */
export const HULL_HANDLES = ["move", "turn", "size"] as const;
export type HullHandles = (typeof HULL_HANDLES)[number];

/** What the next click or line on the table does to hulls: cuts those that are chosen, or places a shape; "" nothing. */
export type Armed = "" | "cut" | "box" | "sphere" | "capsule" | "prism";

export interface Camera {
  yaw: number;
  pitch: number;
  distance: number;
  target: [number, number, number];
  /** Whether all was framed, and nothing moved since. */
  framed?: boolean;
}

export type Show = "compare" | "source" | "game" | "baked" | "revisions";

export const OVERLAYS = [
  "none",
  "own",
  "ids",
  "seen",
  "polygons",
  "distance",
  "quality",
  "density",
  "angles",
  "areas",
  "texels",
  "map",
  "standoff",
] as const;
export type Overlay = (typeof OVERLAYS)[number];

/** How source and game mesh are compared: left and right of a divider, one over the other, or in turn. */
export type CompareBy = "divider" | "overlay" | "blink";

/** What of game meshes lies beside their sources: the bare mesh, its maps on clay as the source has it, or its look. */
export type Beside = "mesh" | "clay" | "look";

/** What a stage lays beside the sources, as far as the maps are there. */
export const besideOf = (stage: Stage, hasNormal: boolean): Beside => {
  if (!hasNormal) return "mesh";
  if (stage === "bake") return "clay";
  return stage === "finish" || stage === "ship" ? "look" : "mesh";
};

/** What table and sheet show, and how they share the room: each stage has its own. */
export interface StageView {
  show: Show;
  compareBy: CompareBy;
  divider: number;
  sheet: boolean;
  /** Share of the room that the sheet takes. */
  sheetShare: number;
  /** Whether the sheet lies above or below the table instead of beside it. */
  sheetTurned: boolean;
  /** Whether the sheet comes first, at the left or above. */
  sheetFirst: boolean;
  sheetShows: "islands" | "checker" | "painted" | MapKind;
  wire: boolean;
  seams: boolean;
  hard: boolean;
  checker: boolean;
  hulls: boolean;
  /** Whether hulls are see-through solids, or only their edges. */
  hullSolid: boolean;
  /** From where the rays of a bake begin. */
  cage: boolean;
  overlay: Overlay;
  /** Faces seen by no more than this share of the views count as unseen, per cent. */
  threshold: number;
  normals: "off" | "faces" | "vertices";
  figure: boolean;
  references: boolean;
}

/** Where what is dragged would come to lie. */
export interface Landing {
  /** Faces that would lie on another tile than all did before, or on none. */
  off: number;
  /** Tiles that all islands lie on, before and after. */
  tilesBefore: number;
  tilesAfter: number;
}

/** What splits cost and where the rule of hard edges is broken, counted on the meshes as they are. */
export interface UvFacts {
  hard: number;
  /** Hard edges at which UVs run on, and seams at which the shading does. */
  unsplit: number;
  softSeams: number;
  seams: number;
  /** Vertices by place, and as an engine counts them. */
  places: number;
  split: number;
  /** Parts with such hard edges, with places of the first few. */
  breaches: {
    part: string;
    count: number;
    places: { at: [number, number, number]; radius: number }[];
  }[];
}
