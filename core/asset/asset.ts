import { MissingInputError } from "../errors";
import type { Mesh } from "../mesh/mesh";
import type { Stage } from "./stages";

/** The limits and wishes an asset is made to. */
export interface Brief {
  /** Triangles allowed for the whole asset. */
  triangles: number;
  /** Edge of the square sheet, px. */
  sheetSize: number;
  /** Free texels kept round every island, px. */
  padding: number;
  /** Wanted texels per metre, or 0 for as many as fit. */
  texelsPerMetre: number;
  /** Hulls allowed for the whole asset. */
  hulls: number;
  /** Name of a delivery profile. */
  profile: string;
}

export interface DeliveryProfile {
  name: string;
  upAxis: "y" | "z";
  /** Metres in one of the profile's units. */
  unit: number;
  /** Whether a normal map's green channel points up the sheet. */
  greenUp: boolean;
}

export const PROFILES: readonly DeliveryProfile[] = [
  { name: "y-up metres, green up", upAxis: "y", unit: 1, greenUp: true },
  {
    name: "z-up centimetres, green down",
    upAxis: "z",
    unit: 0.01,
    greenUp: false,
  },
];

export const DEFAULT_BRIEF: Brief = {
  triangles: 5000,
  sheetSize: 2048,
  padding: 8,
  texelsPerMetre: 0,
  hulls: 8,
  profile: PROFILES[0].name,
};

export type HullKind = "box" | "sphere" | "capsule" | "convex";

/** One convex collision shape, as a closed triangle mesh and, for the simple kinds, its parameters. */
export interface Hull {
  name: string;
  kind: HullKind;
  positions: Float32Array;
  triangles: Uint32Array;
}

/** A named piece of the asset. */
export interface Part {
  name: string;
  /** `#rrggbb`, for the ledger, the gauge and the sheet. */
  colour: string;
  locked: boolean;
  /** Triangles this part must keep to, or 0 to share the asset's budget. */
  budget: number;
  source: Mesh | null;
  game: Mesh | null;
  hulls: Hull[];
}

export type MapKind = "normal" | "ao";

/** A baked image. Rows run from the top of the sheet (v = 1) down. */
export interface BakedMap {
  kind: MapKind;
  width: number;
  height: number;
  channels: 1 | 3;
  depth: 8 | 16;
  pixels: Uint8Array | Uint16Array;
}

/** How one material of the game meshes looks, as far as Finish goes. */
export interface SurfaceLook {
  material: string;
  /** `#rrggbb` */
  colour: string;
  roughness: number;
  metalness: number;
}

/** What a stage came to, and what it was made from. */
export interface StageResult {
  operation: string;
  options: Record<string, unknown>;
  report: Record<string, unknown>;
  headline: string;
  /** Fingerprint of each input at the time, see `fingerprints`. */
  madeFrom: Record<string, string>;
}

/** One thing to be delivered, in memory. Immutable by convention. */
export interface Asset {
  name: string;
  brief: Brief;
  parts: readonly Part[];
  maps: readonly BakedMap[];
  looks: readonly SurfaceLook[];
  results: Partial<Record<Stage, StageResult>>;
}

export function createAsset(name: string, parts: readonly Part[] = []): Asset {
  return {
    name,
    brief: DEFAULT_BRIEF,
    parts,
    maps: [],
    looks: [],
    results: {},
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
    source: null,
    game: null,
    hulls: [],
    ...rest,
  };
}

/**
 * The parts an operation is to work on: those named, or all; locked ones never.
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
        (part) => !part.locked && (!names.length || names.includes(part.name)),
      )
      .map((part) => part.name),
  );
}

/** @throws MissingInputError where no part has the mesh asked for */
export function requireMeshes(asset: Asset, which: "source" | "game"): void {
  if (asset.parts.some((part) => part[which])) return;
  throw new MissingInputError(
    which === "source"
      ? "there is no source mesh yet: bring a file in at Intake"
      : "there is no game mesh yet: make one at Reduce, or bring one in at Intake",
  );
}

export function profileOf(brief: Brief): DeliveryProfile {
  return PROFILES.find((each) => each.name === brief.profile) ?? PROFILES[0];
}

/** A number as it is shown everywhere: thousands apart by thin spaces. */
export function spaced(value: number): string {
  return Math.round(value)
    .toString()
    .replace(/\B(?=(\d{3})+$)/g, "\u2009");
}
