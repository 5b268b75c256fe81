import type { Bounds } from "./bounds";

/** Room that is left between boxes, as a share of the size of all. */
const ROOM = 0.04;

/**
 * How far boxes have to move so that none reaches another, each away from the middle of all as far as it takes; the
 * largest stays.
 * @returns x, y and z of each, metres
 */
export function movedApart(boxes: readonly Bounds[]): number[][] {
  const ways = boxes.map(() => [0, 0, 0]);
  const filled = boxes.flatMap((box, i) =>
    box.min[0] <= box.max[0] ? [i] : [],
  );
  if (filled.length < 2) return ways;
  const low = [0, 1, 2].map((k) =>
    Math.min(...filled.map((i) => boxes[i].min[k])),
  );
  const high = [0, 1, 2].map((k) =>
    Math.max(...filled.map((i) => boxes[i].max[k])),
  );
  const size = Math.hypot(...high.map((x, k) => x - low[k]));
  const room = ROOM * size;
  const volume = (i: number) =>
    boxes[i].max.reduce(
      (all, x, k) => all * (x - boxes[i].min[k] + 1e-4 * size),
      1,
    );
  const placed: { min: number[]; max: number[] }[] = [];
  for (const i of filled.toSorted((a, b) => volume(b) - volume(a) || a - b)) {
    const { min, max } = boxes[i];
    let way = min.map((x, k) => (x + max[k] - low[k] - high[k]) / 2);
    const length = Math.hypot(...way);
    // What lies in the middle of all goes up.
    way = length > 1e-3 * size ? way.map((x) => x / length) : [0, 1, 0];
    let far = 0;
    for (;;) {
      const at = far;
      const next = placed
        .map((box) => clearedAt(min, max, way, at, box, room))
        .reduce((most, each) => Math.max(most, each), far);
      if (next <= far) break;
      far = next;
    }
    if (far > 0) ways[i] = way.map((x) => far * x);
    placed.push({
      min: min.map((x, k) => x + ways[i][k]),
      max: max.map((x, k) => x + ways[i][k]),
    });
  }
  return ways;
}

/** How far along its way a box has to go until it is clear of another; as far as it is where it already is. */
function clearedAt(
  min: readonly number[],
  max: readonly number[],
  way: readonly number[],
  far: number,
  box: { min: readonly number[]; max: readonly number[] },
  room: number,
): number {
  let best = Infinity;
  for (let k = 0; k < 3; k++) {
    const above = box.max[k] + room - (min[k] + far * way[k]);
    const below = max[k] + far * way[k] - (box.min[k] - room);
    // Apart along one axis is apart.
    if (above <= 1e-9 || below <= 1e-9) return far;
    if (way[k] > 1e-6) best = Math.min(best, far + above / way[k]);
    else if (way[k] < -1e-6) best = Math.min(best, far - below / way[k]);
  }
  return best;
}
