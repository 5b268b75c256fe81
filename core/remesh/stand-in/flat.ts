import { BOX_QUADS } from "../../mesh/collider-shape";
import { drawMask, flatView } from "../../space/outline";
import { WORLD_AXES, principalAxes } from "../../space/principal-axes";
import { extentsAlong, smallestBox } from "../../space/smallest-box";
import type { Vector } from "../../space/vector";
import { dot, unit } from "../../space/vector";
import type { Mesh } from "../../mesh/mesh";
import type { Cloud } from "./cloud";
import { Polygons } from "./polygons";
import { withHard } from "./round";

/** A face of the box counts points that face its way by at least this cosine. */
const FACING = 0.85;

/** The place of a flat end along a direction: the middle of what faces that way, or the end of the piece. */
function endAlong(cloud: Cloud, way: ArrayLike<number>, end: number): number {
  const found: number[] = [];
  for (let i = 0; i < cloud.count; i++) {
    const n = cloud.normals.subarray(3 * i, 3 * i + 3);
    if (dot(n, way) < FACING) continue;
    const x = dot(cloud.points.subarray(3 * i, 3 * i + 3), way);
    if (end - x < 0.12 * cloud.size) found.push(x);
  }
  if (found.length < 12) return end;
  found.sort((a, b) => a - b);
  return found[found.length >> 1];
}

/** The smallest box, its faces drawn in to where most of the surface lies. */
export function fitBoxShape(cloud: Cloud, capped: boolean): Mesh {
  const { axes, extents } = smallestBox(cloud.vertices);
  const ends = axes.map((axis, k) => {
    const back = axis.map((x) => -x);
    return [
      -endAlong(cloud, back, -extents[k][0]),
      endAlong(cloud, axis, extents[k][1]),
    ];
  });
  const polygons = new Polygons();
  for (let corner = 0; corner < 8; corner++)
    polygons.point(
      [0, 1, 2].map((k) =>
        axes.reduce(
          (sum, axis, a) => sum + axis[k] * ends[a][(corner >> a) & 1],
          0,
        ),
      ),
    );
  const longest = ends
    .map(([a, b], k) => ({ k, length: b - a }))
    .sort((a, b) => b.length - a.length)[0].k;
  BOX_QUADS.forEach((quad, q) => {
    // Open: the two ends of the longest side are left out.
    if (capped || q >> 1 !== longest) polygons.face(...quad);
  });
  return withHard(polygons.mesh(), 30);
}

/** Edge of the picture that an outline is traced in, px; the least share of the outline's area that a hole must have. */
const PICTURE = 512;
const HOLE = 0.006;
/** Distance of an outline that nobody set the points of, as a share of the piece's size. */
const TOLERANCE = 0.006;

type Point2 = [number, number];

/**
 * A flat outline with thickness: the piece's shadow along its flattest direction, holes with it.
 * @param corners of the outer outline, or 0 for as many as it needs
 */
export function fitOutline(
  cloud: Cloud,
  corners: number,
  capped: boolean,
): Mesh {
  const way = flatWay(cloud);
  const [[low, high]] = extentsAlong(cloud.vertices, [
    [...way],
    [...way],
    [...way],
  ]);
  const { centre } = cloud;
  const view = flatView(way, centre, cloud.size / 2, PICTURE);
  const { pixels } = drawMask(view, cloud.vertices, cloud.triangles);
  const loops = traceLoops(pixels, PICTURE);
  const area = Math.max(...loops.map((loop) => loopArea(loop)), 1);
  const kept = loops.filter((loop) => Math.abs(loopArea(loop)) > HOLE * area);
  const outers = kept.filter((loop) => loopArea(loop) > 0);
  const holes = kept.filter((loop) => loopArea(loop) < 0);
  const top = endAlong(cloud, way, high);
  const bottom = -endAlong(
    cloud,
    way.map((x) => -x),
    -low,
  );
  const polygons = new Polygons();
  for (const outer of outers) {
    const shapes = [
      outer,
      ...holes.filter((hole) => holds(outer, hole[0])),
    ].map((loop, i) =>
      simplified(loop, i === 0 ? corners : 0, TOLERANCE * PICTURE),
    );
    const place = ([x, y]: Point2, h: number) =>
      [0, 1, 2].map((k) => {
        const inPlane =
          ((x - PICTURE / 2) * view.right[k] + (y - PICTURE / 2) * view.up[k]) /
          view.scale;
        const off = h - dot(centre, way);
        return centre[k] + inPlane + off * way[k];
      });
    const flat = shapes.flat(2);
    const [below, above] = [bottom, top].map((h) =>
      shapes.map((shape) => shape.map((p) => polygons.point(place(p, h)))),
    );
    below.forEach((loop, i) => polygons.band(loop, above[i]));
    if (capped) {
      polygons.close(below, flat, true);
      polygons.close(above, flat, false);
    }
  }
  return withHard(polygons.mesh(), 30);
}

/** The direction that most of the surface faces, to and fro. */
function flatWay(cloud: Cloud): Vector {
  const candidates = [
    ...WORLD_AXES,
    ...principalAxes(cloud.points),
    ...smallestBox(cloud.vertices).axes,
  ];
  let best: readonly number[] = candidates[0];
  let most = -1;
  for (const way of candidates) {
    let facing = 0;
    for (let i = 0; i < cloud.count; i++)
      if (Math.abs(dot(cloud.normals.subarray(3 * i, 3 * i + 3), way)) > 0.97)
        facing++;
    if (facing > 1.02 * most) {
      most = facing;
      best = way;
    }
  }
  return unit(best);
}

/** Borders of covered pixels as loops of pixel corners, the covered side on the left: holes run clockwise. */
function traceLoops(pixels: Uint8Array, size: number): Point2[][] {
  const covered = (x: number, y: number) =>
    x >= 0 && y >= 0 && x < size && y < size && pixels[y * size + x] === 1;
  // A border runs along the lower side of a covered pixel to the right, and so on round it.
  const done = new Uint8Array((size + 1) * (size + 1));
  const loops: Point2[][] = [];
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      if (!covered(x, y) || covered(x, y - 1) || done[y * (size + 1) + x])
        continue;
      const loop: Point2[] = [];
      let [cx, cy, dx, dy] = [x, y, 1, 0];
      do {
        if (dx === 1) done[cy * (size + 1) + cx] = 1;
        loop.push([cx, cy]);
        cx += dx;
        cy += dy;
        // The pixels ahead, to the left and to the right of the way.
        const left = covered(cx + (dx - dy - 1) / 2, cy + (dy + dx - 1) / 2);
        const right = covered(cx + (dx + dy - 1) / 2, cy + (dy - dx - 1) / 2);
        if (right) [dx, dy] = [dy, -dx];
        else if (!left) [dx, dy] = [-dy, dx];
      } while (cx !== x || cy !== y || dx !== 1 || dy !== 0);
      loops.push(loop);
    }
  return loops;
}

function loopArea(loop: readonly Point2[]): number {
  let sum = 0;
  loop.forEach(([x, y], i) => {
    const [u, v] = loop[(i + 1) % loop.length];
    sum += x * v - u * y;
  });
  return sum / 2;
}

function holds(loop: readonly Point2[], [x, y]: Point2): boolean {
  let inside = false;
  loop.forEach(([ax, ay], i) => {
    const [bx, by] = loop[(i + 1) % loop.length];
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax))
      inside = !inside;
  });
  return inside;
}

/**
 * A closed loop with fewer corners (Ramer 1972, Douglas and Peucker 1973), its sides then laid through the points
 * between them by least squares.
 * @param corners how many, or 0 for as many as keep to the tolerance
 */
function simplified(
  loop: readonly Point2[],
  corners: number,
  tolerance: number,
): Point2[] {
  let kept = corneredBy(loop, tolerance);
  if (corners >= 3) {
    // The tolerance at which there are no more corners than wanted.
    let [low, high] = [0.2, PICTURE];
    for (let round = 0; round < 24; round++) {
      const middle = Math.sqrt(low * high);
      if (corneredBy(loop, middle).length > corners) low = middle;
      else high = middle;
    }
    kept = corneredBy(loop, high);
  }
  if (kept.length < 3)
    kept = [0, 1, 2].map((k) => Math.floor((k * loop.length) / 3));
  const lines = kept.map((from, i) =>
    lineThrough(loop, from, kept[(i + 1) % kept.length]),
  );
  return kept.map((at, i) => {
    const before = lines[(i + lines.length - 1) % lines.length];
    const [x, y] = meet(before, lines[i]) ?? loop[at];
    const far = Math.hypot(x - loop[at][0], y - loop[at][1]);
    return far <= Math.max(4, 2 * tolerance) ? [x, y] : loop[at];
  });
}

/** Indices of the corners that keep to a tolerance, rising. */
function corneredBy(loop: readonly Point2[], tolerance: number): number[] {
  const n = loop.length;
  let far = 0;
  let most = -1;
  loop.forEach(([x, y], i) => {
    const d = (x - loop[0][0]) ** 2 + (y - loop[0][1]) ** 2;
    if (d > most) [far, most] = [i, d];
  });
  // The first corner is itself the farthest from the farthest one, so it does not lie amid a side.
  let start = 0;
  most = -1;
  loop.forEach(([x, y], i) => {
    const d = (x - loop[far][0]) ** 2 + (y - loop[far][1]) ** 2;
    if (d > most) [start, most] = [i, d];
  });
  const kept = new Set([start, far]);
  const waiting: [number, number][] = [
    [start, far < start ? far + n : far],
    [far, start < far ? start + n : start],
  ];
  while (waiting.length) {
    const [a, b] = waiting.pop()!;
    const [ax, ay] = loop[a % n];
    const [bx, by] = loop[b % n];
    const length = Math.hypot(bx - ax, by - ay) || 1;
    let worst = tolerance;
    let at = -1;
    for (let i = a + 1; i < b; i++) {
      const [x, y] = loop[i % n];
      const off =
        Math.abs((x - ax) * (by - ay) - (y - ay) * (bx - ax)) / length;
      if (off > worst) [worst, at] = [off, i];
    }
    if (at < 0) continue;
    kept.add(at % n);
    waiting.push([a, at], [at, b]);
  }
  return [...kept].sort((a, b) => a - b);
}

/** A point and a direction. */
type Line = [Point2, Point2];

function lineThrough(
  loop: readonly Point2[],
  from: number,
  to: number,
): Line | null {
  const n = loop.length;
  const end = to <= from ? to + n : to;
  // What lies near the corners is rounded off by the pixels: only the middle counts.
  const skip = Math.floor((end - from) / 8);
  let [count, mx, my] = [0, 0, 0];
  for (let i = from + skip; i <= end - skip; i++) {
    mx += loop[i % n][0];
    my += loop[i % n][1];
    count++;
  }
  if (count < 6) return null;
  mx /= count;
  my /= count;
  let [xx, xy, yy] = [0, 0, 0];
  for (let i = from + skip; i <= end - skip; i++) {
    const dx = loop[i % n][0] - mx;
    const dy = loop[i % n][1] - my;
    xx += dx * dx;
    xy += dx * dy;
    yy += dy * dy;
  }
  const angle = Math.atan2(2 * xy, xx - yy) / 2;
  return [
    [mx, my],
    [Math.cos(angle), Math.sin(angle)],
  ];
}

function meet(a: Line | null, b: Line | null): Point2 | null {
  if (!a || !b) return null;
  const det = a[1][0] * b[1][1] - a[1][1] * b[1][0];
  if (Math.abs(det) < 0.1) return null;
  const t =
    ((b[0][0] - a[0][0]) * b[1][1] - (b[0][1] - a[0][1]) * b[1][0]) / det;
  return [a[0][0] + t * a[1][0], a[0][1] + t * a[1][1]];
}
