import type { Asset } from "../../asset/asset";
import { partOf } from "../../asset/asset";
import { profileOf } from "../../asset/profile";
import { hasCard } from "../../asset/stand-ins";
import { OptionsError } from "../../base/errors";
import { MAP_KINDS } from "../../base/pictures";
import { tilesUsed, udimOf } from "../../mesh/tiles";
import type { BakeOptions } from "./bake-options";
import type { Catching } from "./catching";
import { readCatches, readPairs } from "./catching";
import { readDistances } from "./distances";
import type { MapsWanted } from "./maps";

/** Texels of a sheet up to which what became of their rays is kept: on larger ones it would take half a gigabyte. */
const MOST_TOLD = 4096 ** 2;

/** Edge of the smallest map that is tried, texels. */
const SMALLEST = 16;

/** Texels that fill any sheet. */
const FILLS = 8192;

/**
 * What the options ask for of an asset, in metres.
 * @throws OptionsError, MissingInputError
 */
export function wantedOf(asset: Asset, options: BakeOptions): MapsWanted {
  for (const name of options.cards) partOf(asset, name);
  const cards = options.cards.length
    ? options.cards
    : asset.parts.filter(hasCard).map(({ name }) => name);
  // A card without its mask would be a board.
  const kinds = MAP_KINDS.filter((kind) =>
    kind === "normal" || kind === "ao"
      ? options[kind]
      : options.also.includes(kind) || (kind === "opacity" && cards.length > 0),
  );
  if (!kinds.length)
    throw new OptionsError("bake/maps", { also: "no map is wanted" });
  const parts = Number(options.fraction);
  const width = Math.max(
    SMALLEST,
    Math.round((options.size || asset.brief.sheetSize) / parts),
  );
  const height = Math.round(
    (width * (asset.brief.sheetHeight || asset.brief.sheetSize)) /
      asset.brief.sheetSize,
  );
  return {
    width,
    height,
    maps: width * height > MOST_TOLD ? kinds : [...kinds, "status"],
    rays: options.rays,
    grid: options.samples,
    reach: options.reach / 1000,
    cone: options.cone,
    floor: options.floor,
    radius: options.radius / 1000,
    round: options.round / 1000,
    depthUnder: options.thick / 1000,
    range: options.range / 1000,
    cards,
    ...catchingOf(asset, options),
    distance: options.distance / 1000,
    distances: distancesOf(asset, options.distances),
    depth: options.depth === "map" ? "map" : (Number(options.depth) as 8 | 16),
    // From afar a card's texels are mixed with the ground beside it, which must have its colours then.
    padding: Math.ceil(
      (options.dilate || (cards.length ? FILLS : asset.brief.padding)) / parts,
    ),
    tiles: tilesOf(asset, options.sheets),
    grow: options.grow,
    inverts: options.invert,
    greenUp:
      options.green === "profile"
        ? profileOf(asset.brief).greenUp
        : options.green === "up",
  };
}

/** Numbers of sheets from 0, undefined for all. @throws OptionsError for one that has no islands */
function tilesOf(asset: Asset, text: string): number[] | undefined {
  const words = text.split(",").flatMap((word) => word.trim() || []);
  if (!words.length) return undefined;
  const used = tilesUsed(asset.parts.flatMap(({ game }) => game ?? []));
  return words.map((word) => {
    const tile = used.find((each) => String(udimOf(each)) === word);
    if (tile === undefined)
      throw new OptionsError("bake/maps", {
        sheets: `no islands lie on a sheet "${word}": there are ${used.map(udimOf).join(", ")}`,
      });
    return tile;
  });
}

/** Which sources parts catch, and what shades them; by the parts that are worked. @throws OptionsError */
function catchingOf(
  asset: Asset,
  { spread, pairs, catches, pieces }: BakeOptions,
): Catching {
  const isPart = (name: string) =>
    asset.parts.some((part) => part.name === name);
  const wrong = (field: "pairs" | "catches", entry: string, like: string) =>
    new OptionsError("bake/maps", {
      [field]: `"${entry}" does not name parts as in ${like}`,
    });
  const readAs = readPairs(pairs, isPart);
  if (typeof readAs === "string")
    throw wrong("pairs", readAs, "hood + burner; cap + glass");
  const more = readCatches(catches, isPart);
  if (typeof more === "string")
    throw wrong("catches", more, "lid: rivets, trim; body: trim");
  return {
    apart: spread,
    pairs: readAs,
    catches: new Map(
      [...more].map(([name, others]) => [
        partOf(asset, name).repeat?.of ?? name,
        others,
      ]),
    ),
    pieces: pieces.map((name) => partOf(asset, name).repeat?.of ?? name),
  };
}

/**
 * Ray distances of single parts, metres by the name of the part that is worked. A part that has gone since its
 * distance was given is passed over.
 * @throws OptionsError, MissingInputError
 */
function distancesOf(asset: Asset, text: string): Map<string, number> {
  const read = readDistances(text);
  if (typeof read === "string")
    throw new OptionsError("bake/maps", {
      distances: `"${read}" is not a part and its distance, such as lid = 4.2`,
    });
  const before = asset.results.bake?.options.distances;
  const found = new Map<string, number>();
  for (const [name, mm] of read) {
    const isGone =
      before === text && !asset.parts.some((part) => part.name === name);
    if (!isGone) found.set(partOf(asset, name).repeat?.of ?? name, mm / 1000);
  }
  return found;
}
