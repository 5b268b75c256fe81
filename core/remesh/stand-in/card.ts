import { smallestBox } from "../../space/smallest-box";
import type { Vector } from "../../space/vector";
import { cross, dot, unit } from "../../space/vector";
import type { Mesh } from "../../mesh/mesh";
import type { Cloud } from "./cloud";
import { Polygons } from "./polygons";

/** Rows of a card of which nobody said how many, and the most across. */
const ROWS = 6;
const MOST = 24;

/**
 * A sheet of quads through the middle of a flat piece, bent and trimmed as that is: what is cut out of it is left to
 * an opacity map. It faces the side of the box that looks more to the front (+z), the right or up.
 * @param rows along its longer side, or 0 for as many as is usual
 */
export function fitCard(cloud: Cloud, rows: number): Mesh {
  const { axes, extents } = smallestBox(cloud.vertices);
  const lengths = extents.map(([low, high]) => high - low);
  const order = [0, 1, 2].sort((a, b) => lengths[a] - lengths[b]);
  const [thin, , long] = order;
  const way = front(axes[thin]);
  const up = unit(axes[long]) as Vector;
  const right = unit(cross(up, way)) as Vector;
  const across = (points: Float32Array, i: number, axis: Vector) =>
    dot(points.subarray(3 * i, 3 * i + 3), axis);
  const count = rows || ROWS;
  const wide = lengths[order[1]];
  const columns = Math.max(
    1,
    Math.min(MOST, Math.round((count * wide) / (lengths[long] || 1))),
  );
  const ups = Array.from({ length: cloud.vertices.length / 3 }, (_, i) =>
    across(cloud.vertices, i, up),
  );
  const rights = ups.map((_, i) => across(cloud.vertices, i, right));
  const low = Math.min(...ends(ups));
  const high = Math.max(...ends(ups));
  const step = (high - low) / count;
  const polygons = new Polygons();
  const names: number[] = [];
  for (let j = 0; j <= count; j++) {
    const b = low + j * step;
    const [from, to] = reachAt(ups, rights, b, step);
    for (let i = 0; i <= columns; i++) {
      const a = from + ((to - from) * i) / columns;
      const h = heightAt(cloud, [right, up, way], a, b, 0.6 * step);
      names.push(
        polygons.point(
          [0, 1, 2].map((k) => a * right[k] + b * up[k] + h * way[k]),
        ),
      );
    }
  }
  const name = (i: number, j: number) => names[j * (columns + 1) + i];
  for (let j = 0; j < count; j++)
    for (let i = 0; i < columns; i++)
      polygons.face(
        name(i, j),
        name(i + 1, j),
        name(i + 1, j + 1),
        name(i, j + 1),
      );
  return polygons.mesh();
}

/** The direction or its opposite, whichever looks more to the front, then to the right, then up. */
function front(way: readonly number[]): Vector {
  const order = [2, 0, 1];
  const most = order.reduce((best, k) =>
    Math.abs(way[k]) > Math.abs(way[best]) + 1e-3 ? k : best,
  );
  const sign = way[most] < 0 ? -1 : 1;
  return unit(way.map((x) => sign * x)) as Vector;
}

/** The least and the largest of many numbers. */
function ends(values: readonly number[]): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  for (const x of values) {
    if (x < low) low = x;
    if (x > high) high = x;
  }
  return [low, high];
}

/** How far to both sides the piece reaches within a step of a height; over all of it where nothing is there. */
function reachAt(
  ups: readonly number[],
  rights: readonly number[],
  at: number,
  step: number,
): [number, number] {
  const near = rights.filter((_, i) => Math.abs(ups[i] - at) < 0.6 * step);
  return ends(near.length > 1 ? near : rights);
}

/** Where the middle of the piece lies along the card's own direction, near a place of it. */
function heightAt(
  cloud: Cloud,
  [right, up, way]: readonly Vector[],
  a: number,
  b: number,
  reach: number,
): number {
  let sum = 0;
  let weights = 0;
  for (let i = 0; i < cloud.count; i++) {
    const at = cloud.points.subarray(3 * i, 3 * i + 3);
    const far2 = (dot(at, right) - a) ** 2 + (dot(at, up) - b) ** 2;
    // Never quite nothing: where no point is near, the nearest say it.
    const weight = Math.exp(-far2 / (2 * reach * reach)) + 1e-30 / (1 + far2);
    sum += weight * dot(at, way);
    weights += weight;
  }
  return sum / weights;
}
