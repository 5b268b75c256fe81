import type {
  PackItem,
  Placement,
  PackResult,
  PackSettings,
} from "./pack/types";
import { ArnikError } from "../../base/errors";
import { seededRandom } from "../../base/random";
import type { Border } from "./pack/border";
import { borderOf } from "./pack/border";
import type { ScaleSearchInput } from "./pack/scale-search";
import { searchScale, settle } from "./pack/scale-search";
import type { Pose } from "./pack/types";
import type { Mask, Silhouette, Spot } from "./pack/raster";
import {
  coverAll,
  maskOf,
  Raster,
  runsOf,
  sampled,
  silhouetteOf,
} from "./pack/raster";
import type { Turned } from "./pack/types";
import { turnsOf } from "./pack/turned";

/** Rounds where neither rounds nor seconds are said. */
export const DEFAULT_ROUNDS = 24;

/** Cells along the longer edge of the sheet: to find a first scale, and to put islands down for good. */
const COARSE = 256;
const FINE = 1024;
/** Nodes along the longer edge for distances to borders, and px between border points at that many. */
const NODES = 512;
const POINTS_APART = 3;
/** How far islands grow over a wanted density, so that settling has something to give up. */
const OVER = 1.003;
/** More islands than this are only put one after the other: there is little to gain and much to look at. */
const CROWD = 400;

/**
 * Packs islands by their true outline at one scale. A first layout comes from putting one after the other at the
 * lowest free place of all its turns; then the islands grow a little all at once and move apart until none lies in
 * another one (pack/scale-search.ts), again and again; last the layout is settled until every gap is what it must be.
 *
 * Notes: changing the order of a lowest-place packing reached 0.70 of the sheet on 60 mixed islands in half a minute;
 * moving one island at a time on cells in eight turns 0.74 to 0.77. Letting all of them move and turn at once, told
 * by distance fields without cells, passes that in a second.
 * @param best told the share of the sheet covered whenever the search gets farther, and the share of time gone
 * @throws ArnikError where the islands do not fit at the wanted density, or padding and margin leave no place
 */
export function packIslands(
  items: readonly PackItem[],
  options: PackSettings,
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
  const margin = options.margin ?? options.padding / 2;
  if (!mayHavePlace(items.length, margin, options)) throw noPlace(options);
  const grid = (cells: number) =>
    gridOf(Math.min(cells, Math.max(width, height)), options);
  const orders = firstOrders(turned);
  const fine = grid(FINE);
  const most = wanted || Infinity;
  if (wanted > 0 && mayFit(turned, area, options))
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
  const first = firstLayout(turned, area, most, options, check);
  const rounds = options.rounds ?? DEFAULT_ROUNDS;
  const seconds = options.seconds ?? 0;
  if (crowd || (!rounds && !seconds)) {
    const scale = Math.min(most, first(0).scale);
    const laid = lowest(turned, orders[0], fine, scale, options, check);
    refuseLess(laid.texelsPerMetre, options);
    return laid;
  }
  const { scale } = first(0);
  const begun = performance.now();
  const borders = bordersOf(items, scale, options);
  const input: ScaleSearchInput = {
    borders,
    fixed: fixedBorder(options),
    room: {
      width,
      height,
      padding: options.padding,
      margin,
    },
    rotation,
    start: (run) => {
      const found = first(run);
      return {
        scale: found.scale,
        poses: found.placements.map((placement, i) =>
          poseOf(placement, borders[i], found.scale),
        ),
      };
    },
    most: OVER * most,
    // However short the time, one round is made: what is recorded must lead to the same layout again.
    gone: (done) =>
      seconds > 0
        ? done && (performance.now() - begun) / (1000 * seconds)
        : done / rounds,
    check,
    best: (s, gone) => best((s * s * area) / (width * height), gone),
  };
  const found = searchScale(input);
  const laid = settle(input, {
    ...found,
    scale: Math.min(most, found.scale),
  });
  if (!laid) {
    const safe = lowest(
      turned,
      orders[0],
      fine,
      Math.min(most, scale),
      options,
      check,
    );
    refuseLess(safe.texelsPerMetre, options);
    return { ...safe, rounds: found.rounds };
  }
  refuseLess(laid.scale, options);
  return {
    placements: laid.poses.map((pose, i) =>
      placementAt(pose, borders[i], laid.scale),
    ),
    texelsPerMetre: laid.scale,
    rounds: found.rounds,
  };
}

/** Distances to the borders of islands, on nodes that suit a scale. */
function bordersOf(
  items: readonly PackItem[],
  scale: number,
  options: PackSettings,
): Border[] {
  const cell = Math.max(options.width, options.height) / NODES;
  const reach = 1.5 * options.padding + 2 * cell;
  return items.map(({ triangles }) =>
    borderOf(
      triangles,
      cell / scale,
      (POINTS_APART * cell) / scale,
      reach / scale,
    ),
  );
}

function fixedBorder(options: PackSettings): Border | null {
  if (!options.blocked?.length) return null;
  const cell = Math.max(options.width, options.height) / NODES;
  return borderOf(
    options.blocked,
    cell,
    POINTS_APART * cell,
    1.5 * options.padding + 2 * cell,
  );
}

const poseOf = (
  { angle, x, y }: Placement,
  { middle: [u, v] }: Border,
  scale: number,
): Pose => ({
  angle,
  x: x + scale * (Math.cos(angle) * u - Math.sin(angle) * v),
  y: y + scale * (Math.sin(angle) * u + Math.cos(angle) * v),
});

const placementAt = (
  { angle, x, y }: Pose,
  { middle: [u, v] }: Border,
  scale: number,
): Placement => ({
  angle,
  x: x - scale * (Math.cos(angle) * u - Math.sin(angle) * v),
  y: y - scale * (Math.sin(angle) * u + Math.cos(angle) * v),
});

/** Layouts by lowest places on coarse cells: the best of a few orders, then of orders changed by chance. */
function firstLayout(
  turned: readonly Turned[][],
  area: number,
  most: number,
  options: PackSettings,
  check: () => void,
): (run: number) => { scale: number; placements: Placement[] } {
  const { width, height } = options;
  const top = Math.min(most, Math.sqrt((0.7 * width * height) / area));
  const looks = silhouettesOf(turned, top, options);
  const grid = looseGrid(looks, COARSE, options);
  const orders = firstOrders(turned);
  const layouts: { scale: number; placements: Placement[] }[] = [];
  return (run) => {
    layouts[run] ??= layoutOf(run);
    return layouts[run];
  };
  function layoutOf(run: number) {
    const random = seededRandom(run);
    const sizes = turned.map(
      ([item]) =>
        Math.max(item.width, item.height) * (1 + 0.5 * (random() - 0.5)),
    );
    const tried = run
      ? [orders[0].slice().sort((a, b) => sizes[b] - sizes[a] || a - b)]
      : orders;
    for (let scale = top; ; scale = smaller(scale, turned, options)) {
      const masks = masksOf(looks, scale, grid);
      for (const order of tried) {
        check();
        const spots = placeAll(masks, order, grid);
        if (!spots) continue;
        return {
          scale,
          placements: spots.map(({ turn, x, y }, i) =>
            placementOf(
              turned[i][turn],
              {
                turn,
                x: x + looks.round / grid.cell,
                y: y + looks.round / grid.cell,
              },
              scale,
              grid,
            ),
          ),
        };
      }
    }
  }
}

/**
 * Whether so many points can lie on the sheet with the padding between them: circles of that width round them do not
 * overlap, and lie on the sheet but for half of theirs.
 */
function mayHavePlace(
  count: number,
  margin: number,
  { width, height, padding }: PackSettings,
): boolean {
  const across = width - 2 * margin;
  const up = height - 2 * margin;
  const needed = (count * Math.PI * padding ** 2) / 4;
  return across > 0 && up > 0 && needed <= (across + padding) * (up + padding);
}

/** The largest island as long as this, in px, is as good as a point: what has no place now has none smaller. */
const POINT = 0.1;
/** Below so many px scales fall faster. */
const SMALL = 2;

/** The next scale to try. @throws ArnikError where islands are points already */
function smaller(
  scale: number,
  items: readonly Turned[][],
  options: PackSettings,
): number {
  let longest = 0;
  for (const [{ width, height }] of items)
    longest = Math.max(longest, width, height);
  if (scale * longest < POINT) throw noPlace(options);
  return scale * (scale * longest < SMALL ? 0.8 : 0.97);
}

const noPlace = ({ width, height }: PackSettings) =>
  new ArnikError(
    `no place is left on the sheet of ${width} × ${height} px: free some of it, or ask for less padding`,
  );

/** Whether islands at the wanted density cover no more than the sheet, and none is longer than its diagonal. */
function mayFit(
  turned: readonly Turned[][],
  area: number,
  { width, height, texelsPerMetre: wanted }: PackSettings,
): boolean {
  const diagonal = Math.hypot(width, height);
  return (
    area * wanted * wanted <= width * height &&
    turned.every(
      ([item]) => Math.max(item.width, item.height) * wanted <= diagonal,
    )
  );
}

/** @throws ArnikError where less than the wanted density came out */
function refuseLess(
  reached: number,
  { width, height, texelsPerMetre: wanted }: PackSettings,
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
  options: PackSettings,
  check: () => void,
): PackResult {
  for (let scale = from; ; scale = smaller(scale, items, options)) {
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
  /** What does not move, with its gap, or null. */
  blocked: { mask: Mask; gap: number } | null;
}

function gridOf(cells: number, options: PackSettings): Grid {
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

function silhouettesOf(
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
function masksOf(looks: Looks, scale: number, { cell }: Grid): Mask[][] {
  const step = (cell / looks.cell) * (looks.scale / scale);
  return looks.of.map((turns) => turns.map((each) => sampled(each, step)));
}

/** A grid on which silhouettes lie side by side: the padding is in them already. */
function looseGrid(looks: Looks, cells: number, options: PackSettings): Grid {
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
