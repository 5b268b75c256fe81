import { MissingInputError } from "../base/errors";
import type { Mesh } from "../mesh/mesh";
import type { KeptRecord } from "../decimate/kept-record";
import type { KeptProfile } from "./profile";
import { PROFILES } from "./profile";
import type { Stage } from "./stages";
import type { SettleRule } from "../settle/settle";
import type { SettledSource } from "../settle/settled-of";
import type { StandInOptions } from "../remesh/stand-in/stand-in";
import type { Hull } from "../mesh/hull";
import type {
  BakedMap,
  PaintedPicture,
  PaletteEntry,
  ReferencePicture,
  SurfaceLook,
} from "../base/pictures";

/** The limits and wishes an asset is made to. */
export interface Brief {
  /** Triangles allowed for the whole asset, at the first level of detail. */
  triangles: number;
  /** Triangles of the further levels of detail, falling. */
  levels: readonly number[];
  /** Width of the sheet, px. */
  sheetSize: number;
  /** Height of the sheet in px, or 0 where it is square. */
  sheetHeight: number;
  /** Sheets allowed, each a tile. */
  sheets: number;
  /** Free texels kept round every island, px. */
  padding: number;
  /** Wanted texels per metre, or 0 for as many as fit. */
  texelsPerMetre: number;
  /** Vertices allowed as an engine counts them, or 0 for no limit. */
  vertices: number;
  /** Hulls allowed for the whole asset. */
  hulls: number;
  profile: KeptProfile;
}

export const DEFAULT_BRIEF: Brief = {
  triangles: 5000,
  levels: [],
  sheetSize: 2048,
  sheetHeight: 0,
  sheets: 1,
  padding: 8,
  texelsPerMetre: 0,
  vertices: 0,
  hulls: 8,
  profile: PROFILES[0].name,
};

/** Simple shapes that stand for some faces of a part's source, kept so that they can be made anew. */
export interface PartStandIn extends StandInOptions {
  /** Faces in short form, and how many the source had. */
  faces: string;
  of: number;
  /** One shape for each connected piece. */
  each: boolean;
  /** What came of it: shapes, triangles, distance in metres. */
  made: string;
  triangles: number;
  rms: number;
  max: number;
}

/** A named piece of the asset. */
export interface Part {
  name: string;
  /** `#rrggbb`, for the ledger, the gauge and the sheet. */
  colour: string;
  locked: boolean;
  /** Triangles this part must keep to, or 0 where it has no fixed budget. */
  budget: number;
  /** Whether its own budget is only the most it may have. */
  capped: boolean;
  /** Share of the asset's triangles this part gets, 0 … 1, or 0 to share what is left with the others. */
  share: number;
  /** Parts of one group are chosen, hidden and named together; "" for none. */
  group: string;
  /** Simple shapes that stand for pieces of the source. */
  standIns: readonly PartStandIn[];
  /** Where this part is a copy of another one, worked there and only placed here. */
  repeat: Repeat | null;
  source: Mesh | null;
  /** What work is done on in place of the source; null where there is none, or nobody has looked yet. */
  settled: SettledSource | null;
  game: Mesh | null;
  /** The game mesh as it was last laid out, where that was another one: what its seams and islands were. */
  previousUnwrap: Mesh | null;
  /** Lighter game meshes for farther away, falling. */
  levels: readonly Mesh[];
  /** The source as it came in, where `source` is a lighter stand-in for it. */
  dense: Mesh | null;
  /** Whether `source` is a new skin over `dense`, which is what is baked. */
  skinned: boolean;
  /** What the view draws in place of a source that is too heavy to be drawn. */
  light: Mesh | null;
  /** What the source would become by what was tried on it last, as the view draws it. */
  tried: Mesh | null;
  hulls: Hull[];
}

/** A piece that occurs again: the other part's meshes, UVs and hulls under a matrix. */
export interface Repeat {
  /** Name of the part that is worked. */
  of: string;
  /** 16 numbers, column by column. */
  matrix: readonly number[];
}

/** What a stage came to, and what it was made from. */
export interface StageResult {
  operation: string;
  options: Record<string, unknown>;
  report: Record<string, unknown>;
  headline: string;
  /** Prints of each input at the time, see core/asset/stale.ts. */
  madeFrom: Record<string, string>;
  /** Prints of what figures of the report hang on besides. */
  toldOf?: Record<string, string>;
}

/** One thing to be delivered, in memory. Immutable by convention. */
export interface Asset {
  name: string;
  brief: Brief;
  parts: readonly Part[];
  maps: readonly BakedMap[];
  /** Maps that others stand in for: baked ones, or brought in and not in use. */
  aside: readonly BakedMap[];
  looks: readonly SurfaceLook[];
  palette: readonly PaletteEntry[];
  references: readonly ReferencePicture[];
  /** What was painted after the sheet, or null. */
  painted: PaintedPicture | null;
  /** How the sources were last collapsed, or null where nobody reduced them yet. */
  record: KeptRecord | null;
  /** Rules that settling the sources leaves out. */
  settleWithout: readonly SettleRule[];
  results: Partial<Record<Stage, StageResult>>;
  /** Reports of operations that look without making a stage's result, by operation id. */
  reports: Record<string, StageResult>;
}

/** The name of an asset until somebody names it, or brings a file in. */
export const UNNAMED = "New asset";

/** A new asset with a brief that has its defaults. */
export function createAsset(name: string, parts: readonly Part[] = []): Asset {
  return {
    name,
    brief: DEFAULT_BRIEF,
    parts,
    maps: [],
    aside: [],
    looks: [],
    palette: [],
    references: [],
    painted: null,
    record: null,
    settleWithout: [],
    results: {},
    reports: {},
  };
}

/** Calm, well apart colours for parts; they repeat after twelve. */
const PART_COLOURS = [
  "#8a7fb8",
  "#7b9fa9",
  "#c4a574",
  "#a79bc9",
  "#a9c1bb",
  "#d9c39b",
  "#6f8f86",
  "#b58f8a",
  "#8f9bb8",
  "#b3b08a",
  "#9a86a0",
  "#c7b2a6",
];

/** A part with what is given and nothing else; its place among the parts gives its colour. */
export function createPart(
  name: string,
  index: number,
  rest: Partial<Part> = {},
): Part {
  return {
    name,
    colour: PART_COLOURS[index % PART_COLOURS.length],
    locked: false,
    budget: 0,
    capped: false,
    share: 0,
    group: "",
    standIns: [],
    repeat: null,
    source: null,
    game: null,
    previousUnwrap: null,
    levels: [],
    dense: null,
    skinned: false,
    light: null,
    tried: null,
    settled: null,
    hulls: [],
    ...rest,
  };
}

/**
 * The parts an operation is to work on: those named, or all; locked ones never, nor repeats, which follow the part
 * they repeat.
 * @throws MissingInputError for a name that is not in the asset
 */
export function chosenParts(
  asset: Asset,
  names: readonly string[],
): Set<string> {
  for (const name of names)
    if (!asset.parts.some((part) => part.name === name))
      throw new MissingInputError(`there is no part "${name}"`);
  return new Set(
    asset.parts
      .filter(
        (part) =>
          !part.locked &&
          !part.repeat &&
          (!names.length || names.includes(part.name)),
      )
      .map((part) => part.name),
  );
}

/** The part of a name. @throws MissingInputError */
export function partOf(asset: Asset, name: string): Part {
  const part = asset.parts.find((each) => each.name === name);
  if (!part) throw new MissingInputError(`there is no part "${name}"`);
  return part;
}

/** Triangles a part must keep to by its own budget or share, or 0 where it shares what the others leave. */
export const budgetOf = (
  asset: Pick<Asset, "brief">,
  part: Pick<Part, "budget" | "share">,
) => part.budget || Math.round(part.share * asset.brief.triangles);

/** @throws MissingInputError where no part has the mesh asked for */
export function requireMeshes(asset: Asset, which: "source" | "game"): void {
  if (asset.parts.some((part) => part[which])) return;
  throw new MissingInputError(
    which === "source"
      ? "there is no source mesh yet: bring a file in at Intake"
      : "there is no game mesh yet: make one at Reduce, or bring one in at Intake",
  );
}
