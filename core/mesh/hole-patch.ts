import { leastAreaCuts, ringNormalOf } from "./hole-ring";
import { cross } from "./triangle-shape";

/** A hole as its patch sees it. */
export interface Ring {
  /** 3 × n, metres, in the order in which the patch runs along it. */
  points: Float64Array;
  /** For each of its n vertices those of the surface round the hole that it is joined with, x, y and z after each other. */
  around: readonly (readonly number[])[];
  /** Whether two vertices of the ring are joined already: no edge of the patch may run there. */
  joined(i: number, j: number): boolean;
}

/** Triangles over the ring's vertices 0 … n − 1 and inner ones from n on. */
export interface Patch {
  triangles: number[];
  /** 3 × inner vertices, metres. */
  inner: number[];
}

/** Rings shorter than this are closed without inner vertices. */
const FEWEST = 6;
/** A surface that meets the flat patch more steeply than this was cut off there: the patch stays flat. */
const STEEPEST = Math.cos((60 * Math.PI) / 180);
/** A triangle is parted where its middle is farther off than its size by this. */
const DENSITY = Math.SQRT2;
const MOST_INNER = 20_000;
const ROUNDS = 40;

/**
 * A patch that goes on the way the surface round it bends: the triangulation of least area, made as fine as the
 * ring, then moved to where curvature changes least (Liepa 2003, "Filling holes in meshes", with the sum of
 * squared Laplacians for the fairing). Where the surface ends at the hole, as a tube does, it stays flat.
 */
export function patchRing(ring: Ring, smooth: boolean): Patch {
  const n = ring.points.length / 3;
  const triangles = leastAreaCuts(ring.points, (i, j) => ring.joined(i, j));
  if (!triangles) return fanFromMiddle(ring.points);
  if (!smooth || n < FEWEST || !goesOn(ring, triangles))
    return { triangles, inner: [] };
  const patch = new PatchWork(ring, triangles);
  patch.refine();
  patch.fair();
  return patch.finish();
}

/** Every edge of the ring with one new vertex in its middle: always a sound patch. */
function fanFromMiddle(points: Float64Array): Patch {
  const n = points.length / 3;
  const inner = [0, 0, 0];
  for (let i = 0; i < points.length; i++) inner[i % 3] += points[i] / n;
  const triangles: number[] = [];
  for (let i = 0; i < n; i++) triangles.push(i, (i + 1) % n, n);
  return { triangles, inner };
}

/** Whether the surface round a hole goes on into it, rather than ending there. */
function goesOn({ points, around }: Ring, triangles: readonly number[]) {
  const n = points.length / 3;
  const normal = ringNormalOf(points);
  const size = Math.hypot(...normal);
  if (!(size > 0) || triangles.length < 6) return false;
  let sum = 0;
  let weight = 0;
  for (let i = 0; i < n; i++) {
    // Which way the surface leads off from the ring: in the plane of the hole where it goes on.
    let off = 0;
    let far = 0;
    for (let k = 0; k < around[i].length; k += 3) {
      const d = [0, 1, 2].map((a) => around[i][k + a] - points[3 * i + a]);
      off += Math.abs(d[0] * normal[0] + d[1] * normal[1] + d[2] * normal[2]);
      far += Math.hypot(...d);
    }
    sum += off / size;
    weight += far;
  }
  // The sine of the angle to the plane must be below that of the steepest.
  return sum < Math.sqrt(1 - STEEPEST * STEEPEST) * weight;
}

class PatchWork {
  private readonly ring: number;
  private readonly p: number[];
  private readonly t: number[];
  /** How long edges are wanted at each vertex, metres. */
  private readonly sizes: number[] = [];
  /** The triangle on the left of each directed edge. */
  private readonly sides = new Map<number, number>();

  constructor(
    private readonly of: Ring,
    triangles: readonly number[],
  ) {
    const { points } = of;
    this.ring = points.length / 3;
    this.p = [...points];
    this.t = [...triangles];
    for (let i = 0; i < this.ring; i++) {
      const before = (i + this.ring - 1) % this.ring;
      this.sizes.push(
        (this.distance(i, before) + this.distance(i, (i + 1) % this.ring)) / 2,
      );
    }
    for (let t = 0; t < this.t.length / 3; t++) this.link(t);
  }

  private key(a: number, b: number): number {
    return a * (this.ring + MOST_INNER) + b;
  }

  private link(t: number): void {
    for (let k = 0; k < 3; k++)
      this.sides.set(
        this.key(this.t[3 * t + k], this.t[3 * t + ((k + 1) % 3)]),
        t,
      );
  }

  private distance(a: number, b: number): number {
    const { p } = this;
    return Math.hypot(
      p[3 * a] - p[3 * b],
      p[3 * a + 1] - p[3 * b + 1],
      p[3 * a + 2] - p[3 * b + 2],
    );
  }

  refine(): void {
    for (let round = 0; round < ROUNDS; round++) {
      const count = this.t.length / 3;
      let parted = 0;
      for (let t = 0; t < count; t++) if (this.part(t)) parted++;
      let flips = 1;
      for (let pass = 0; pass < ROUNDS && flips; pass++) {
        flips = 0;
        for (let t = 0; t < this.t.length / 3; t++)
          for (let k = 0; k < 3; k++)
            if (this.flip(this.t[3 * t + k], this.t[3 * t + ((k + 1) % 3)]))
              flips++;
      }
      if (!parted) return;
    }
  }

  /** Parts a triangle at its middle where that leaves no edges shorter than is wanted. */
  private part(t: number): boolean {
    const { p, sizes } = this;
    if (p.length / 3 >= this.ring + MOST_INNER) return false;
    const corners = this.t.slice(3 * t, 3 * t + 3);
    const middle = [0, 1, 2].map(
      (k) => corners.reduce((sum, v) => sum + p[3 * v + k], 0) / 3,
    );
    const size = corners.reduce((sum, v) => sum + sizes[v], 0) / 3;
    const far = corners.every((v) => {
      const d =
        DENSITY * Math.hypot(...[0, 1, 2].map((k) => p[3 * v + k] - middle[k]));
      return d > size && d > sizes[v];
    });
    if (!far) return false;
    const v = p.length / 3;
    p.push(...middle);
    sizes.push(size);
    const [a, b, c] = corners;
    this.t.splice(3 * t, 3, a, b, v);
    const next = this.t.length / 3;
    this.t.push(b, c, v, c, a, v);
    for (const at of [t, next, next + 1]) this.link(at);
    for (const [i, j] of [
      [a, b],
      [b, c],
      [c, a],
    ])
      this.flip(i, j);
    return true;
  }

  /** Turns an edge over where the angles that face it come to more than two right ones. */
  private flip(a: number, b: number): boolean {
    const t = this.sides.get(this.key(a, b));
    const u = this.sides.get(this.key(b, a));
    if (t === undefined || u === undefined) return false;
    const c = this.t[3 * t] + this.t[3 * t + 1] + this.t[3 * t + 2] - a - b;
    const d = this.t[3 * u] + this.t[3 * u + 1] + this.t[3 * u + 2] - a - b;
    if (this.angle(c, a, b) + this.angle(d, a, b) <= Math.PI + 1e-6)
      return false;
    if (this.sides.has(this.key(c, d)) || this.sides.has(this.key(d, c)))
      return false;
    if (c < this.ring && d < this.ring && this.of.joined(c, d)) return false;
    const one = cross(this.p, a, d, c);
    const other = cross(this.p, d, b, c);
    if (one[0] * other[0] + one[1] * other[1] + one[2] * other[2] <= 0)
      return false;
    this.sides.delete(this.key(a, b));
    this.sides.delete(this.key(b, a));
    this.t.splice(3 * t, 3, a, d, c);
    this.t.splice(3 * u, 3, d, b, c);
    this.link(t);
    this.link(u);
    return true;
  }

  /** The angle at `at` between two others, radians. */
  private angle(at: number, a: number, b: number): number {
    const x = this.distance(at, a);
    const y = this.distance(at, b);
    const z = this.distance(a, b);
    const cos = (x * x + y * y - z * z) / (2 * x * y || 1e-300);
    return Math.acos(Math.max(-1, Math.min(1, cos)));
  }

  /** Moves inner vertices to where the squared Laplacians of patch and ring are least in sum: conjugate gradients. */
  fair(): void {
    const inner = this.p.length / 3 - this.ring;
    if (!inner) return;
    const rows = this.laplacians();
    const before = this.p.slice();
    for (let axis = 0; axis < 3; axis++) this.solve(rows, inner, axis);
    // What leaves the hole's own reach did not follow the surface.
    const reach = 2 * this.width();
    for (let v = this.ring; v < this.ring + inner; v++) {
      const moved = Math.hypot(
        ...[0, 1, 2].map((k) => this.p[3 * v + k] - before[3 * v + k]),
      );
      if (!(moved < reach)) {
        this.p.splice(0, before.length, ...before);
        return;
      }
    }
  }

  private width(): number {
    let most = 0;
    for (let i = 1; i < this.ring; i++)
      most = Math.max(most, this.distance(0, i));
    return most;
  }

  /** One row a vertex: its neighbours in the patch with their weights, and the fixed rest for each axis. */
  private laplacians(): Row[] {
    const near = Array.from(
      { length: this.p.length / 3 },
      () => new Set<number>(),
    );
    for (let c = 0; c < this.t.length; c++) {
      const next = this.t[c % 3 === 2 ? c - 2 : c + 1];
      near[this.t[c]].add(next);
      near[next].add(this.t[c]);
    }
    return near.map((others, v) => {
      const weights = [...others].map(
        (w) => [w, 1 / (this.distance(v, w) || 1e-300)] as const,
      );
      const fixed = [0, 0, 0];
      let sum = weights.reduce((total, [, weight]) => total + weight, 0);
      const around = v < this.ring ? this.of.around[v] : [];
      for (let k = 0; k < around.length; k += 3) {
        const d = [0, 1, 2].map((a) => around[k + a] - this.p[3 * v + a]);
        const weight = 1 / (Math.hypot(...d) || 1e-300);
        sum += weight;
        for (let a = 0; a < 3; a++) fixed[a] += weight * around[k + a];
      }
      const row: Row = {
        at: [v],
        weight: [-1],
        fixed: fixed.map((x) => x / sum),
      };
      for (const [w, weight] of weights) {
        row.at.push(w);
        row.weight.push(weight / sum);
      }
      return row;
    });
  }

  private solve(rows: readonly Row[], inner: number, axis: number): void {
    const { ring, p } = this;
    const x = new Float64Array(inner);
    for (let i = 0; i < inner; i++) x[i] = p[3 * (ring + i) + axis];
    const right = new Float64Array(inner);
    // Residuals of all rows at x, then back onto the unknowns.
    const back = (of: (row: Row, r: number) => number, into: Float64Array) => {
      into.fill(0);
      rows.forEach((row, r) => {
        const value = of(row, r);
        for (let k = 0; k < row.at.length; k++)
          if (row.at[k] >= ring)
            into[row.at[k] - ring] += row.weight[k] * value;
      });
    };
    back((row) => {
      let sum = row.fixed[axis];
      for (let k = 0; k < row.at.length; k++)
        sum += row.weight[k] * p[3 * row.at[k] + axis];
      return -sum;
    }, right);
    const way = right.slice();
    const made = new Float64Array(inner);
    const dot = (a: Float64Array, b: Float64Array) => {
      let sum = 0;
      for (let i = 0; i < inner; i++) sum += a[i] * b[i];
      return sum;
    };
    let rest = dot(right, right);
    const enough = 1e-12 * rest;
    for (let step = 0; step < 500 && rest > enough; step++) {
      back((row) => {
        let sum = 0;
        for (let k = 0; k < row.at.length; k++)
          if (row.at[k] >= ring) sum += row.weight[k] * way[row.at[k] - ring];
        return sum;
      }, made);
      const by = rest / (dot(way, made) || 1e-300);
      for (let i = 0; i < inner; i++) {
        x[i] += by * way[i];
        right[i] -= by * made[i];
      }
      const now = dot(right, right);
      for (let i = 0; i < inner; i++) way[i] = right[i] + (now / rest) * way[i];
      rest = now;
    }
    for (let i = 0; i < inner; i++) p[3 * (ring + i) + axis] = x[i];
  }

  finish(): Patch {
    return { triangles: this.t, inner: this.p.slice(3 * this.ring) };
  }
}

interface Row {
  at: number[];
  weight: number[];
  /** What vertices that stay put add, by axis. */
  fixed: number[];
}
