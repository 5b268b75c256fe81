import { ArnikError } from "../errors";

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
}

export interface PackOptions {
  /** Edge of the sheet, px. */
  size: number;
  /** Free pixels between islands; half of it is kept at the border. */
  padding: number;
  /** Pixels per metre, or 0 for as many as fit. */
  texelsPerMetre: number;
}

/** Finest raster: cells along the edge of the sheet. */
const FINE = 1024;
const COARSE = 256;
const TURNS = 8;

/**
 * Packs islands by their true outline at one scale: largest first, each at the lowest free place of eight
 * turns from its tightest box. The scale is found from above on a coarse raster and settled on a fine one.
 *
 * Notes: per row the next blocked cell and the end of each blocked run are kept, so that a failed try says how
 * far to move on; against testing every cell by bit masks this was 20 times quicker. A place inside holes and
 * bays of other islands needs nothing special: the raster knows them.
 * @throws ArnikError where the islands do not fit at the wanted density
 */
export function packIslands(
  items: readonly PackItem[],
  options: PackOptions,
  check: () => void,
): PackResult {
  const turned = items.map(turnsOf);
  const area = turned.reduce((sum, [item]) => sum + item.area, 0);
  if (!items.length || !(area > 0))
    return {
      placements: items.map(() => ({ angle: 0, x: 0, y: 0 })),
      texelsPerMetre: 1,
    };
  const { size } = options;
  const fine = Math.min(FINE, size);
  const wanted = options.texelsPerMetre;
  if (wanted > 0) {
    const found = bestOrder(turned, fine, wanted, options, check);
    if (found) return { placements: found, texelsPerMetre: wanted };
    throw new ArnikError(
      `the islands do not fit on a sheet of ${size} px at ${wanted} texels per metre: ` +
        "ask for a lower density, a larger sheet, or 0 for as many as fit",
    );
  }
  let scale = Math.sqrt((0.92 * size * size) / area);
  const coarse = Math.min(COARSE, size);
  while (!bestOrder(turned, coarse, scale, options, check)) scale *= 0.96;
  // What did not fit on the coarse raster may on the fine one.
  scale *= 1.06;
  for (;;) {
    const found = bestOrder(turned, fine, scale, options, check);
    if (found) return { placements: found, texelsPerMetre: scale };
    scale *= 0.985;
  }
}

interface Turned {
  triangles: Float64Array;
  angle: number;
  /** Where the box's lower left corner lay before it was moved to the origin. */
  left: number;
  bottom: number;
  width: number;
  height: number;
  area: number;
}

/** Share of its smallest box that an outline covers. */
export function bulkOf(item: PackItem): number {
  const { area, width, height } = alignToBox(item);
  return width * height > 0 ? area / (width * height) : 1;
}

/** The tightest box of an island and its seven turns by 45°. */
function turnsOf(item: PackItem): Turned[] {
  const tight = alignToBox(item);
  return Array.from({ length: TURNS }, (_, k) =>
    k === 0
      ? tight
      : turnTo(item, tight.angle + (2 * Math.PI * k) / TURNS, tight.area),
  );
}

/** Turns an island to its smallest box (an edge of the hull lies along it: Freeman and Shapira 1975). */
function alignToBox(item: PackItem): Turned {
  const { triangles } = item;
  const hull = convexOutline(triangles);
  let best = 0;
  let least = Infinity;
  for (let i = 0; i < hull.length; i += 2) {
    const k = (i + 2) % hull.length;
    const angle = -Math.atan2(hull[k + 1] - hull[i + 1], hull[k] - hull[i]);
    const [x0, y0, x1, y1] = boxAt(hull, angle);
    const size = (x1 - x0) * (y1 - y0);
    if (size < least * 0.9999) {
      least = size;
      best = angle;
    }
  }
  let area = 0;
  for (let i = 0; i < triangles.length; i += 6)
    area +=
      Math.abs(
        (triangles[i + 2] - triangles[i]) *
          (triangles[i + 5] - triangles[i + 1]) -
          (triangles[i + 4] - triangles[i]) *
            (triangles[i + 3] - triangles[i + 1]),
      ) / 2;
  return turnTo(item, best, area);
}

function turnTo({ triangles }: PackItem, angle: number, area: number): Turned {
  const [x0, y0, x1, y1] = boxAt(triangles, angle);
  const cos = Math.cos(angle);
  const sin = Math.sin(angle);
  const moved = new Float64Array(triangles.length);
  for (let i = 0; i < triangles.length; i += 2) {
    moved[i] = cos * triangles[i] - sin * triangles[i + 1] - x0;
    moved[i + 1] = sin * triangles[i] + cos * triangles[i + 1] - y0;
  }
  return {
    triangles: moved,
    angle,
    left: x0,
    bottom: y0,
    width: x1 - x0,
    height: y1 - y0,
    area,
  };
}

function boxAt(
  points: ArrayLike<number>,
  angle: number,
): [number, number, number, number] {
  const cos = Math.cos(angle);
  const sin = Math.sin(angle);
  let x0 = Infinity;
  let y0 = Infinity;
  let x1 = -Infinity;
  let y1 = -Infinity;
  for (let i = 0; i < points.length; i += 2) {
    const x = cos * points[i] - sin * points[i + 1];
    const y = sin * points[i] + cos * points[i + 1];
    if (x < x0) x0 = x;
    if (x > x1) x1 = x;
    if (y < y0) y0 = y;
    if (y > y1) y1 = y;
  }
  return [x0, y0, x1, y1];
}

/** Andrew's monotone chain (1979); [x, y, …] counter-clockwise. */
function convexOutline(points: Float64Array): number[] {
  const order = Array.from({ length: points.length / 2 }, (_, i) => i).sort(
    (a, b) =>
      points[2 * a] - points[2 * b] || points[2 * a + 1] - points[2 * b + 1],
  );
  const chain = (list: number[]) => {
    const out: number[] = [];
    for (const i of list) {
      while (out.length >= 2) {
        const [a, b] = [out[out.length - 2], out[out.length - 1]];
        const turn =
          (points[2 * b] - points[2 * a]) *
            (points[2 * i + 1] - points[2 * a + 1]) -
          (points[2 * b + 1] - points[2 * a + 1]) *
            (points[2 * i] - points[2 * a]);
        if (turn > 0) break;
        out.pop();
      }
      out.push(i);
    }
    out.pop();
    return out;
  };
  const hull = [...chain(order), ...chain(order.slice().reverse())];
  return (hull.length ? hull : order.slice(0, 1)).flatMap((i) => [
    points[2 * i],
    points[2 * i + 1],
  ]);
}

/** An island on the raster: runs of cells by row. */
interface Mask {
  width: number;
  height: number;
  /** height + 1 */
  rowStarts: Int32Array;
  /** First cell and the one after the last, for every run. */
  runs: Int32Array;
}

function bestOrder(
  items: readonly Turned[][],
  cells: number,
  scale: number,
  options: PackOptions,
  check: () => void,
): Placement[] | null {
  const perCell = options.size / cells;
  const gap = Math.ceil(options.padding / perCell);
  const half = Math.ceil(options.padding / 2 / perCell);
  const turns = items.map((each) =>
    each.map((item) => maskOf(item, scale / perCell)),
  );
  const tight = items.map(([item]) => item);
  const longest = tight.map((item) => Math.max(item.width, item.height));
  const orders = [
    (a: number, b: number) => longest[b] - longest[a] || a - b,
    (a: number, b: number) => tight[b].area - tight[a].area || a - b,
    (a: number, b: number) =>
      tight[b].width * tight[b].height - tight[a].width * tight[a].height ||
      a - b,
  ];
  for (const order of orders) {
    check();
    const sorted = items.map((_, i) => i).sort(order);
    const sheet = new Raster(cells, half);
    const placements: Placement[] = [];
    const fits = sorted.every((i) => {
      const found = sheet.place(turns[i], gap);
      if (!found) return false;
      const { angle, left, bottom } = items[i][found.turn];
      placements[i] = {
        angle,
        x: found.x * perCell - scale * left,
        y: found.y * perCell - scale * bottom,
      };
      return true;
    });
    if (fits) return placements;
  }
  return null;
}

function maskOf(item: Turned, cellsPerMetre: number): Mask {
  const width = Math.max(1, Math.ceil(item.width * cellsPerMetre + 1e-6));
  const height = Math.max(1, Math.ceil(item.height * cellsPerMetre + 1e-6));
  const bits = new Uint8Array(width * height);
  const q = new Float64Array(6);
  for (let i = 0; i < item.triangles.length; i += 6) {
    for (let k = 0; k < 6; k++) q[k] = cellsPerMetre * item.triangles[i + k];
    coverTouched(bits, width, height, q);
  }
  const rowStarts = new Int32Array(height + 1);
  const runs: number[] = [];
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width;) {
      while (x < width && !bits[y * width + x]) x++;
      if (x >= width) break;
      const from = x;
      while (x < width && bits[y * width + x]) x++;
      runs.push(from, x);
    }
    rowStarts[y + 1] = runs.length / 2;
  }
  return { width, height, rowStarts, runs: new Int32Array(runs) };
}

/** Sets every cell that a triangle touches, row by row of cells. */
function coverTouched(
  bits: Uint8Array,
  width: number,
  height: number,
  q: Float64Array,
): void {
  const low = Math.max(0, Math.floor(Math.min(q[1], q[3], q[5])));
  const high = Math.min(height - 1, Math.floor(Math.max(q[1], q[3], q[5])));
  for (let row = low; row <= high; row++) {
    let x0 = Infinity;
    let x1 = -Infinity;
    for (let k = 0; k < 3; k++) {
      const ax = q[2 * k];
      const ay = q[2 * k + 1];
      const bx = q[(2 * k + 2) % 6];
      const by = q[(2 * k + 3) % 6];
      if (ay >= row && ay <= row + 1) {
        if (ax < x0) x0 = ax;
        if (ax > x1) x1 = ax;
      }
      for (let line = row; line <= row + 1; line++) {
        if (ay < line === by < line) continue;
        const x = ax + ((line - ay) / (by - ay)) * (bx - ax);
        if (x < x0) x0 = x;
        if (x > x1) x1 = x;
      }
    }
    if (!(x0 <= x1)) continue;
    const from = Math.max(0, Math.floor(x0));
    const to = Math.min(width - 1, Math.floor(x1));
    for (let x = from; x <= to; x++) bits[row * width + x] = 1;
  }
}

/** The sheet as cells, with the jumps that make a search quick. */
class Raster {
  /** The first blocked cell at or after each cell of a row (cells where there is none). */
  private readonly blocked: Int16Array;
  /** For blocked cells: the first free one after. */
  private readonly free: Int16Array;
  private readonly taken: Uint8Array;

  constructor(
    private readonly cells: number,
    private readonly margin: number,
  ) {
    this.blocked = new Int16Array(cells * cells).fill(cells);
    this.free = new Int16Array(cells * cells);
    this.taken = new Uint8Array(cells * cells);
  }

  /** Puts one of the masks at the place where its top ends lowest, and blocks it with a gap round it. */
  place(
    masks: readonly Mask[],
    gap: number,
  ): { turn: number; x: number; y: number } | null {
    let best: { turn: number; x: number; y: number } | null = null;
    let top = Infinity;
    masks.forEach((mask, turn) => {
      const found = this.find(mask, top);
      if (!found || found.y + mask.height >= top) return;
      top = found.y + mask.height;
      best = { turn, ...found };
    });
    const chosen = best as { turn: number; x: number; y: number } | null;
    if (chosen) this.block(masks[chosen.turn], chosen.x, chosen.y, gap);
    return chosen;
  }

  private find(mask: Mask, below: number): { x: number; y: number } | null {
    const { cells, margin, blocked, free } = this;
    const { rowStarts, runs, height } = mask;
    const lastX = cells - margin - mask.width;
    const lastY = Math.min(cells - margin, below - 1) - height;
    for (let y = margin; y <= lastY; y++) {
      let x = margin;
      let row = 0;
      let sound = 0;
      // Rows are tried in a ring from the one that failed last: it is the likeliest to fail again.
      while (x <= lastX && sound < height) {
        const base = (y + row) * cells;
        let moved = false;
        for (let k = rowStarts[row]; k < rowStarts[row + 1]; k++) {
          const at = x + runs[2 * k];
          const hit = blocked[base + at];
          if (hit < x + runs[2 * k + 1]) {
            x = free[base + hit] - runs[2 * k];
            moved = true;
            if (x > lastX) break;
          }
        }
        if (moved) sound = 0;
        else {
          sound++;
          row = row + 1 === height ? 0 : row + 1;
        }
      }
      if (x <= lastX) return { x, y };
    }
    return null;
  }

  private block(mask: Mask, x: number, y: number, gap: number): void {
    const { cells, taken, blocked, free } = this;
    const from = Math.max(0, y - gap);
    const to = Math.min(cells - 1, y + mask.height - 1 + gap);
    for (let row = 0; row < mask.height; row++)
      for (let dy = -gap; dy <= gap; dy++) {
        const at = y + row + dy;
        if (at < 0 || at >= cells) continue;
        const reach = Math.ceil(
          Math.sqrt(
            Math.max(0, gap * gap - Math.max(0, Math.abs(dy) - 1) ** 2),
          ),
        );
        for (let k = mask.rowStarts[row]; k < mask.rowStarts[row + 1]; k++)
          taken.fill(
            1,
            at * cells + Math.max(0, x + mask.runs[2 * k] - reach),
            at * cells + Math.min(cells, x + mask.runs[2 * k + 1] + reach),
          );
      }
    for (let row = from; row <= to; row++) {
      const base = row * cells;
      let next = cells;
      let open = cells;
      for (let c = cells - 1; c >= 0; c--) {
        if (taken[base + c]) {
          next = c;
          free[base + c] = open;
        } else open = c;
        blocked[base + c] = next;
      }
    }
  }
}
