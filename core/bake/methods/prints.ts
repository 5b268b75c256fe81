import type { Asset, Part } from "../../asset/asset";
import { streamRef } from "../../asset/document";
import { workedParts } from "../../asset/repeats";
import type { BakedMap } from "../../base/pictures";
import type { Mesh } from "../../mesh/mesh";
import { boundsOf } from "../../space/bounds";
import { channelsOf, CHANNELS } from "./channels";
import type { MapsWanted } from "./maps";
import { materialsOf } from "./scene";

/** Raised when the same input and options no longer give the same maps. */
const KERNEL = 1;

/** Names of the states that maps were baked from: equal names, equal texels. */
export interface Prints {
  /** Of the islands of each part. */
  parts: Record<string, string>;
  /** The maps as the bake left them. */
  maps: string;
}

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
  )[]
) =>
  mesh && names.map((name) => (mesh[name] ? streamRef(mesh[name]).hash : null));

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

/** The name of a state of maps. */
export const printOfMaps = (maps: readonly BakedMap[]): string =>
  digest(
    maps.map(({ pixels, ...map }) => [map, pixels && streamRef(pixels).hash]),
  );

/** Names of what the islands of each worked part would be baked from. */
export function printsOf(
  asset: Asset,
  { distances, ...wanted }: MapsWanted,
): Record<string, string> {
  const { maps } = wanted;
  const channels = channelsOf(maps);
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
    wanted,
    asset.settleWithout,
    loose.map(sourceOf),
    // What lies round a place may belong to any part, and lengths that follow from the size of everything too.
    channels.some((name) => CHANNELS[name].rays) && all.map(sourceOf),
    channels.includes("position") && box(),
    channels.includes("id") && asset.palette.map(({ colour }) => colour),
    channels.includes("material") && materialsOf(asset),
    channels.includes("part") && asset.parts.map(({ name }) => name),
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
                streams(
                  part.game,
                  "positions",
                  "faceStarts",
                  "corners",
                  "normals",
                  "hard",
                  "uvs",
                  "copies",
                ),
                distances?.get(part.name) ?? 0,
              ]),
            ],
          ]
        : [],
    ),
  );
}
