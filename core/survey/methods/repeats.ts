import type { Matrix } from "../../mesh/transform";
import { determinant } from "../../mesh/transform";
import { cross, dot, unit } from "../../space/vector";

/** A cloud of vertices that may be the same as another, moved. */
export interface Shape {
  /** 3 × n */
  points: Float32Array;
  faces: number;
  corners: number;
  centre: [number, number, number];
  /** Root mean square distance from the centre. */
  size: number;
  /** Distances from the centre over the size, rising, a few of them. */
  profile: number[];
  /** The vertex farthest from the centre, and the one farthest from the axis through both. */
  landmarks: [number, number];
}

const PROFILE = 24;

/**
 * What does not change when a piece is moved or turned.
 * @param points 3 × vertexCount, metres
 */
export function shapeOf(
  points: Float32Array,
  faces: number,
  corners: number,
): Shape {
  const n = points.length / 3;
  const centre: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < points.length; i++) centre[i % 3] += points[i] / n;
  const distances = new Float64Array(n);
  let sum = 0;
  for (let v = 0; v < n; v++) {
    const d2 =
      (points[3 * v] - centre[0]) ** 2 +
      (points[3 * v + 1] - centre[1]) ** 2 +
      (points[3 * v + 2] - centre[2]) ** 2;
    distances[v] = Math.sqrt(d2);
    sum += d2;
  }
  const size = Math.sqrt(sum / n);
  const sorted = distances.slice().sort();
  const profile = Array.from(
    { length: PROFILE },
    (_, k) => sorted[Math.round((k * (n - 1)) / (PROFILE - 1))] / (size || 1),
  );
  return {
    points,
    faces,
    corners,
    centre,
    size,
    profile,
    landmarks: landmarksOf(points, centre, size),
  };
}

/**
 * The matrix (move, turn, one scale, maybe a mirror) that lays shape a on shape b, or null where none does.
 * @param tolerance metres; every vertex must find one of b this near, and the other way round
 * @param thorough whether to try when the vertices come in another order
 *
 * Two landmarks of a (its farthest vertex from the centre, and the one farthest from that axis) and the centre
 * make a frame. Copies mostly keep the order of their vertices, so the same two vertices of b are tried first,
 * with and without a mirror; then all pairs of b that lie alike.
 */
export function placement(
  a: Shape,
  b: Shape,
  tolerance: number,
  thorough = true,
): Matrix | null {
  if (
    a.points.length !== b.points.length ||
    a.faces !== b.faces ||
    a.corners !== b.corners ||
    !a.size ||
    !b.size
  )
    return null;
  const slack = tolerance / Math.min(a.size, b.size) + 1e-5;
  for (let k = 0; k < PROFILE; k++)
    if (Math.abs(a.profile[k] - b.profile[k]) > 2 * slack) return null;
  // A copy is either as large as the first or plainly not: a scale near 1 is 1.
  const ratio = b.size / a.size;
  const scale = Math.abs(ratio - 1) * a.size * 2 < tolerance ? 1 : ratio;
  return (
    inOrder(a, b, scale, tolerance) ??
    (thorough ? byLandmarks(a, b, scale, tolerance) : null)
  );
}

/** Whether a mirror is in a placement. */
export const mirrors = (matrix: Matrix) => determinant(matrix) < 0;

type Frame = readonly [readonly number[], readonly number[], readonly number[]];

function matrixFrom(
  a: Shape,
  b: Shape,
  from: Frame,
  to: Frame,
  scale: number,
): Matrix {
  const m = new Array<number>(16).fill(0);
  m[15] = 1;
  for (let row = 0; row < 3; row++)
    for (let column = 0; column < 3; column++)
      for (let k = 0; k < 3; k++)
        m[4 * column + row] += scale * to[k][row] * from[k][column];
  for (let row = 0; row < 3; row++)
    m[12 + row] =
      b.centre[row] -
      (m[row] * a.centre[0] +
        m[4 + row] * a.centre[1] +
        m[8 + row] * a.centre[2]);
  return m;
}

/** Frame of three vertices' directions from the centre, well apart; null where all lie in one line. */
function frameOf(shape: Shape, v: number, w: number): Frame | null {
  const at = (i: number) =>
    [0, 1, 2].map((k) => shape.points[3 * i + k] - shape.centre[k]);
  const x = unit(at(v));
  const second = at(w);
  const along = dot(second, x);
  const y = second.map((value, k) => value - along * x[k]);
  if (Math.hypot(...y) < 1e-4 * shape.size || Math.hypot(...x) < 0.5)
    return null;
  const unitY = unit(y);
  return [x, unitY, cross(x, unitY)];
}

function landmarksOf(
  points: Float32Array,
  centre: readonly number[],
  size: number,
): [number, number] {
  const n = points.length / 3;
  const offset = (v: number) =>
    [0, 1, 2].map((k) => points[3 * v + k] - centre[k]);
  const farthest = (distance: (v: number) => number) => {
    let best = 0;
    let most = -1;
    for (let v = 0; v < n; v++) {
      const d = distance(v);
      if (d <= most + 1e-7 * size) continue;
      most = d;
      best = v;
    }
    return best;
  };
  const far = farthest((v) => Math.hypot(...offset(v)));
  const axis = unit(offset(far));
  return [far, farthest((v) => Math.hypot(...cross(offset(v), axis)))];
}

function inOrder(a: Shape, b: Shape, scale: number, tolerance: number) {
  const [v, w] = a.landmarks;
  return bothHands(a, b, v, w, v, w, scale, (m) =>
    fitsInOrder(a, b, m, tolerance),
  );
}

function bothHands(
  a: Shape,
  b: Shape,
  v: number,
  w: number,
  bv: number,
  bw: number,
  scale: number,
  fits: (m: Matrix) => boolean,
): Matrix | null {
  const from = frameOf(a, v, w);
  const to = frameOf(b, bv, bw);
  if (!from || !to) return null;
  for (const hand of [1, -1]) {
    const m = matrixFrom(
      a,
      b,
      from,
      [to[0], to[1], to[2].map((x) => hand * x)],
      scale,
    );
    if (fits(m)) return m;
  }
  return null;
}

function fitsInOrder(a: Shape, b: Shape, m: Matrix, tolerance: number) {
  const p = a.points;
  const limit = tolerance * tolerance;
  for (let i = 0; i < p.length; i += 3) {
    let d2 = 0;
    for (let k = 0; k < 3; k++) {
      const x =
        m[k] * p[i] + m[4 + k] * p[i + 1] + m[8 + k] * p[i + 2] + m[12 + k];
      d2 += (x - b.points[i + k]) ** 2;
    }
    if (d2 > limit) return false;
  }
  return true;
}

const MOST_TRIES = 600;

function byLandmarks(a: Shape, b: Shape, scale: number, tolerance: number) {
  const [v, w] = a.landmarks;
  const distance = (shape: Shape, i: number, j: number) =>
    Math.hypot(
      ...[0, 1, 2].map((k) =>
        j < 0
          ? shape.points[3 * i + k] - shape.centre[k]
          : shape.points[3 * i + k] - shape.points[3 * j + k],
      ),
    );
  const n = b.points.length / 3;
  const like = (reach: number) => {
    const found: number[] = [];
    for (let i = 0; i < n; i++)
      if (Math.abs(distance(b, i, -1) - scale * reach) <= tolerance)
        found.push(i);
    return found;
  };
  const first = like(distance(a, v, -1));
  const second = like(distance(a, w, -1));
  const apart = scale * distance(a, v, w);
  if (!first.length || !second.length) return null;
  const grid = gridOf(b, tolerance);
  let tries = 0;
  for (const bv of first)
    for (const bw of second) {
      if (Math.abs(distance(b, bv, bw) - apart) > 2 * tolerance) continue;
      if (++tries > MOST_TRIES) return null;
      const m = bothHands(a, b, v, w, bv, bw, scale, (matrix) =>
        grid.covers(a.points, matrix),
      );
      if (m) return m;
    }
  return null;
}

const grids = new WeakMap<Shape, PointGrid>();

function gridOf(shape: Shape, tolerance: number): PointGrid {
  let grid = grids.get(shape);
  if (!grid) {
    grid = new PointGrid(shape.points, tolerance);
    grids.set(shape, grid);
  }
  return grid;
}

/** Vertices in cells of the tolerance. */
class PointGrid {
  private readonly cells = new Map<string, number[]>();
  private readonly cell: number;

  constructor(
    private readonly points: Float32Array,
    private readonly tolerance: number,
  ) {
    this.cell = Math.max(2 * tolerance, 1e-9);
    for (let v = 0; v < points.length / 3; v++) {
      const key = [0, 1, 2]
        .map((k) => Math.floor(points[3 * v + k] / this.cell))
        .join(" ");
      const list = this.cells.get(key);
      if (list) list.push(v);
      else this.cells.set(key, [v]);
    }
  }

  /** Whether every point, moved, has a vertex of its own within the tolerance. */
  covers(p: Float32Array, m: Matrix): boolean {
    const taken = new Uint8Array(this.points.length / 3);
    for (let i = 0; i < p.length; i += 3) {
      const at = [0, 1, 2].map(
        (k) =>
          m[k] * p[i] + m[4 + k] * p[i + 1] + m[8 + k] * p[i + 2] + m[12 + k],
      );
      const found = this.near(at, taken);
      if (found < 0) return false;
      taken[found] = 1;
    }
    return true;
  }

  private near(at: readonly number[], taken: Uint8Array): number {
    const base = at.map((x) => Math.floor(x / this.cell - 0.5));
    for (let k = 0; k < 8; k++) {
      const key = `${base[0] + (k & 1)} ${base[1] + ((k >> 1) & 1)} ${base[2] + (k >> 2)}`;
      for (const v of this.cells.get(key) ?? [])
        if (
          !taken[v] &&
          Math.hypot(
            this.points[3 * v] - at[0],
            this.points[3 * v + 1] - at[1],
            this.points[3 * v + 2] - at[2],
          ) <= this.tolerance
        )
          return v;
    }
    return -1;
  }
}

export interface RepeatFamily<T> {
  first: T;
  copies: { item: T; matrix: Matrix }[];
}

/** Crowds of like-built shapes beyond this are compared vertex by vertex in their order only. */
const MOST_THOROUGH = 200;

/** Something that may have a like: its shape is only made where another is built like it. */
export interface Candidate<T> {
  item: T;
  vertices: number;
  faces: number;
  corners: number;
  points(): Float32Array;
}

/** Sorts candidates into families of the same; those that stand alone are left out. */
export function findFamilies<T>(
  candidates: readonly Candidate<T>[],
  tolerance: number,
  check: () => void,
): RepeatFamily<T>[] {
  const alike = new Map<string, Candidate<T>[]>();
  for (const each of candidates) {
    const key = `${each.vertices} ${each.faces} ${each.corners}`;
    const list = alike.get(key);
    if (list) list.push(each);
    else alike.set(key, [each]);
  }
  return [...alike.values()].flatMap((list) => {
    if (list.length < 2) return [];
    const thorough = list.length <= MOST_THOROUGH;
    const known: { family: RepeatFamily<T>; shape: Shape }[] = [];
    for (const { item, faces, corners, points } of list) {
      check();
      const shape = shapeOf(points(), faces, corners);
      const found = known.some(({ family, shape: first }) => {
        const matrix = placement(first, shape, tolerance, thorough);
        if (matrix) family.copies.push({ item, matrix });
        return matrix !== null;
      });
      if (!found) known.push({ family: { first: item, copies: [] }, shape });
    }
    return known
      .map(({ family }) => family)
      .filter(({ copies }) => copies.length);
  });
}
