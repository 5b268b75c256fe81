import type { Placement, PackSettings, Turned } from "./types";
import type { Mask, Silhouette, Spot } from "./raster";
import {
  coverAll,
  maskOf,
  Raster,
  runsOf,
  sampled,
  silhouetteOf,
} from "./raster";

export const FINE = 1024;

/** The sheet in cells. */
export interface Grid {
  across: number;
  up: number;
  /** px of a cell */
  cell: number;
  gap: number;
  margin: number;
  /** What does not move, with its gap, or null. */
  blocked: { mask: Mask; gap: number } | null;
}

/** The sheet as cells, with what gap and margin come to in them. */
export function gridOf(cells: number, options: PackSettings): Grid {
  const { width, height, padding, margin = padding / 2 } = options;
  const cell = Math.max(width, height) / cells;
  const grid: Grid = {
    across: Math.floor(width / cell + 1e-9),
    up: Math.floor(height / cell + 1e-9),
    cell,
    gap: Math.ceil(padding / cell - 1e-9),
    margin: Math.ceil(margin / cell - 1e-9),
    blocked: null,
  };
  if (options.blocked?.length) {
    const { across, up, gap } = grid;
    const bits = new Uint8Array(across * up);
    coverAll(bits, across, up, options.blocked, 1 / cell);
    grid.blocked = { mask: runsOf(bits, across, up), gap };
  }
  return grid;
}

/** All turns of all islands with half the padding round them, drawn once to be looked at on other cells. */
interface Looks {
  of: Silhouette[][];
  /** At which scale they were drawn, and px of one of their cells. */
  scale: number;
  cell: number;
  /** px round an island that belong to its silhouette. */
  round: number;
}

/** The outlines of islands in every way they may lie, at a scale. */
export function silhouettesOf(
  items: readonly Turned[][],
  scale: number,
  { width, height, padding }: PackSettings,
): Looks {
  const longer = Math.max(width, height);
  const cell = longer / Math.min(FINE, longer);
  const round = Math.round(padding / 2 / cell);
  return {
    of: items.map((turns) =>
      turns.map((item) => silhouetteOf(maskOf(item, scale / cell), round)),
    ),
    scale,
    cell,
    round: round * cell,
  };
}

/** The silhouettes on the cells of a grid at a scale. */
export function masksOf(looks: Looks, scale: number, { cell }: Grid): Mask[][] {
  const step = (cell / looks.cell) * (looks.scale / scale);
  return looks.of.map((turns) => turns.map((each) => sampled(each, step)));
}

/** A grid on which silhouettes lie side by side: the padding is in them already. */
export function looseGrid(
  looks: Looks,
  cells: number,
  options: PackSettings,
): Grid {
  const { width, height, padding, margin = padding / 2 } = options;
  return {
    ...gridOf(Math.min(cells, Math.max(width, height)), {
      ...options,
      padding: looks.round,
      margin: Math.max(0, margin - looks.round),
    }),
    gap: 0,
  };
}

/** Largest first: by length, by area, by box. */
export function firstOrders(items: readonly Turned[][]): number[][] {
  const tight = items.map(([item]) => item);
  const sizes = [
    tight.map((item) => Math.max(item.width, item.height)),
    tight.map((item) => item.area),
    tight.map((item) => item.width * item.height),
  ];
  return sizes.map((by) =>
    items.map((_, i) => i).sort((a, b) => by[b] - by[a] || a - b),
  );
}

/** Places islands in an order, each as low as it goes, or null where not all find room. */
export function placeAll(
  masks: readonly Mask[][],
  order: readonly number[],
  grid: Grid,
): Spot[] | null {
  const sheet = new Raster(grid.across, grid.up, grid.margin);
  if (grid.blocked) sheet.block(grid.blocked.mask, 0, 0, grid.blocked.gap);
  const spots: Spot[] = [];
  for (const i of order) {
    const found = sheet.place(masks[i], grid.gap);
    if (!found) return null;
    spots[i] = found;
  }
  return spots;
}

/** Where an island that stands in a cell lies, px. */
export const placementOf = (
  { angle, left, bottom }: Turned,
  { x, y }: Spot,
  scale: number,
  { cell }: Grid,
): Placement => ({
  angle,
  x: x * cell - scale * left,
  y: y * cell - scale * bottom,
});
