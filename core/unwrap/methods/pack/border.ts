import type { Field } from "./distance-field";
import { coarser, pointsInside, distances } from "./distance-field";
import { rasterizeTriangle } from "../../../space/raster";

/** An island round its own middle, ready to be moved and turned at will. All lengths in the units of its triangles. */
export interface Border extends Field {
  /** Where the middle lies among the triangles. */
  middle: [number, number];
  area: number;
  /** Largest distance of a border point from the middle. */
  radius: number;
  /** Pieces of the border, 4 numbers each. */
  segments: Float64Array;
  /** Points along the border, 2 numbers each: all corners, and between them at even distances. */
  points: Float64Array;
  /** Points that lie beside each other: first of each group, then their middles and radii. */
  groups: { starts: Int32Array; middles: Float64Array; radii: Float64Array };
  /** Points all over the island, 2 numbers each. */
  inner: Float64Array;
  /** Distances to the border at the nodes of a grid, negative inside; Infinity is never among them. */
  /** Every fourth node of each fourth row. */
  coarse: Field;
}

/** Borders that turn by more than this have a corner there, as a cosine. */
const CORNER = Math.cos(Math.PI / 9);

/**
 * The border of an island with its distance field.
 * @param triangles 6 × triangleCount: three points each, px
 * @param cell of the field; @param spacing of the points; @param reach how far out of the island the field goes
 */
export function borderOf(
  triangles: Float64Array,
  cell: number,
  spacing: number,
  reach: number,
): Border {
  const { middle, area } = middleOf(triangles);
  const local = triangles.map((v, i) => v - middle[i % 2]);
  const segments = segmentsOf(local);
  const { points, groups } = grouped(pointsAlong(segments, spacing));
  let x0 = Infinity;
  let y0 = Infinity;
  let x1 = -Infinity;
  let y1 = -Infinity;
  let radius = 0;
  for (let i = 0; i < segments.length; i += 2) {
    const [x, y] = [segments[i], segments[i + 1]];
    if (x < x0) x0 = x;
    if (x > x1) x1 = x;
    if (y < y0) y0 = y;
    if (y > y1) y1 = y;
    radius = Math.max(radius, Math.hypot(x, y));
  }
  const left = x0 - reach - cell;
  const bottom = y0 - reach - cell;
  const across = Math.ceil((x1 + reach + cell - left) / cell) + 1;
  const up = Math.ceil((y1 + reach + cell - bottom) / cell) + 1;
  const inside = new Uint8Array(across * up);
  for (let i = 0; i < local.length; i += 6) {
    const at = (k: number) =>
      (local[i + k] - (k % 2 ? bottom : left)) / cell + 0.5;
    rasterizeTriangle(
      at(0),
      at(1),
      at(2),
      at(3),
      at(4),
      at(5),
      across,
      up,
      (row, from, to) => inside.fill(1, row * across + from, row * across + to),
    );
  }
  const field = distances(segments, across, up, cell, left, bottom);
  for (let i = 0; i < field.length; i++) if (inside[i]) field[i] = -field[i];
  return {
    middle,
    area,
    radius,
    segments,
    points,
    groups,
    coarse: coarser({ field, across, up, cell, left, bottom }),
    inner: pointsInside(inside, across, up, cell, left, bottom, points),
    field,
    across,
    up,
    cell,
    left,
    bottom,
  };
}

function middleOf(t: Float64Array): {
  middle: [number, number];
  area: number;
} {
  let area = 0;
  let x = 0;
  let y = 0;
  for (let i = 0; i < t.length; i += 6) {
    const own =
      Math.abs(
        (t[i + 2] - t[i]) * (t[i + 5] - t[i + 1]) -
          (t[i + 4] - t[i]) * (t[i + 3] - t[i + 1]),
      ) / 2;
    area += own;
    x += (own * (t[i] + t[i + 2] + t[i + 4])) / 3;
    y += (own * (t[i + 1] + t[i + 3] + t[i + 5])) / 3;
  }
  return area > 0
    ? { middle: [x / area, y / area], area }
    : { middle: [t[0] ?? 0, t[1] ?? 0], area };
}

/** The edges that only one triangle has; all of them where there is none such. */
function segmentsOf(t: Float64Array): Float64Array {
  const ids = new Map<number, Map<number, number>>();
  let count = 0;
  const idOf = (x: number, y: number) => {
    let row = ids.get(x);
    if (!row) ids.set(x, (row = new Map()));
    let id = row.get(y);
    if (id === undefined) row.set(y, (id = count++));
    return id;
  };
  const corner = new Int32Array(t.length / 2);
  for (let i = 0; i < corner.length; i++)
    corner[i] = idOf(t[2 * i] + 0, t[2 * i + 1] + 0);
  const seen = new Map<number, number>();
  const keyOf = (k: number) => {
    const a = corner[k];
    const b = corner[k % 3 === 2 ? k - 2 : k + 1];
    return a < b ? a * count + b : b * count + a;
  };
  for (let k = 0; k < corner.length; k++) {
    const key = keyOf(k);
    seen.set(key, (seen.get(key) ?? 0) + 1);
  }
  const list = (any: boolean) => {
    const out: number[] = [];
    for (let k = 0; k < corner.length; k++) {
      const next = k % 3 === 2 ? k - 2 : k + 1;
      if (corner[k] === corner[next]) continue;
      if (any || seen.get(keyOf(k)) === 1)
        out.push(t[2 * k], t[2 * k + 1], t[2 * next], t[2 * next + 1]);
    }
    return out;
  };
  const once = list(false);
  const found = once.length ? once : list(true);
  return Float64Array.from(
    found.length ? found : [t[0] ?? 0, t[1] ?? 0, t[0] ?? 0, t[1] ?? 0],
  );
}

/** Corners first, then what lies between them, no two nearer than the spacing (corners than a third of it). */
function pointsAlong(segments: Float64Array, spacing: number): Float64Array {
  const out: number[] = [];
  const taken = new Map<string, number[]>();
  const add = (x: number, y: number, apart: number) => {
    const cx = Math.floor(x / spacing);
    const cy = Math.floor(y / spacing);
    for (let dy = -1; dy <= 1; dy++)
      for (let dx = -1; dx <= 1; dx++)
        for (const i of taken.get(`${cx + dx},${cy + dy}`) ?? [])
          if (Math.hypot(out[i] - x, out[i + 1] - y) < apart) return;
    const key = `${cx},${cy}`;
    taken.set(key, [...(taken.get(key) ?? []), out.length]);
    out.push(x, y);
  };
  const ends = new Map<string, number[]>();
  for (let i = 0; i < segments.length; i += 4)
    for (const k of [i, i + 2]) {
      const key = `${segments[k]},${segments[k + 1]}`;
      ends.set(key, [...(ends.get(key) ?? []), i]);
    }
  for (const [key, list] of ends) {
    const direction = (i: number) => {
      const dx = segments[i + 2] - segments[i];
      const dy = segments[i + 3] - segments[i + 1];
      const length = Math.hypot(dx, dy) || 1;
      return [dx / length, dy / length];
    };
    const [a, b] = list;
    const [ax, ay] = direction(a);
    const [bx, by] = b === undefined ? [0, 0] : direction(b);
    if (list.length === 2 && Math.abs(ax * bx + ay * by) > CORNER) continue;
    const at = `${segments[a]},${segments[a + 1]}` === key ? a : a + 2;
    add(segments[at], segments[at + 1], spacing / 3);
  }
  for (let i = 0; i < segments.length; i += 4) {
    const dx = segments[i + 2] - segments[i];
    const dy = segments[i + 3] - segments[i + 1];
    const steps = Math.max(1, Math.round(Math.hypot(dx, dy) / spacing));
    for (let k = 0; k <= steps; k++)
      add(
        segments[i] + (dx * k) / steps,
        segments[i + 1] + (dy * k) / steps,
        0.7 * spacing,
      );
  }
  return Float64Array.from(out);
}

/** Points in a group at most. */
const GROUP = 8;

/** Points in groups of near ones: halved across their longer side until groups are small. */
function grouped(points: Float64Array): Pick<Border, "points" | "groups"> {
  const starts = [0];
  const order: number[] = [];
  const part = (list: number[]): void => {
    if (list.length <= GROUP) {
      order.push(...list);
      starts.push(order.length);
      return;
    }
    const range = [0, 1].map((k) => {
      const values = list.map((i) => points[2 * i + k]);
      return Math.max(...values) - Math.min(...values);
    });
    const k = range[0] >= range[1] ? 0 : 1;
    const sorted = list.sort(
      (a, b) => points[2 * a + k] - points[2 * b + k] || a - b,
    );
    part(sorted.slice(0, sorted.length >> 1));
    part(sorted.slice(sorted.length >> 1));
  };
  part(Array.from({ length: points.length / 2 }, (_, i) => i));
  const middles: number[] = [];
  const radii: number[] = [];
  for (let g = 0; g + 1 < starts.length; g++) {
    const own = order.slice(starts[g], starts[g + 1]);
    const middle = [0, 1].map((k) => {
      const values = own.map((i) => points[2 * i + k]);
      return (Math.max(...values) + Math.min(...values)) / 2;
    });
    middles.push(...middle);
    radii.push(
      Math.max(
        ...own.map((i) =>
          Math.hypot(points[2 * i] - middle[0], points[2 * i + 1] - middle[1]),
        ),
      ),
    );
  }
  return {
    points: Float64Array.from(
      order.flatMap((i) => [points[2 * i], points[2 * i + 1]]),
    ),
    groups: {
      starts: Int32Array.from(starts),
      middles: Float64Array.from(middles),
      radii: Float64Array.from(radii),
    },
  };
}
