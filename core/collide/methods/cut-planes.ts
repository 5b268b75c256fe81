import { coincident } from "../../mesh/weld";
import { buildEdges } from "../../mesh/edges";
import { boundsOf } from "../../space/bounds";
import { principalAxes, WORLD_AXES } from "../../space/principal-axes";
import { cross, dot, pointAt, subtract, unit } from "../../space/vector";
import type { ConvexMesh } from "../../mesh/hull";
import { planesOf } from "./containment";
import type { Plane, Surface } from "./half-space";
import { heightOf } from "./half-space";

/** An edge where a surface folds inwards, and the planes that a cut there would take. */
export interface Fold {
  /** The ends, metres. */
  from: readonly number[];
  to: readonly number[];
  /** Its length times how sharply it folds, metres. */
  weight: number;
  /** The planes of both faces, and the one between them. */
  planes: readonly Plane[];
}

/** Faces that fold inwards by less than this cosine says are one curved surface. */
const FLAT = Math.cos((20 * Math.PI) / 180);
/** Folds whose normals differ by no more than this, and whose offsets by no more than this share of the size, ask for one cut. */
const SAME_WAY = Math.cos((4 * Math.PI) / 180);
const SAME_PLACE = 4e-3;
/** Cuts that are tried: through folds, the deepest hollows, and along each axis. */
const FOLDS = 14;
/** Folds of which planes are gathered: ugly meshes have thousands. */
const HEAVIEST = 400;
const HOLLOWS = 3;
const ALONG = 7;

const DIRECTIONS = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
  [1, 1, 0],
  [1, -1, 0],
  [1, 0, 1],
  [1, 0, -1],
  [0, 1, 1],
  [0, 1, -1],
  [1, 1, 1],
  [1, 1, -1],
  [1, -1, 1],
  [-1, 1, 1],
].map(unit);

/** The edges of a surface that fold inwards. */
export function foldsOf({ positions, triangles }: Surface): Fold[] {
  const target = coincident(Float32Array.from(positions), 0);
  const corners = triangles.map((v) => target[v]);
  const edges = buildEdges({
    corners,
    faceStarts: Uint32Array.from(
      { length: corners.length / 3 + 1 },
      (_, f) => 3 * f,
    ),
  });
  const planeOf = (corner: number): Plane | null => {
    const t = corner - (corner % 3);
    const [a, b, c] = [0, 1, 2].map((k) => pointAt(positions, corners[t + k]));
    const n = cross(subtract(b, a), subtract(c, a));
    if (!(Math.hypot(...n) > 0)) return null;
    const way = unit(n);
    return [...way, dot(way, a)];
  };
  const oppositeOf = (corner: number) =>
    corners[corner - (corner % 3) + ((corner + 2) % 3)];
  const folds: Fold[] = [];
  for (let e = 0; e < edges.count; e++) {
    if (edges.uses[e] !== 2) continue;
    const one = planeOf(edges.first[e]);
    const other = planeOf(edges.second[e]);
    if (!one || !other) continue;
    const cos = dot(one, other);
    if (cos > FLAT) continue;
    if (heightOf(one, positions, oppositeOf(edges.second[e])) <= 0) continue;
    const from = pointAt(positions, edges.vertices[2 * e]);
    const to = pointAt(positions, edges.vertices[2 * e + 1]);
    const along = subtract(to, from);
    const planes = [one, other];
    const sum = one.slice(0, 3).map((x, k) => x + other[k]);
    const between = cross(along, sum);
    if (Math.hypot(...between) > 1e-6 * Math.hypot(...along)) {
      const way = unit(between);
      planes.push([...way, dot(way, from)]);
    }
    folds.push({ from, to, weight: Math.hypot(...along) * (1 - cos), planes });
  }
  return folds;
}

/** Whether the middle of a fold lies below a plane, and the fold not in it. */
export function isBelow({ from, to }: Fold, plane: Plane, near: number) {
  const a = heightOf(plane, from, 0);
  const b = heightOf(plane, to, 0);
  return (a + b) / 2 < near && Math.min(a, b) < -near;
}

/**
 * Planes that a piece may well be cut by: through where it folds inwards, through its deepest hollows in many
 * directions, and evenly along its axes.
 * @param size of the piece, metres
 */
export function cutPlanes(
  surface: Surface,
  hull: ConvexMesh,
  folds: readonly Fold[],
  size: number,
): Plane[] {
  return [
    ...throughFolds(folds, size).slice(0, FOLDS),
    ...throughHollows(surface, hull, size, HOLLOWS),
    ...alongAxes(surface, ALONG),
  ];
}

/** One plane for all folds that ask for it, those that most ask for first. */
function throughFolds(folds: readonly Fold[], size: number): Plane[] {
  const found: { plane: Plane; weight: number }[] = [];
  const heaviest = [...folds]
    .sort((a, b) => b.weight - a.weight)
    .slice(0, HEAVIEST);
  for (const { planes, weight } of heaviest)
    for (const plane of planes) {
      const same = found.find((each) => {
        const cos = dot(each.plane, plane);
        if (Math.abs(cos) < SAME_WAY) return false;
        const d = cos < 0 ? -plane[3] : plane[3];
        return Math.abs(each.plane[3] - d) < SAME_PLACE * size;
      });
      if (same) same.weight += weight;
      else found.push({ plane, weight });
    }
  found.sort((a, b) => b.weight - a.weight);
  return found.map(({ plane }) => plane);
}

/** Planes through the points that lie deepest under the hull. */
function throughHollows(
  { positions: p }: Surface,
  hull: ConvexMesh,
  size: number,
  most: number,
): Plane[] {
  const planes = planesOf(hull);
  const count = p.length / 3;
  const depths = new Float64Array(count);
  for (let v = 0; v < count; v++) {
    let depth = Infinity;
    for (let k = 0; k < planes.length; k += 4)
      depth = Math.min(
        depth,
        planes[k + 3] -
          planes[k] * p[3 * v] -
          planes[k + 1] * p[3 * v + 1] -
          planes[k + 2] * p[3 * v + 2],
      );
    depths[v] = depth;
  }
  const own = principalAxes(p);
  const places: [number, number, number][] = [];
  while (places.length < most) {
    let deepest = -1;
    for (let v = 0; v < count; v++) {
      if (depths[v] <= 0.01 * size) continue;
      if (deepest >= 0 && depths[v] <= depths[deepest]) continue;
      const here = pointAt(p, v);
      if (
        places.every(
          (place) => Math.hypot(...subtract(place, here)) > 0.2 * size,
        )
      )
        deepest = v;
    }
    if (deepest < 0) break;
    places.push(pointAt(p, deepest));
  }
  return places.flatMap((place) =>
    [...DIRECTIONS, ...own].map(([x, y, z]): Plane => [
      x,
      y,
      z,
      dot([x, y, z], place),
    ]),
  );
}

/** Planes square to the axes of the world and of the piece, evenly along each. */
function alongAxes({ positions }: Surface, cuts: number): Plane[] {
  const { min, max } = boundsOf(positions);
  const own = principalAxes(positions).filter((axis) =>
    axis.every((x) => Math.abs(x) < SAME_WAY),
  );
  const planes: Plane[] = [];
  for (const [x, y, z] of [...WORLD_AXES, ...own]) {
    let low = Infinity;
    let high = -Infinity;
    if (Math.abs(x) + Math.abs(y) + Math.abs(z) === 1) {
      const axis = [x, y, z].indexOf(1);
      low = min[axis];
      high = max[axis];
    } else
      for (let i = 0; i < positions.length; i += 3) {
        const d =
          x * positions[i] + y * positions[i + 1] + z * positions[i + 2];
        low = Math.min(low, d);
        high = Math.max(high, d);
      }
    for (let k = 1; k <= cuts; k++)
      planes.push([x, y, z, low + ((high - low) * k) / (cuts + 1)]);
  }
  return planes;
}
