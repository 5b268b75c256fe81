/** One colour of the ID map. */
export interface PaletteEntry {
  name: string;
  /** `#rrggbb` */
  colour: string;
}

/** A picture on a plane in the view, to work after. Never picked, never shipped. */
export interface ReferencePicture {
  name: string;
  kind: "png" | "jpeg";
  /** px */
  width: number;
  height: number;
  /** Which way the picture faces. */
  plane: "front" | "side" | "top";
  /** Height in the world, metres. */
  size: number;
  /** Middle of the lower edge, metres. */
  at: readonly [number, number, number];
  /** 0 … 1 */
  opacity: number;
  bytes: Uint8Array;
}

/** A picture painted after the sheet, to be seen on the model. */
export interface PaintedPicture {
  name: string;
  kind: "png" | "jpeg";
  /** px */
  width: number;
  height: number;
  bytes: Uint8Array;
}

/** Maps that are baked, by the names that files carry. */
export const MAP_KINDS = [
  "normal",
  "object",
  "ao",
  "curvature",
  "bent",
  "position",
  "gradient",
  "thickness",
  "height",
  "id",
  "material",
  "opacity",
  "colour",
  "part",
  "visibility",
  "status",
] as const;

export type BakedKind = (typeof MAP_KINDS)[number];

/** Those, and how far off the look is that they give. */
export type MapKind = BakedKind | "angle";

/** All that can be looked at. */
export const SEEN_KINDS: readonly MapKind[] = [...MAP_KINDS, "angle"];

/** Whether a map only tells how a bake went: it is looked at, and never shipped. */
export const tellsOfBake = (kind: MapKind): boolean =>
  kind === "status" || kind === "angle";

/** Maps that may be brought in from elsewhere. */
export const BROUGHT_KINDS = MAP_KINDS.filter((kind) => !tellsOfBake(kind));

const placeOf = (kind: MapKind) => SEEN_KINDS.indexOf(kind);

/** Maps sheet by sheet, each in the order of the kinds. */
export const mapsInOrder = (maps: readonly BakedMap[]): BakedMap[] =>
  maps.toSorted(
    (a, b) =>
      (a.tile ?? 0) - (b.tile ?? 0) || placeOf(a.kind) - placeOf(b.kind),
  );

/** What each map is called where people read it. */
export const MAP_TITLES: Readonly<Record<MapKind, string>> = {
  normal: "normal map",
  object: "object normals",
  ao: "occlusion",
  curvature: "curvature",
  bent: "bent normals",
  position: "position",
  gradient: "gradient",
  thickness: "thickness",
  height: "height",
  id: "IDs",
  material: "materials",
  opacity: "opacity",
  colour: "colour",
  part: "parts",
  visibility: "visibility",
  status: "what rays met",
  angle: "look off",
};

/** A baked image. Rows run from the top of the sheet (v = 1) down. */
/** Share of covered texels that may miss the source. */
export const MISSED_ALLOWED = 1e-4;

export interface BakedMap {
  kind: MapKind;
  /** Which of several sheets it is for: 0, or left out, for the first one. */
  tile?: number;
  width: number;
  height: number;
  channels: 1 | 3;
  depth: 8 | 16;
  pixels: Uint8Array | Uint16Array;
  /** The file that it was brought in from; a baked one has none. */
  from?: string;
  /** The UVs that it was brought in for, see `mapsLaidFor`. */
  laidFor?: string;
}

/** How one material of the game meshes looks, as far as Finish goes. */
export interface SurfaceLook {
  material: string;
  /** `#rrggbb` */
  colour: string;
  roughness: number;
  metalness: number;
  /** 0 … 1, 1 where left out; what lets light through hides nothing behind it. */
  opacity?: number;
  /** Alpha of the colour picture under which nothing is seen, 0 where it fades; where left out alpha says nothing. */
  cutOff?: number;
  /** Pictures that the source came with, by what they say. */
  pictures?: Partial<Record<PictureUse, SurfacePicture>>;
}

export type PictureUse = "colour" | "normal" | "opacity";

/** A picture that lies on the surface by its UVs. */
export interface SurfacePicture {
  name: string;
  kind: "png" | "jpeg";
  /** px */
  width: number;
  height: number;
  /** PNG or JPEG as it came. */
  bytes: Uint8Array;
  /** Where UVs lie on it, v up: u' = a u + b v + c, v' = d u + e v + f as [a, b, c, d, e, f]; as they are where left out. */
  placing?: readonly number[];
}
