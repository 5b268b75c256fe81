import type { Asset } from "../../asset/asset";
import { mapsLaidFor } from "../../asset/laid-for";
import { MeshFormatError, OptionsError } from "../../base/errors";
import type { BakedKind, BakedMap, MapKind } from "../../base/pictures";
import { BROUGHT_KINDS, mapsInOrder } from "../../base/pictures";
import type { GivenFile } from "../../formats/index";
import { flipGreen } from "../../formats/png";
import { deepPixels } from "../../formats/picture-pixels";
import { tilesUsed, udimOf } from "../../mesh/tiles";

/** Maps of which each channel says something of its own. */
const COLOURED: readonly BakedKind[] = [
  ...(["normal", "object", "bent", "position"] as const),
  ...(["id", "material", "colour", "part"] as const),
];

/** By how much the sides of a picture may be out of the sheet's proportions. */
const SKEWED = 0.01;

const isFor =
  ({ kind, tile = 0 }: Pick<BakedMap, "kind" | "tile">) =>
  (other: BakedMap) =>
    other.kind === kind && (other.tile ?? 0) === tile;

/** An asset with baked maps alone in use: what a bake goes on from. What was brought in lies aside. */
export const withBakedInUse = (asset: Asset): Asset =>
  dealt(asset, ({ from }) => !from);

/** An asset in which what was brought in and in use before is so again; what lay aside stays there. */
export function withBroughtAsBefore(asset: Asset, before: Asset): Asset {
  const used = before.maps.filter(({ from }) => from);
  return dealt(asset, (map) => Boolean(map.from) === used.some(isFor(map)));
}

/** An asset whose maps are dealt out again, into those in use and those aside. */
function dealt(asset: Asset, isUsed: (map: BakedMap) => boolean): Asset {
  const all = [...asset.maps, ...asset.aside];
  return {
    ...asset,
    maps: mapsInOrder(all.filter(isUsed)),
    aside: mapsInOrder(all.filter((map) => !isUsed(map))),
  };
}

/** Whether a map of a kind was brought in, and whether it stands in for the baked one. */
export function broughtOf(
  { maps, aside }: Pick<Asset, "maps" | "aside">,
  kind: MapKind,
): "none" | "used" | "aside" {
  const is = (map: BakedMap) => map.kind === kind && map.from !== undefined;
  return maps.some(is) ? "used" : aside.some(is) ? "aside" : "none";
}

/** An asset that uses the baked or the brought maps of a kind, of each sheet the one that is there where there is one. */
export function using(asset: Asset, kind: MapKind, brought: boolean): Asset {
  const all = [...asset.maps, ...asset.aside];
  return dealt(asset, (map) =>
    map.kind === kind
      ? Boolean(map.from) === brought || all.filter(isFor(map)).length === 1
      : asset.maps.includes(map),
  );
}

/** What kind of map and which sheet a file is of by its name, `lamp_normal.1002.png`; null where it says nothing. */
export function kindInName(
  file: string,
): { kind: BakedKind; udim: number | null } | null {
  const stem = file.replace(/\.[^.]+$/, "").toLowerCase();
  const udim = /[._-](\d{4})$/.exec(stem);
  const word = stem
    .slice(0, udim?.index)
    .split(/[._\- ]/)
    .at(-1);
  const kind = BROUGHT_KINDS.find((each) => each === word);
  return kind ? { kind, udim: udim ? Number(udim[1]) : null } : null;
}

/** How a file is taken for a map. */
export interface BroughtAs {
  kind: BakedKind;
  /** Which sheet, from 0. */
  tile: number;
  /** Whether green points up in it, and in the asset's own maps. */
  greenUp: boolean;
  ownGreenUp: boolean;
}

/**
 * A map from a PNG or JPEG, at its own size and depth.
 * @throws MeshFormatError for what is no picture, or has not the sheet's proportions
 */
export function readBrought(
  { name, bytes }: GivenFile,
  asset: Asset,
  { kind, tile, greenUp, ownGreenUp }: BroughtAs,
): BakedMap {
  const { width, height, depth, pixels: rgb } = deepPixels(name, bytes);
  const { sheetSize, sheetHeight } = asset.brief;
  const wanted = sheetSize / (sheetHeight || sheetSize);
  if (Math.abs(width / height / wanted - 1) > SKEWED)
    throw new MeshFormatError(
      name,
      `it is ${width} × ${height} px, and the sheet ${sheetSize} × ${sheetHeight || sheetSize}: their proportions differ`,
    );
  const channels = COLOURED.includes(kind) ? 3 : 1;
  const map: BakedMap = {
    kind,
    ...(tile > 0 && { tile }),
    ...{ width, height, channels, depth },
    pixels: channels === 3 ? rgb : rgb.filter((_, i) => i % 3 === 0),
    from: name,
    laidFor: mapsLaidFor(asset),
  };
  return kind === "normal" && greenUp !== ownGreenUp ? flipGreen(map) : map;
}

/** The sheet of a number such as 1002, from 0. @throws OptionsError where no islands lie on it */
export function broughtTile(asset: Asset, udim: number): number {
  const used = tilesUsed(asset.parts.flatMap(({ game }) => game ?? []));
  const tile = used.find((each) => udimOf(each) === udim);
  if (tile === undefined)
    throw new OptionsError("bake/bring-map", {
      sheet: `no islands lie on sheet ${udim}: there are ${used.map(udimOf).join(", ")}`,
    });
  return tile;
}

/** The asset with a map beside or in the place of the one that there was. */
export function withBrought(asset: Asset, map: BakedMap): Asset {
  const others = (list: readonly BakedMap[]) =>
    list.filter((each) => !each.from || !isFor(map)(each));
  return using(
    {
      ...asset,
      maps: [...others(asset.maps), map],
      aside: others(asset.aside),
    },
    map.kind,
    true,
  );
}

/** The asset without what was brought in of a kind. */
export function withoutBrought(asset: Asset, kind: MapKind): Asset {
  const rest = (list: readonly BakedMap[]) =>
    list.filter((map) => map.kind !== kind || !map.from);
  return using(
    { ...asset, maps: rest(asset.maps), aside: rest(asset.aside) },
    kind,
    false,
  );
}
