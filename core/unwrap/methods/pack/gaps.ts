import type { Border } from "./border";
import type { Pose, SheetBounds } from "./types";

/**
 * How much islands lack of the padding and of the margin, exactly, by all pieces of their borders.
 * @param fixed what does not move, in px
 * @returns px; 0 where all keep it
 */
export function clearanceDeficit(
  borders: readonly Border[],
  poses: readonly Pose[],
  scale: number,
  room: SheetBounds,
  fixed: Border | null,
): number {
  const placed = borders.map((border, i) =>
    placeBorder(border, poses[i], scale),
  );
  if (fixed)
    placed.push(
      placeBorder(
        fixed,
        { x: fixed.middle[0], y: fixed.middle[1], angle: 0 },
        1,
      ),
    );
  let lack = 0;
  for (let i = 0; i < borders.length; i++) {
    const { box } = placed[i];
    lack = Math.max(
      lack,
      room.margin - box[0],
      room.margin - box[1],
      box[2] - room.width + room.margin,
      box[3] - room.height + room.margin,
    );
    for (let j = i + 1; j < placed.length; j++)
      lack = Math.max(
        lack,
        room.padding - gapOf(placed[i], placed[j], room.padding - lack),
      );
  }
  return lack;
}

interface Placed {
  border: Border;
  pose: Pose;
  scale: number;
  /** 4 numbers for each piece, px. */
  segments: Float64Array;
  box: [number, number, number, number];
}

function placeBorder(border: Border, pose: Pose, scale: number): Placed {
  const cos = scale * Math.cos(pose.angle);
  const sin = scale * Math.sin(pose.angle);
  const { segments: local } = border;
  const segments = new Float64Array(local.length);
  const box: Placed["box"] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < local.length; k += 2) {
    const x = pose.x + cos * local[k] - sin * local[k + 1];
    const y = pose.y + sin * local[k] + cos * local[k + 1];
    segments[k] = x;
    segments[k + 1] = y;
    box[0] = Math.min(box[0], x);
    box[1] = Math.min(box[1], y);
    box[2] = Math.max(box[2], x);
    box[3] = Math.max(box[3], y);
  }
  return { border, pose, scale, segments, box };
}

/** Distance of two islands, px, or 0 where they overlap; anything from `most` on is not told apart. */
function gapOf(one: Placed, other: Placed, most: number): number {
  if (
    one.box[0] > other.box[2] + most ||
    one.box[2] < other.box[0] - most ||
    one.box[1] > other.box[3] + most ||
    one.box[3] < other.box[1] - most
  )
    return most;
  if (inside(one, other) || inside(other, one)) return 0;
  const a = one.segments;
  const b = other.segments;
  const { field, across, up, cell, left, bottom } = other.border;
  const cos = Math.cos(other.pose.angle) / other.scale;
  const sin = Math.sin(other.pose.angle) / other.scale;
  let least = most;
  for (let i = 0; i < a.length; i += 4) {
    const mx = (a[i] + a[i + 2]) / 2 - other.pose.x;
    const my = (a[i + 1] + a[i + 3]) / 2 - other.pose.y;
    const half = Math.hypot(a[i + 2] - a[i], a[i + 3] - a[i + 1]) / 2;
    const u = Math.round((cos * mx + sin * my - left) / cell);
    const v = Math.round((cos * my - sin * mx - bottom) / cell);
    if (
      u >= 0 &&
      v >= 0 &&
      u < across &&
      v < up &&
      other.scale * (Math.abs(field[v * across + u]) - cell) - half > least
    )
      continue;
    for (let j = 0; j < b.length; j += 4) {
      if (
        Math.min(a[i], a[i + 2]) > Math.max(b[j], b[j + 2]) + least ||
        Math.max(a[i], a[i + 2]) < Math.min(b[j], b[j + 2]) - least ||
        Math.min(a[i + 1], a[i + 3]) > Math.max(b[j + 1], b[j + 3]) + least ||
        Math.max(a[i + 1], a[i + 3]) < Math.min(b[j + 1], b[j + 3]) - least
      )
        continue;
      const far = segmentGap(a, i, b, j);
      if (far < least) least = far;
    }
    if (least <= 0) return 0;
  }
  return least;
}

/** Whether a border point of an island lies well within another one. */
function inside(one: Placed, other: Placed): boolean {
  const { field, across, up, cell, left, bottom } = other.border;
  const { points } = one.border;
  const turn = one.pose.angle - other.pose.angle;
  const cos = (one.scale / other.scale) * Math.cos(turn);
  const sin = (one.scale / other.scale) * Math.sin(turn);
  const dx = (one.pose.x - other.pose.x) / other.scale;
  const dy = (one.pose.y - other.pose.y) / other.scale;
  const own = [Math.cos(other.pose.angle), Math.sin(other.pose.angle)];
  const x = own[0] * dx + own[1] * dy - left;
  const y = own[0] * dy - own[1] * dx - bottom;
  for (let k = 0; k < points.length; k += 2) {
    const u = Math.round((x + cos * points[k] - sin * points[k + 1]) / cell);
    const v = Math.round((y + sin * points[k] + cos * points[k + 1]) / cell);
    if (
      u >= 0 &&
      v >= 0 &&
      u < across &&
      v < up &&
      field[v * across + u] < -1.5 * cell
    )
      return true;
  }
  return false;
}

/** Distance of two pieces; 0 where they cross. */
function segmentGap(
  a: Float64Array,
  i: number,
  b: Float64Array,
  j: number,
): number {
  const side = (s: Float64Array, k: number, x: number, y: number) =>
    (s[k + 2] - s[k]) * (y - s[k + 1]) - (s[k + 3] - s[k + 1]) * (x - s[k]);
  if (
    side(a, i, b[j], b[j + 1]) * side(a, i, b[j + 2], b[j + 3]) < 0 &&
    side(b, j, a[i], a[i + 1]) * side(b, j, a[i + 2], a[i + 3]) < 0
  )
    return 0;
  return Math.sqrt(
    Math.min(
      squaredTo(a, i, b[j], b[j + 1]),
      squaredTo(a, i, b[j + 2], b[j + 3]),
      squaredTo(b, j, a[i], a[i + 1]),
      squaredTo(b, j, a[i + 2], a[i + 3]),
    ),
  );
}

function squaredTo(s: Float64Array, k: number, x: number, y: number): number {
  const dx = s[k + 2] - s[k];
  const dy = s[k + 3] - s[k + 1];
  const length = dx * dx + dy * dy;
  let t = length > 0 ? ((x - s[k]) * dx + (y - s[k + 1]) * dy) / length : 0;
  t = t < 0 ? 0 : t > 1 ? 1 : t;
  const ex = x - s[k] - t * dx;
  const ey = y - s[k + 1] - t * dy;
  return ex * ex + ey * ey;
}
