import { PACK_DEFAULTS } from "./pack-meshes-options";
import type { PackMeshesOptions } from "./pack-meshes-options";
import { groupsOf, packBlocks } from "./pack-blocks";
import { ArnikError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import type { Context } from "../../base/context";
import { spanOf } from "../../base/context";
import type { PackItem, PackResult, Placement } from "./pack/types";
import { packIslands } from "./pack";
import type { Sheet } from "./sheet";
import { tileAt, tileOf } from "../../mesh/tiles";
import type { SheetIsland, SheetMove } from "./sheet-islands";
import {
  densityOfIsland,
  gatherIslands,
  moveIslands,
  packable,
  shiftBy,
} from "./sheet-islands";

export interface PackedMeshes {
  meshes: Mesh[];
  texelsPerMetre: number;
  rounds: number;
}

/**
 * Packs the islands of meshes on one sheet or several, at one density. Islands held by hand stay; those that share
 * texels follow the one whose texels they share.
 * @throws ArnikError where the wanted density does not fit
 */
export function packMeshes(
  meshes: readonly Mesh[],
  sheet: Sheet,
  wanted: Partial<PackMeshesOptions>,
  context: Context,
): PackedMeshes {
  const options = { ...PACK_DEFAULTS, ...wanted };
  const islands = gatherIslands(meshes, sheet);
  const follows = followed(islands);
  const moving = islands.flatMap((island, i) =>
    island.copy || island.held || !options.moves(island) ? [] : [i],
  );
  const staying = islands.filter(
    (island, i) => !moving.includes(i) && !island.copy,
  );
  if (!moving.length)
    return {
      meshes: [...meshes],
      texelsPerMetre: meanDensity(staying),
      rounds: 0,
    };
  // What stays has its density already: the rest gets the same.
  const given = staying.length ? meanDensity(staying) : sheet.texelsPerMetre;
  const dealt = dealOut(islands, moving, options, meshes);
  const packed = dealt.map((own, tile) => {
    const [dx, dy] = tileAt(tile);
    const blocked = staying.flatMap((each) =>
      tileOf(each.middle[0] / sheet.width, each.middle[1] / sheet.height) ===
      tile
        ? [...each.pixels].map(
            (x, k) => x - (k % 2 ? dy * sheet.height : dx * sheet.width),
          )
        : [],
    );
    const result = packTile(
      own.map((i) => islands[i]),
      meshes,
      { ...sheet, texelsPerMetre: given },
      options,
      blocked.length ? Float64Array.from(blocked) : null,
      spanOf(context, tile / dealt.length, (tile + 1) / dealt.length),
      staying.length > 0,
    );
    return { ...result, own, tile };
  });
  // Tiles share one density, the least that any of them comes to: on the others islands shrink where they lie, which
  // makes gaps wider and nothing else.
  const density = Math.min(
    ...packed
      .filter(({ own }) => own.length)
      .map((each) => each.texelsPerMetre),
  );
  const moves: (SheetMove | null)[] = islands.map(() => null);
  for (const { own, placements, tile, texelsPerMetre } of packed)
    own.forEach((i, k) => {
      moves[i] = shrunk(
        moveOf(islands[i], placements[k], texelsPerMetre, tile, sheet),
        islands[i].middle,
        density / texelsPerMetre,
      );
    });
  follows.forEach((of, i) => {
    if (of >= 0) moves[i] = moves[of];
  });
  return {
    meshes: moveIslands(meshes, islands, moves, sheet),
    texelsPerMetre: density,
    rounds: Math.max(...packed.map((each) => each.rounds)),
  };
}

function meanDensity(islands: readonly SheetIsland[]): number {
  let area = 0;
  let covered = 0;
  for (const each of islands) {
    area += each.area;
    covered += each.area * densityOfIsland(each) ** 2;
  }
  return area > 0 ? Math.sqrt(covered / area) : 0;
}

/** For each island that shares texels, the island whose texels those are: the one that lies where it does; else −1. */
export function followed(islands: readonly SheetIsland[]): Int32Array {
  const of = new Int32Array(islands.length).fill(-1);
  islands.forEach((island, i) => {
    if (!island.copy) return;
    let least = Infinity;
    islands.forEach((other, j) => {
      if (other.copy) return;
      const far =
        Math.hypot(
          other.middle[0] - island.middle[0],
          other.middle[1] - island.middle[1],
        ) + Math.abs(Math.sqrt(other.covered) - Math.sqrt(island.covered));
      if (far >= least) return;
      least = far;
      of[i] = j;
    });
  });
  return of;
}

function moveOf(
  island: SheetIsland,
  { angle, x, y }: Placement,
  texelsPerMetre: number,
  tile: number,
  sheet: Sheet,
): SheetMove {
  const { scale } = packable(island);
  const cos = texelsPerMetre * scale * Math.cos(angle);
  const sin = texelsPerMetre * scale * Math.sin(angle);
  const [dx, dy] = tileAt(tile);
  return {
    a: cos,
    b: -sin,
    c: sin,
    d: cos,
    e: x + dx * sheet.width,
    f: y + dy * sheet.height,
  };
}

/** A move after which an island is smaller by `share`, about where its middle comes to lie. */
function shrunk(
  { a, b, c, d, e, f }: SheetMove,
  [x, y]: readonly [number, number],
  share: number,
): SheetMove {
  const rest = 1 - share;
  return {
    ...{ a: share * a, b: share * b, c: share * c, d: share * d },
    e: e + rest * (a * x + b * y),
    f: f + rest * (c * x + d * y),
  };
}

/** Deals islands out over tiles: largest first, each to the tile that is least full; parts and IDs stay whole. */
function dealOut(
  islands: readonly SheetIsland[],
  moving: readonly number[],
  { tiles, deal }: PackMeshesOptions,
  meshes: readonly Mesh[],
): number[][] {
  const dealt: number[][] = Array.from({ length: tiles }, () => []);
  if (tiles === 1) return [[...moving]];
  const groups = new Map<string, number[]>();
  for (const i of moving) {
    const { mesh, faces } = islands[i];
    const key =
      deal === "part"
        ? String(mesh)
        : deal === "ID"
          ? String(meshes[mesh].ids?.[faces[0]] ?? 0)
          : `island ${i}`;
    groups.set(key, [...(groups.get(key) ?? []), i]);
  }
  const sizeOf = (list: readonly number[]) =>
    list.reduce((sum, i) => sum + islands[i].area * islands[i].weight ** 2, 0);
  const full = new Float64Array(tiles);
  for (const list of [...groups.values()].sort(
    (a, b) => sizeOf(b) - sizeOf(a) || a[0] - b[0],
  )) {
    let least = 0;
    for (let t = 1; t < tiles; t++) if (full[t] < full[least]) least = t;
    dealt[least].push(...list);
    full[least] += sizeOf(list);
  }
  return dealt;
}

/** Packs the islands of one tile, those that belong together as blocks. */
function packTile(
  islands: readonly SheetIsland[],
  meshes: readonly Mesh[],
  sheet: Sheet,
  options: PackMeshesOptions,
  blocked: Float64Array | null,
  context: Context,
  mayShrink: boolean,
): PackResult {
  const items = islands.map((island): PackItem => packable(island));
  const pack = (of: readonly PackItem[], density: number, quiet = false) =>
    packIslands(
      of,
      {
        ...sheet,
        texelsPerMetre: density,
        rotation: options.rotation,
        rounds: options.rounds,
        seconds: options.seconds,
        blocked,
      },
      () => context.check(),
      (fill, gone) => {
        if (!quiet)
          context.progress(
            Math.min(1, gone),
            `packing ${islands.length} islands, fill ${Math.round(100 * fill)} % so far`,
          );
      },
    );
  context.progress(0, `packing ${islands.length} islands`);
  const groups = groupsOf(islands, meshes, sheet, options);
  if (groups.every((group) => group.length === 1)) {
    if (!mayShrink || !sheet.texelsPerMetre)
      return pack(items, sheet.texelsPerMetre);
    // Into what is left: at the density of the rest, or as large as there is room.
    try {
      return pack(items, sheet.texelsPerMetre);
    } catch (error) {
      if (!(error instanceof ArnikError)) throw error;
      return pack(items, 0);
    }
  }
  return packBlocks(items, groups, sheet, pack);
}

/** Moves islands by whole tiles. @param tile to which one; islands keep their place within it */
export function toTile(
  meshes: readonly Mesh[],
  sheet: Sheet,
  chosen: (island: SheetIsland) => boolean,
  tile: number,
): Mesh[] {
  const islands = gatherIslands(meshes, sheet);
  const [x, y] = tileAt(tile);
  return moveIslands(
    meshes,
    islands,
    islands.map((island) =>
      chosen(island)
        ? shiftBy(
            (x - Math.floor(island.middle[0] / sheet.width)) * sheet.width,
            (y - Math.floor(island.middle[1] / sheet.height)) * sheet.height,
          )
        : null,
    ),
    sheet,
  );
}
