import { ArnikError } from "../errors";
import { seededRandom } from "../space/random";
import type { Mask, Silhouette } from "./pack/raster";
import {
  coverAll,
  maskOf,
  Raster,
  runsOf,
  sampled,
  silhouetteOf,
} from "./pack/raster";
import type { Shape, Spot } from "./pack/separate";
import { Separation, shapeOf } from "./pack/separate";
import type { Turned } from "./pack/turned";
import { turnsOf } from "./pack/turned";

/** An outline to be placed: triangles in metres, 6 numbers each. */
export interface PackItem {
  triangles: Float64Array;
}

export interface Placement {
  /** Turn in radians, then shift in pixels from the lower left of the sheet. */
  angle: number;
  x: number;
  y: number;
}

export interface PackResult {
  placements: Placement[];
  /** Pixels per metre that all islands got. */
  texelsPerMetre: number;
  /** Sweeps of the search, to be given again for the same bytes. */
  rounds: number;
}

export type Rotation = "any" | "right angles" | "none";

export interface PackOptions {
  /** px */
  width: number;
  height: number;
  /** Free pixels between islands; half of it is kept at the border. */
  padding: number;
  /** Free pixels along the border of the sheet, or half the padding where left out. */
  margin?: number;
  /** Pixels per metre, or 0 for as many as fit. */
  texelsPerMetre: number;
  /** How islands may be turned. */
  rotation?: Rotation;
  /** Sweeps of the search for a larger scale. */
  rounds?: number;
  /** Time for the search; 0 leaves it to the rounds. */
  seconds?: number;
  /** What lies on the sheet already and does not move: triangles in pixels, 6 numbers each. */
  blocked?: Float64Array | null;
}

/** Sweeps where neither rounds nor seconds are said. */
export const DEFAULT_ROUNDS = 40;

/** Cells along the longer edge of the sheet: to find a first scale, to search, to settle. */
const COARSE = 256;
const SEARCH = 320;
const FINE = 1024;
/** More islands than this are only put one after the other: there is little to gain and much to look at. */
const CROWD = 400;
/** What a step of the search gains in scale: much at first, less where that does not come out. */
const STEPS = [1.015, 1.008, 1.004, 1.002];
/** Sweeps after which a step is given up, and how often it is tried again before the next smaller one. */
const PATIENCE = 120;
/** Depth in cells for each island at which the rest is left to settling. */
const NEARLY = 0.6;
/** Settling on finer cells: cells a move may go, sweeps, and what is given up at each step. */
const SETTLE = { reach: 5, vain: 6, step: 0.995 };

/**
 * Packs islands by their true outline at one scale. A first layout comes from putting one after the other at the
 * lowest free place of all its turns; then the islands grow a little all at once and are moved until none overlap
 * (pack/separate.ts), again and again; last the layout is settled on a fine raster.
 *
 * Notes: changing the order of a lowest-place packing instead reached 0.70 of the sheet on 60 mixed islands in
 * half a minute, and never more than 0.74. Growing and separating starts there and gains a tenth in five seconds,
 * because all islands move and turn at once. Cells that are touched count as covered and the gap is kept between
 * cells, so the padding holds at every scale; finer cells only waste less.
 * @param best told the share of the sheet covered whenever the search gets farther, and the share of time gone
 * @throws ArnikError where the islands do not fit at the wanted density
 */
export function packIslands(
  items: readonly PackItem[],
  options: PackOptions,
  check: () => void,
  best: (fill: number, gone: number) => void = () => {},
): PackResult {
  const crowd = items.length > CROWD;
  const rotation = options.rotation ?? "any";
  const turned = items.map((item) =>
    turnsOf(item, crowd && rotation === "any" ? "right angles" : rotation),
  );
  const area = turned.reduce((sum, [item]) => sum + item.area, 0);
  const { width, height, texelsPerMetre: wanted } = options;
  if (!items.length || !(area > 0))
    return {
      placements: items.map(() => ({ angle: 0, x: 0, y: 0 })),
      texelsPerMetre: wanted || 1,
      rounds: 0,
    };
  const grid = (cells: number) =>
    gridOf(Math.min(cells, Math.max(width, height)), options);
  const orders = firstOrders(turned);
  const fine = grid(FINE);
  const most = wanted || Infinity;
  if (wanted > 0)
    for (const order of orders) {
      check();
      const spots = placeAll(
        turned.map((turns) =>
          turns.map((item) => maskOf(item, wanted / fine.cell)),
        ),
        order,
        fine,
      );
      if (spots)
        return {
          placements: spots.map((spot, i) =>
            placementOf(turned[i][spot.turn], spot, wanted, fine),
          ),
          texelsPerMetre: wanted,
          rounds: 0,
        };
    }
  let scale = Math.min(most, Math.sqrt((0.85 * width * height) / area));
  const looks = silhouettesOf(turned, scale, options);
  const coarse = looseGrid(looks, COARSE, options);
  let spots: Spot[] | null = null;
  for (; !spots; scale *= 0.97) {
    const masks = masksOf(looks, scale, coarse);
    for (const order of orders) {
      check();
      spots ??= placeAll(masks, order, coarse);
    }
    if (scale * scale * area < 1e-6)
      throw new ArnikError(
        `no place is left on the sheet of ${width} × ${height} px: free some of it, or ask for less padding`,
      );
  }
  scale /= 0.97;
  if (crowd) {
    const { texelsPerMetre, ...rest } = lowest(
      turned,
      orders[0],
      fine,
      Math.min(most, scale),
      check,
    );
    refuseLess(texelsPerMetre, options);
    return { texelsPerMetre, ...rest };
  }
  const found = grow(
    turned,
    looks,
    spots.map(({ turn, x, y }) => ({
      turn,
      x: x * coarse.cell,
      y: y * coarse.cell,
    })),
    scale,
    most,
    options,
    check,
    (s, gone) => best((s * s * area) / (width * height), gone),
  );
  const settled = settle(
    turned,
    found.spots.map(({ turn, x, y }) => ({
      turn,
      x: Math.round((x + looks.round) / fine.cell),
      y: Math.round((y + looks.round) / fine.cell),
    })),
    fine,
    Math.min(most, 1.01 * found.scale),
    check,
  );
  refuseLess(settled.texelsPerMetre, options);
  return { ...settled, rounds: found.rounds };
}

/** @throws ArnikError where less than the wanted density came out */
function refuseLess(
  reached: number,
  { width, height, texelsPerMetre: wanted }: PackOptions,
): void {
  if (reached >= 0.9999 * wanted) return;
  throw new ArnikError(
    `the islands do not fit on a sheet of ${width} × ${height} px at ${Math.round(wanted)} texels per metre, ` +
      `but at ${Math.floor(reached)} they do: ask for a lower density, a larger sheet, more tiles, or 0 for as many as fit`,
  );
}

/** Islands one after the other on fine cells, each as low as it goes, at the largest scale at which all find room. */
function lowest(
  items: readonly Turned[][],
  order: readonly number[],
  grid: Grid,
  from: number,
  check: () => void,
): PackResult {
  for (let scale = from; ; scale *= 0.97) {
    check();
    const spots = placeAll(
      items.map((turns) =>
        turns.map((item) => maskOf(item, scale / grid.cell)),
      ),
      order,
      grid,
    );
    if (spots)
      return {
        placements: spots.map((spot, i) =>
          placementOf(items[i][spot.turn], spot, scale, grid),
        ),
        texelsPerMetre: scale,
        rounds: 0,
      };
  }
}

/** The sheet in cells. */
interface Grid {
  across: number;
  up: number;
  /** px of a cell */
  cell: number;
  gap: number;
  margin: number;
  /** How deep cells lie in what does not move, or null where nothing does. */
  blocked: { depth: Uint8Array; mask: Mask; gap: number } | null;
}

function gridOf(cells: number, options: PackOptions): Grid {
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
    const mask = runsOf(bits, across, up);
    const shape = shapeOf(mask, gap);
    const depth = new Uint8Array(across * up);
    for (let row = 0; row < up; row++)
      depth.set(
        shape.depth.subarray(
          (row + gap) * (across + 2 * gap) + gap,
          (row + gap) * (across + 2 * gap) + gap + across,
        ),
        row * across,
      );
    grid.blocked = { depth, mask, gap };
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

function silhouettesOf(
  items: readonly Turned[][],
  scale: number,
  { width, height, padding }: PackOptions,
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
function masksOf(looks: Looks, scale: number, { cell }: Grid): Mask[][] {
  const step = (cell / looks.cell) * (looks.scale / scale);
  return looks.of.map((turns) => turns.map((each) => sampled(each, step)));
}

/** A grid on which silhouettes lie side by side: the padding is in them already. */
function looseGrid(looks: Looks, cells: number, options: PackOptions): Grid {
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
function firstOrders(items: readonly Turned[][]): number[][] {
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
function placeAll(
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

/**
 * Lets the islands grow step by step, and separates them each time. Here an island is its silhouette with half the
 * padding round it, on cells that count from half covered on: what just fits is told rightly on average, and
 * settling on fine cells makes it strict.
 * @param start places of the silhouettes' lower left corners, px
 */
function grow(
  items: readonly Turned[][],
  looks: Looks,
  start: readonly Spot[],
  from: number,
  cap: number,
  options: PackOptions,
  check: () => void,
  best: (scale: number, gone: number) => void,
): { spots: Spot[]; scale: number; rounds: number } {
  const { seconds = 0 } = options;
  const grid = looseGrid(looks, items.length > 160 ? COARSE : SEARCH, options);
  const { cell } = grid;
  const random = seededRandom(items.length);
  const begun = performance.now();
  const most = seconds > 0 ? Infinity : (options.rounds ?? DEFAULT_ROUNDS);
  const gone = () =>
    seconds > 0
      ? (performance.now() - begun) / (1000 * seconds)
      : rounds / Math.max(1, most);
  let spots = start.map(({ turn, x, y }) => ({
    turn,
    x: Math.round(x / cell),
    y: Math.round(y / cell),
  }));
  let scale = from;
  let rounds = 0;
  let size = 0;
  let failed = 0;
  while (gone() < 1 && scale < cap) {
    const step = Math.min(STEPS[size], cap / scale);
    const shapes = masksOf(looks, scale * step, grid).map((turns) =>
      turns.map((mask) => shapeOf(mask, 0)),
    );
    let apart = false;
    const fits = shapes.every((turns) =>
      turns.some((each) => fitsOn(grid, each)),
    );
    rounds += fits ? 0 : 1;
    if (fits) {
      const more = (length: number) =>
        Math.round((length * scale * (step - 1)) / (2 * cell));
      const work = new Separation(
        shapes,
        grid.across,
        grid.up,
        grid.margin,
        // An island that grows keeps its middle.
        spots.map(({ turn, x, y }, i) => ({
          turn,
          x: x - more(items[i][turn].width),
          y: y - more(items[i][turn].height),
        })),
        random,
        grid.blocked?.depth ?? null,
      );
      for (let sweep = 0; sweep < PATIENCE && gone() < 1; sweep++) {
        rounds++;
        work.sweep(Infinity, check);
        if (work.depth() > NEARLY * items.length) continue;
        apart = true;
        spots = work.spots;
        break;
      }
    }
    if (apart) {
      scale *= step;
      failed = 0;
      best(scale, gone());
    } else if (++failed >= 2 || !fits) {
      failed = 0;
      if (!fits && size === STEPS.length - 1) break;
      size = Math.min(STEPS.length - 1, size + 1);
    }
  }
  return {
    spots: spots.map(({ turn, x, y }) => ({
      turn,
      x: x * cell,
      y: y * cell,
    })),
    scale,
    rounds,
  };
}

const fitsOn = (
  { across, up, margin }: Grid,
  { width, height }: Pick<Shape, "width" | "height">,
) => width <= across - 2 * margin && height <= up - 2 * margin;

/** Separates the layout on fine cells by short moves, at the largest scale at which that comes out. */
function settle(
  items: readonly Turned[][],
  spots: readonly Spot[],
  grid: Grid,
  from: number,
  check: () => void,
): { placements: Placement[]; texelsPerMetre: number } {
  for (let scale = from; ; scale *= SETTLE.step) {
    const only = items.map((turns, i) => [turns[spots[i].turn]]);
    const shapes = only.map((turns) =>
      turns.map((item) => shapeOf(maskOf(item, scale / grid.cell), grid.gap)),
    );
    if (!shapes.every(([shape]) => fitsOn(grid, shape))) continue;
    const work = new Separation(
      shapes,
      grid.across,
      grid.up,
      grid.margin,
      spots.map(({ x, y }) => ({ turn: 0, x, y })),
      seededRandom(7),
      grid.blocked?.depth ?? null,
    );
    let least = Infinity;
    for (let vain = 0; vain < SETTLE.vain;) {
      work.sweep(SETTLE.reach, check);
      const left = work.overlapping().length;
      vain = left < least ? 0 : vain + 1;
      least = Math.min(least, left);
      if (left > 0) continue;
      return {
        placements: work.spots.map((spot, i) =>
          placementOf(only[i][0], spot, scale, grid),
        ),
        texelsPerMetre: scale,
      };
    }
  }
}

const placementOf = (
  { angle, left, bottom }: Turned,
  { x, y }: Spot,
  scale: number,
  { cell }: Grid,
): Placement => ({
  angle,
  x: x * cell - scale * left,
  y: y * cell - scale * bottom,
});
