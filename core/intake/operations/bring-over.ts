import type { Asset, Part } from "../../asset/asset";
import type { BakedMap } from "../../base/pictures";
import { partOf } from "../../asset/asset";
import { MissingInputError } from "../../base/errors";
import { distinctNames } from "../../formats/raw-mesh";
import type { Mesh } from "../../mesh/mesh";
import {
  TILES_A_ROW,
  tileAt,
  tileOf,
  tilesUsed,
  udimOf,
} from "../../mesh/tiles";
import { defineOperation, field } from "../../asset/operation";
import { copyTexels, islandTexels } from "../methods/island-texels";

class BringOverOptions {
  @field({
    kind: "integer",
    label: "Asset",
    help: "Number of the asset the part comes from; on the command line --with names its file.",
    min: 1,
    max: 1000000000,
  })
  asset = 1;

  @field({
    kind: "text",
    label: "Part",
    help: "Name of the part there.",
    max: 80,
  })
  part = "";
}

export const bringOver = defineOperation({
  id: "intake/bring-over",
  stage: "intake",
  title: "Bring a part over",
  about:
    "Copies a part of another asset here, with its game mesh, UVs, hulls, looks and what was baked for it. Where others lie where its islands do, it gets a tile of its own.",
  runs: "heavy",
  takes: "game",
  asks: "asset",
  makesResult: false,
  Options: BringOverOptions,
  async run(asset, options, context) {
    if (!context.assetById)
      throw new MissingInputError(
        "there is no store of assets to bring a part over from",
      );
    const other = await context.assetById(options.asset);
    const found = partOf(other, options.part);
    const name = distinctNames([
      ...asset.parts.map((part) => part.name),
      found.name,
    ]).at(-1)!;
    const place = found.game?.uvs
      ? freePlace(asset, found.game, () => context.check())
      : { columns: 0, rows: 0 };
    const bare = (mesh: Mesh): Mesh => ({ ...mesh, uvs: null, seams: null });
    const placed = (mesh: Mesh) => (place ? shifted(mesh, place) : bare(mesh));
    const part: Part = {
      ...found,
      name,
      locked: false,
      repeat: null,
      hulls: found.hulls.map((hull) => ({
        ...hull,
        name: hull.name.replace(found.name, name),
      })),
      source: found.source && withPalette(found.source),
      game: found.game && withPalette(placed(found.game)),
      levels: found.levels.map((level) => withPalette(placed(level))),
      previousUnwrap:
        found.previousUnwrap && withPalette(placed(found.previousUnwrap)),
    };
    const known = new Set(asset.looks.map((look) => look.material));
    const materials = new Set(
      [part.source, part.game].flatMap((mesh) => mesh?.materials ?? []),
    );
    const looks = other.looks.filter(
      ({ material }) => materials.has(material) && !known.has(material),
    );
    const { maps, texels } =
      found.game?.uvs && place
        ? bakesOver(asset, other, found.game, place)
        : { maps: asset.maps, texels: 0 };
    const tiles =
      part.game?.uvs && place && (place.columns || place.rows)
        ? tilesUsed([part.game]).map(udimOf)
        : [];
    const where = tiles.length
      ? `; others lie where its islands did: they are on ${tiles.length > 1 ? "tiles" : "tile"} ${tiles.join(", ")} now`
      : place
        ? ""
        : "; no tile is free for its islands: unwrap it";
    return {
      asset: {
        ...asset,
        parts: [...asset.parts, part],
        looks: [...asset.looks, ...looks],
        maps,
      },
      headline: "",
      report: {
        part: name,
        game: part.game !== null,
        uvs: !!part.game?.uvs,
        texels,
        tiles,
        summary: `${name} came over${part.game ? " with its game mesh" : ""}${texels ? " and its bakes" : ""}${where}`,
      },
    };
  },
});

/** IDs name the other asset's palette, which stays there. */
const withPalette = (mesh: Mesh): Mesh => ({ ...mesh, ids: null });

/** Size of the sheet on which islands of two assets are held against each other, px. */
const COMPARED = 1024;

/** The nearest tiles that a part's islands can lie on beside all that lie on the asset's already, or null. */
function freePlace(
  asset: Asset,
  mesh: Mesh,
  check: () => void,
): { columns: number; rows: number } | null {
  // Repeats lie where what they repeat does.
  const others = asset.parts.flatMap(({ game, repeat }) =>
    game?.uvs && !repeat ? [game] : [],
  );
  if (!others.length) return { columns: 0, rows: 0 };
  const own = tilesUsed([mesh]);
  const known = new Set(tilesUsed(others));
  const meets = (tile: number) => {
    if (!known.has(tile)) return false;
    const texels = islandTexels(mesh, tile, COMPARED, COMPARED);
    return others.some((other) => {
      check();
      return islandTexels(other, tile, COMPARED, COMPARED).some(
        (taken, i) => taken && texels[i],
      );
    });
  };
  if (!own.some(meets)) return { columns: 0, rows: 0 };
  const at = own.map(tileAt);
  for (let rows = 0; rows < TILES_A_ROW; rows++)
    for (let columns = 0; columns < TILES_A_ROW; columns++) {
      const moved = at.map(([x, y]) =>
        tileOf(x + columns + 0.5, y + rows + 0.5),
      );
      if (moved.every((tile) => tile >= 0 && !known.has(tile)))
        return { columns, rows };
    }
  return null;
}

function shifted(
  mesh: Mesh,
  { columns, rows }: { columns: number; rows: number },
): Mesh {
  if (!mesh.uvs || !(columns || rows)) return mesh;
  return { ...mesh, uvs: mesh.uvs.map((x, i) => x + (i % 2 ? rows : columns)) };
}

/**
 * The asset's maps with the texels of one mesh's islands from the other asset's, where `columns` and `rows` of tiles
 * farther. Maps the asset does not have yet are taken over empty but for these islands.
 */
function bakesOver(
  asset: Asset,
  other: Asset,
  mesh: Mesh,
  { columns, rows }: { columns: number; rows: number },
) {
  let texels = 0;
  const maps = [...asset.maps];
  const used = new Set(tilesUsed([mesh]));
  for (const from of other.maps) {
    if (!used.has(from.tile ?? 0)) continue;
    const [x, y] = tileAt(from.tile ?? 0);
    const tile = tileOf(x + columns + 0.5, y + rows + 0.5);
    const at = maps.findIndex(
      (map) => map.kind === from.kind && (map.tile ?? 0) === tile,
    );
    const into =
      at >= 0
        ? maps[at]
        : {
            ...from,
            from: undefined,
            laidFor: undefined,
            tile,
            pixels: emptyPixels(from),
          };
    const copied = { ...into, pixels: into.pixels.slice() };
    const taken = islandTexels(
      mesh,
      from.tile ?? 0,
      copied.width,
      copied.height,
    );
    texels += copyTexels(from, copied, taken);
    if (at >= 0) maps[at] = copied;
    else maps.push(copied);
  }
  return { maps, texels };
}

function emptyPixels(map: BakedMap): BakedMap["pixels"] {
  const pixels = map.pixels.slice().fill(0);
  const full = map.depth === 16 ? 65535 : 255;
  for (let i = 0; i < pixels.length; i++)
    if (map.kind === "ao") pixels[i] = full;
    else pixels[i] = i % 3 === 2 ? full : (full + 1) / 2;
  return pixels;
}
