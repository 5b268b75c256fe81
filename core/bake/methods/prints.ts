import type { Asset, Part } from "../../asset/asset";
import { streamRef } from "../../asset/document";
import { workedParts } from "../../asset/repeats";
import type { BakedMap, BakedKind } from "../../base/pictures";
import type { Mesh } from "../../mesh/mesh";
import { boundsOf } from "../../space/bounds";
import { CHANNEL_OF, CHANNELS } from "./channels";
import { depthOf } from "./map-images";
import type { MapsWanted } from "./maps";
import { bakesItself } from "./scene";
import { materialsOf } from "./targets";

/** Raised when the same input and options no longer give the same maps. */
const KERNEL = 2;

/** Names of the states that the islands of each part were baked from: equal names, equal texels. */
export type PartPrints = Readonly<Record<string, string>>;

/** What one map was baked from, and the map as the bake left it. */
export interface Print {
  parts: PartPrints;
  map: string;
}

/** By map. */
export type Prints = Partial<Record<BakedKind, Print>>;

const digest = (value: unknown): string =>
  streamRef(new TextEncoder().encode(JSON.stringify(value))).hash;

const streams = (
  mesh: Mesh | null,
  ...names: (
    | "positions"
    | "faceStarts"
    | "corners"
    | "normals"
    | "hard"
    | "uvs"
    | "copies"
    | "ids"
    | "colours"
    | "faceMaterials"
    | "rounds"
    | "cage"
  )[]
) =>
  mesh && names.map((name) => (mesh[name] ? streamRef(mesh[name]).hash : null));

/** The pictures that give sources their colour, and where they lie. */
function coloursOf({ looks, parts }: Asset): unknown[] {
  const pictures = looks.flatMap(({ material, colour, pictures }) =>
    pictures?.colour
      ? [
          [
            material,
            colour,
            streamRef(pictures.colour.bytes).hash,
            pictures.colour.placing,
          ],
        ]
      : [],
  );
  return pictures.length
    ? [pictures, parts.map(({ source }) => streams(source, "uvs"))]
    : [];
}

/** What of a game mesh is baked. */
const GAME_STREAMS = [
  "positions",
  "faceStarts",
  "corners",
  "normals",
  "hard",
  "uvs",
  "copies",
  "rounds",
  "cage",
] as const;

/** What a part is baked from. */
const sourceOf = ({ source, dense, skinned }: Part) =>
  (skinned && dense ? [dense] : [source]).map((mesh) => [
    streams(
      mesh,
      "positions",
      "faceStarts",
      "corners",
      "normals",
      "hard",
      "ids",
      "colours",
      "faceMaterials",
    ),
    mesh?.materials,
  ]);

/** The name of the state of a map, all its sheets. */
export const printOfMap = (
  maps: readonly BakedMap[],
  kind: BakedKind,
): string =>
  digest(
    maps
      .filter((map) => map.kind === kind)
      .map(({ pixels, ...map }) => [map, pixels && streamRef(pixels).hash]),
  );

/** The settings that a map's texels hang on. */
function settingsOf(kind: BakedKind, wanted: MapsWanted): unknown[] {
  const channel = CHANNEL_OF[kind];
  const looksRound = channel === "sky" || channel === "bent";
  return [
    kind,
    [wanted.width, wanted.height, wanted.grid, wanted.padding],
    [wanted.apart, wanted.pairs, [...(wanted.catches ?? [])], wanted.pieces],
    [wanted.distance, wanted.cards, depthOf(kind, wanted.depth)],
    CHANNELS[channel].rays && [wanted.rays, wanted.floor],
    looksRound && [wanted.reach, wanted.cone],
    channel === "curve" && wanted.radius,
    channel === "thickness" && wanted.depthUnder,
    kind === "normal" && wanted.greenUp,
    kind === "height" && wanted.range,
    kind === "opacity" && [wanted.grow ?? 0, wanted.inverts ?? false],
    (kind === "normal" || kind === "object") && (wanted.round ?? 0),
  ];
}

/** Names of what the islands of each worked part would be baked from, for one map. */
export function printsOf(
  asset: Asset,
  kind: BakedKind,
  wanted: MapsWanted,
): PartPrints {
  const channel = CHANNEL_OF[kind];
  const loose = asset.parts.filter((part) => part.source && !part.game);
  const all = asset.parts.filter(({ source }) => source);
  const box = () =>
    boundsOf(
      ...asset.parts.flatMap(({ source, game }) =>
        [source, game].flatMap((mesh) => (mesh ? [mesh.positions] : [])),
      ),
    );
  const common = digest([
    KERNEL,
    settingsOf(kind, wanted),
    asset.settleWithout,
    loose.map(sourceOf),
    // What lies round a place may belong to any part, and lengths that follow from the size of everything too; and so
    // may what is caught besides, and what a source that is only baked lies nearest to.
    (CHANNELS[channel].rays || wanted.apart || wanted.catches?.size) &&
      all.map(sourceOf),
    bakesItself(asset, wanted) &&
      (CHANNELS[channel].rays
        ? asset.parts.map(({ game }) => streams(game, ...GAME_STREAMS))
        : true),
    channel === "position" && box(),
    channel === "id" && asset.palette.map(({ colour }) => colour),
    channel === "material" && materialsOf(asset),
    channel === "colour" && coloursOf(asset),
    channel === "part" && asset.parts.map(({ name }) => name),
  ]);
  return Object.fromEntries(
    workedParts(asset).flatMap((part) =>
      part.game?.uvs
        ? [
            [
              part.name,
              digest([
                common,
                sourceOf(part),
                streams(part.game, ...GAME_STREAMS),
                wanted.distances?.get(part.name) ?? 0,
              ]),
            ],
          ]
        : [],
    ),
  );
}
