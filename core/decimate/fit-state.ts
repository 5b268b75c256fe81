import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import { triangleArea } from "../space/sample";
import { buildEdges } from "../mesh/edges";
import type { SurfaceSamples } from "./samples";
import type { Triangles } from "./soup";
import { cross, setNormal } from "../mesh/triangle-shape";

/** A name for the place of a vertex, to the precision meshes are kept in. */
export const placeKey = (p: ArrayLike<number>, v: number) =>
  `${Math.fround(p[3 * v])} ${Math.fround(p[3 * v + 1])} ${Math.fround(p[3 * v + 2])}`;

/** A place with this weight of one corner is at that vertex: a new one beside it would help nothing. */
const AT_VERTEX = 0.85;
/** Where in a triangle its own points lie: weights of the second and the third corner. */
const BACK = [
  [1 / 3, 1 / 3],
  [1 / 6, 1 / 6],
  [2 / 3, 1 / 6],
  [1 / 6, 2 / 3],
] as const;
/** Rounding of a coordinate, as a share of the largest. */
const ROUNDING = 3e-7;
/** Samples far off count more, up to so many times, so that the largest distance sinks too. */
const FAR_TIMES = 8;

/** Sums over the points of the source and over the mesh's area; the largest of all. Squared distances, metres². */
export interface FitError {
  there: number;
  count: number;
  back: number;
  area: number;
  max: number;
}

/** A mesh that is fitted, its samples, and where on it they fall now. */
export class FitState {
  readonly p: Float64Array | Float32Array;
  readonly triangles: Uint32Array;
  /** Source samples come first, then four points of every triangle, drawn to where the source is nearest. */
  readonly own: number;
  readonly count: number;
  readonly points: Float32Array;
  readonly normals: Float32Array;
  readonly nearest: ClosestPoint;
  readonly nearPositions: Float32Array;
  /** What rounding can make of a squared distance, metres². */
  readonly rounding2: number;
  readonly on: Int32Array;
  readonly u: Float32Array;
  readonly v: Float32Array;
  readonly weight: Float32Array;
  /** 0 free, 1 along its normal only, 2 held. */
  held: Uint8Array;
  /** Whether anything moved since samples were last projected. */
  moved = true;
  /** Squared distances of the samples that fell out as they face the other way. */
  readonly turned = { sum: 0, max: 0, count: 0 };
  vertexStarts!: Uint32Array;
  vertexCorners!: Uint32Array;
  sampleStarts!: Uint32Array;
  sampleOrder!: Uint32Array;

  /** @see Fit */
  constructor(
    readonly mesh: Triangles,
    readonly samples: Pick<SurfaceSamples, "points" | "normals">,
    readonly near: Pick<Triangles, "positions" | "triangles">,
    nearest: ClosestPoint | undefined,
    readonly stays: ReadonlySet<string> | null,
  ) {
    this.p = mesh.positions;
    this.triangles = mesh.triangles;
    this.own = samples.points.length / 3;
    this.count =
      this.own +
      BACK.length * (mesh.triangles.length / 3) +
      mesh.positions.length / 3;
    this.points = new Float32Array(3 * this.count);
    this.normals = new Float32Array(3 * this.count);
    this.points.set(samples.points);
    this.normals.set(samples.normals);
    this.nearPositions = Float32Array.from(near.positions);
    const reach = this.nearPositions.reduce((r, x) => Math.max(r, x, -x), 0);
    this.rounding2 = (ROUNDING * reach) ** 2;
    this.nearest =
      nearest ?? new ClosestPoint(buildBvh(this.nearPositions, near.triangles));
    this.on = new Int32Array(this.count).fill(-1);
    this.u = new Float32Array(this.count);
    this.v = new Float32Array(this.count);
    this.weight = new Float32Array(this.count);
    this.held = this.findHeld();
    if (stays)
      for (let v = 0; v < this.held.length; v++)
        if (stays.has(placeKey(this.p, v))) this.held[v] = 2;
    this.linkVertices();
  }

  /** How far source and mesh are from each other, sums of squares and the largest square, metres². */
  error(): FitError {
    this.project();
    const { own, turned, triangles, p } = this;
    let there = turned.sum;
    let back = 0;
    let area = 0;
    let max = turned.max;
    let count = turned.count;
    for (let i = 0; i < this.count; i++) {
      if (this.on[i] < 0) continue;
      const far = this.distance2(i);
      max = Math.max(max, far);
      if (i < own) {
        there += far;
        count++;
      } else if (i < own + BACK.length * (triangles.length / 3)) {
        const size = triangleArea(p, triangles, this.on[i]);
        back += size * far;
        area += size;
      }
    }
    return { there, count, back, area, max };
  }

  /** Where samples fell, and what was nearest to the mesh's own points, are bounds for where they fall next. */
  handOn(next: FitState, nowAt: Int32Array): void {
    const { own, on, u, v, points } = this;
    for (let i = 0; i < own; i++) {
      if (on[i] < 0) continue;
      next.on[i] = nowAt[on[i]];
      next.u[i] = u[i];
      next.v[i] = v[i];
    }
    for (let t = 0; t < nowAt.length; t++)
      for (let k = 0; k < BACK.length && nowAt[t] >= 0; k++) {
        const i = own + BACK.length * t + k;
        if (on[i] < 0) continue;
        const to = own + BACK.length * nowAt[t] + k;
        next.on[to] = nowAt[t];
        next.points.set(points.subarray(3 * i, 3 * i + 3), 3 * to);
      }
  }

  worstSamples(most: number): number[] {
    const total = this.triangles.length / 3;
    const best = new Int32Array(total).fill(-1);
    const far = new Float64Array(total);
    for (let i = 0; i < this.count; i++) {
      const t = this.on[i];
      if (t < 0) continue;
      const [u, v] = [this.u[i], this.v[i]];
      // At a vertex there is one already.
      if (Math.max(u, v, 1 - u - v) > AT_VERTEX) continue;
      const distance2 = this.distance2(i);
      if (distance2 <= far[t]) continue;
      far[t] = distance2;
      best[t] = i;
    }
    return [...best]
      .filter((i) => i >= 0)
      .sort((i, j) => far[this.on[j]] - far[this.on[i]] || i - j)
      .slice(0, most);
  }

  findHeld(): Uint8Array {
    const { triangles, mesh } = this;
    const held = new Uint8Array(this.p.length / 3);
    const faceStarts = new Uint32Array(triangles.length / 3 + 1).map(
      (_, t) => 3 * t,
    );
    const edges = buildEdges({ corners: triangles, faceStarts });
    for (let e = 0; e < edges.count; e++) {
      const s = (edges.first[e] / 3) | 0;
      const t = (edges.second[e] / 3) | 0;
      let how = 0;
      if (edges.uses[e] !== 2) how = 2;
      else if (
        mesh.material[s] !== mesh.material[t] ||
        mesh.id[s] !== mesh.id[t]
      )
        how = 1;
      for (let k = 0; k < 2 && how; k++) {
        const w = edges.vertices[2 * e + k];
        held[w] = Math.max(held[w], how);
      }
    }
    return held;
  }
  linkVertices(): void {
    const { triangles } = this;
    const vertices = this.p.length / 3;
    this.vertexStarts = new Uint32Array(vertices + 1);
    this.vertexCorners = new Uint32Array(triangles.length);
    countingSort(
      triangles,
      triangles.length,
      this.vertexStarts,
      this.vertexCorners,
    );
  }

  /** Finds for every sample the triangle it falls on and where; samples that face the other way fall out. */
  project(): void {
    if (!this.moved) return;
    this.moved = false;
    const { triangles, on, own, points, normals } = this;
    const positions = Float32Array.from(this.p);
    const closest = new ClosestPoint(buildBvh(positions, triangles));
    const normal = new Float32Array(3);
    const { turned } = this;
    turned.sum = turned.max = turned.count = 0;
    for (let i = 0; i < own; i++) {
      // Where it fell before is a bound: most of the hierarchy is never looked at again.
      const within = on[i] < 0 ? Infinity : widened(this.distance2(i));
      const t = closest.find(
        points[3 * i],
        points[3 * i + 1],
        points[3 * i + 2],
        within,
      );
      if (t < 0) continue;
      on[i] = -1;
      setNormal(
        positions,
        triangles[3 * t],
        triangles[3 * t + 1],
        triangles[3 * t + 2],
        normal,
        0,
      );
      if (
        normal[0] * normals[3 * i] +
          normal[1] * normals[3 * i + 1] +
          normal[2] * normals[3 * i + 2] <
        0
      ) {
        turned.sum += closest.distance2;
        turned.max = Math.max(turned.max, closest.distance2);
        turned.count++;
        continue;
      }
      on[i] = t;
      this.u[i] = closest.u;
      this.v[i] = closest.v;
    }
    this.lookBack(positions, normal);
    this.sortSamples();
  }

  /** Sets the points of the mesh's own triangles and where the source is nearest to them. */
  lookBack(positions: Float32Array, normal: Float32Array): void {
    const { triangles } = this;
    let i = this.own;
    for (let t = 0; t < triangles.length; t += 3) {
      const [a, b, c] = [triangles[t], triangles[t + 1], triangles[t + 2]];
      setNormal(positions, a, b, c, normal, 0);
      for (const [u, v] of BACK) this.lookBackFrom(i++, t / 3, u, v, normal);
    }
    for (let x = 0; x < positions.length / 3; x++) {
      if (this.vertexStarts[x] < this.vertexStarts[x + 1]) {
        const c = this.vertexCorners[this.vertexStarts[x]];
        const t = (c / 3) | 0;
        const k = c - 3 * t;
        normal.set(this.vertexNormal(x));
        this.lookBackFrom(i, t, k === 1 ? 1 : 0, k === 2 ? 1 : 0, normal);
      }
      i++;
    }
  }

  /** Sets sample i to where the source is nearest to a place of triangle t, whose normal is given. */
  lookBackFrom(
    i: number,
    t: number,
    u: number,
    v: number,
    normal: Float32Array,
  ): void {
    const { p, triangles, near, nearest, points, normals } = this;
    const w = 1 - u - v;
    const at = (k: number) =>
      w * p[3 * triangles[3 * t] + k] +
      u * p[3 * triangles[3 * t + 1] + k] +
      v * p[3 * triangles[3 * t + 2] + k];
    const [x, y, z] = [at(0), at(1), at(2)];
    const n = 3 * i;
    const before =
      (points[n] - x) ** 2 +
      (points[n + 1] - y) ** 2 +
      (points[n + 2] - z) ** 2;
    const within = this.on[i] < 0 ? Infinity : widened(before) + this.rounding2;
    this.on[i] = -1;
    const hit = 3 * nearest.find(x, y, z, within);
    if (hit < 0) return;
    setNormal(
      this.nearPositions,
      near.triangles[hit],
      near.triangles[hit + 1],
      near.triangles[hit + 2],
      normals,
      n,
    );
    points[n] = nearest.x;
    points[n + 1] = nearest.y;
    points[n + 2] = nearest.z;
    this.on[i] = t;
    this.u[i] = u;
    this.v[i] = v;
    if (
      normal[0] * normals[n] +
        normal[1] * normals[n + 1] +
        normal[2] * normals[n + 2] >
      0
    )
      return;
    // The nearest place faces the other way: straight towards it is all that can be said.
    const size = Math.sqrt(nearest.distance2) || 1;
    normals[n] = (nearest.x - x) / size;
    normals[n + 1] = (nearest.y - y) / size;
    normals[n + 2] = (nearest.z - z) / size;
  }

  sortSamples(): void {
    const total = this.triangles.length / 3;
    this.sampleStarts = new Uint32Array(total + 1);
    this.sampleOrder = new Uint32Array(this.count);
    countingSort(this.on, this.count, this.sampleStarts, this.sampleOrder);
  }

  /** Later rounds look harder at what is far off. */
  weigh(round: number): void {
    const { weight, on, count } = this;
    if (round === 0) {
      weight.fill(1);
      return;
    }
    let sum = 0;
    let used = 0;
    for (let i = 0; i < count; i++) {
      if (on[i] < 0) continue;
      weight[i] = this.distance2(i);
      sum += weight[i];
      used++;
    }
    const mean = sum / Math.max(1, used) || 1;
    for (let i = 0; i < count; i++)
      weight[i] = 1 + Math.min(FAR_TIMES, (0.12 * weight[i]) / mean);
  }

  distance2(i: number): number {
    const { p, triangles, points } = this;
    const t = 3 * this.on[i];
    const u = this.u[i];
    const v = this.v[i];
    const w = 1 - u - v;
    let sum = 0;
    for (let k = 0; k < 3; k++) {
      const x =
        w * p[3 * triangles[t] + k] +
        u * p[3 * triangles[t + 1] + k] +
        v * p[3 * triangles[t + 2] + k];
      sum += (x - points[3 * i + k]) ** 2;
    }
    return sum;
  }
  vertexNormal(x: number): [number, number, number] {
    const sum: [number, number, number] = [0, 0, 0];
    const { p, triangles } = this;
    for (let at = this.vertexStarts[x]; at < this.vertexStarts[x + 1]; at++) {
      const t = 3 * ((this.vertexCorners[at] / 3) | 0);
      const n = cross(p, triangles[t], triangles[t + 1], triangles[t + 2]);
      for (let k = 0; k < 3; k++) sum[k] += n[k];
    }
    const size = Math.hypot(...sum) || 1;
    return [sum[0] / size, sum[1] / size, sum[2] / size];
  }
}

/** A squared distance as a bound that what lies at it is within. */
const widened = (distance2: number) => distance2 * 1.0001 + 1e-30;

/** Sorts 0 … count − 1 by a key; keys below 0 are left out. `starts` has one more place than there are keys. */
function countingSort(
  keys: ArrayLike<number>,
  count: number,
  starts: Uint32Array,
  order: Uint32Array,
): void {
  for (let i = 0; i < count; i++) if (keys[i] >= 0) starts[keys[i] + 1]++;
  for (let k = 1; k < starts.length; k++) starts[k] += starts[k - 1];
  const at = starts.slice(0, -1);
  for (let i = 0; i < count; i++) if (keys[i] >= 0) order[at[keys[i]]++] = i;
}
