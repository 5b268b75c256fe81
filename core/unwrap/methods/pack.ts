import {
  FINE,
  gridOf,
  silhouettesOf,
  masksOf,
  looseGrid,
  firstOrders,
  placeAll,
  placementOf,
} from "./pack/first-grid";
import {
  mayHavePlace,
  smaller,
  noPlace,
  mayFit,
  refuseLess,
  lowest,
} from "./pack/lowest-place";
import type {
  PackItem,
  Placement,
  PackResult,
  PackSettings,
  Pose,
  Turned,
} from "./pack/types";
import { seededRandom } from "../../base/random";
import type { Border } from "./pack/border";
import { borderOf } from "./pack/border";
import type { ScaleSearchInput } from "./pack/scale-search";
import { searchScale, settle } from "./pack/scale-search";
import { maskOf } from "./pack/raster";
import { turnsOf } from "./pack/turned";

/** Rounds where neither rounds nor seconds are said. */
export const DEFAULT_ROUNDS = 24;

/** Cells along the longer edge of the sheet: to find a first scale, and to put islands down for good. */
const COARSE = 256;
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
 * Notes: changing the order of a lowest-place packing reached 0.70 of the sheet on 60 mixed islands in half a minute;
 * moving one island at a time on cells in eight turns 0.74 to 0.77. Letting all of them move and turn at once, told
 * by distance fields without cells, passes that in a second.
 * In one piece: steps in order, each beginning with the layout of the one before.
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
