import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import { triangleArea } from "../space/sample";
import { buildEdges } from "../mesh/edges";
import { insertVertices } from "./insert-vertices";
import type { SurfaceSamples } from "./samples";
import type { Triangles } from "./soup";
import {
  cross,
  setNormal,
  shape,
  THINNEST,
  triangleDistance2,
  WHERE,
} from "../mesh/triangle-shape";

/** A name for the place of a vertex, to the precision meshes are kept in. */
export const placeKey = (p: ArrayLike<number>, v: number) =>
  `${Math.fround(p[3 * v])} ${Math.fround(p[3 * v + 1])} ${Math.fround(p[3 * v + 2])}`;

/** Sweeps over the vertices in each round of projecting and moving. */
const SWEEPS = 3;
/** What a sample off along the surface counts against one off along the normal. */
const TANGENTIAL = 0.03;
/** The same where vertices should keep their distances. */
const STIFF = 0.2;
/** How strongly a vertex stays where it is, in samples. */
const HOLD = 0.25;
/** Triangles may not turn by more than this cosine. */
const TURN = 0.3;
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

/**
 * A reduced mesh that is brought nearer to its source: vertices move by least squares over points of the source
 * and where they fall on the mesh (Hoppe et al. 1993), mostly along their normals, edges flip where that lowers
 * the distance, and vertices are put in where it is worst. Borders stay; vertices between regions move along
 * their normal only. Triangles keep their side and shape.
 */
export class Fit {
  private readonly p: Float64Array | Float32Array;
  private readonly triangles: Uint32Array;
  /** Source samples come first, then four points of every triangle, drawn to where the source is nearest. */
  private readonly own: number;
  private readonly count: number;
  private readonly points: Float32Array;
  private readonly normals: Float32Array;
  private readonly nearest: ClosestPoint;
  private readonly nearPositions: Float32Array;
  /** What rounding can make of a squared distance, metres². */
  private readonly rounding2: number;
  private readonly on: Int32Array;
  private readonly u: Float32Array;
  private readonly v: Float32Array;
  private readonly weight: Float32Array;
  /** 0 free, 1 along its normal only, 2 held. */
  private held: Uint8Array;
  /** Whether anything moved since samples were last projected. */
  private moved = true;
  /** Squared distances of the samples that fell out as they face the other way. */
  private readonly turned = { sum: 0, max: 0, count: 0 };
  private vertexStarts!: Uint32Array;
  private vertexCorners!: Uint32Array;
  private sampleStarts!: Uint32Array;
  private sampleOrder!: Uint32Array;

  /**
   * @param mesh one mesh of a state, about the same origin as the samples; its positions and triangles change
   * @param near a finer state of the same mesh: where the mesh itself strays from it, it is drawn back
   * @param nearest a search over `near`, where there is one already
   * @param stays places of vertices that are held, and whose edges do not flip; see `placeKey`
   * @param free lets edges flip and vertices slide easily; otherwise they mostly move along their normal
   */
  constructor(
    readonly mesh: Triangles,
    private readonly samples: Pick<SurfaceSamples, "points" | "normals">,
    private readonly near: Pick<Triangles, "positions" | "triangles">,
    nearest?: ClosestPoint,
    private readonly free = true,
    private readonly stays: ReadonlySet<string> | null = null,
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

  /** @param from the first round looks at all alike, later ones harder at what is far off */
  run(from: number, to: number, check: () => void): void {
    for (let round = from; round < to; round++) {
      check();
      this.project();
      this.weigh(round);
      if (round > 0 && this.free) this.flip();
      for (let sweep = 0; sweep < SWEEPS; sweep++) this.move();
    }
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

  /**
   * A fit of another mesh to the same samples.
   * @param nowAt per triangle of this mesh: the triangle of the other that it became, or −1
   */
  with(mesh: Triangles, nowAt?: Int32Array): Fit {
    const next = new Fit(
      mesh,
      this.samples,
      this.near,
      this.nearest,
      this.free,
      this.stays,
    );
    if (nowAt) this.handOn(next, nowAt);
    return next;
  }

  /** Where samples fell, and what was nearest to the mesh's own points, are bounds for where they fall next. */
  private handOn(next: Fit, nowAt: Int32Array): void {
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

  /** The squared distances of the worst `most` places, one a triangle, worst first. */
  worst(most: number): number[] {
    this.project();
    return this.worstSamples(most).map((i) => this.distance2(i));
  }

  private worstSamples(most: number): number[] {
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

  /** The mesh with a vertex more at each of the worst places, two triangles each, as a new fit. */
  refined(places: number): Fit {
    const { mesh } = this;
    const worst = this.worstSamples(16 * places + 16).map((i) => ({
      triangle: this.on[i],
      u: this.u[i],
      v: this.v[i],
      point: this.points.subarray(3 * i, 3 * i + 3),
    }));
    return this.with(
      insertVertices({ ...mesh, positions: this.p }, worst, places),
      Int32Array.from(mesh.owner, (_, t) => t),
    );
  }

  private findHeld(): Uint8Array {
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

  private linkVertices(): void {
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
  private project(): void {
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
  private lookBack(positions: Float32Array, normal: Float32Array): void {
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
  private lookBackFrom(
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

  private sortSamples(): void {
    const total = this.triangles.length / 3;
    this.sampleStarts = new Uint32Array(total + 1);
    this.sampleOrder = new Uint32Array(this.count);
    countingSort(this.on, this.count, this.sampleStarts, this.sampleOrder);
  }

  /** Later rounds look harder at what is far off. */
  private weigh(round: number): void {
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

  private distance2(i: number): number {
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

  /** One sweep: every vertex goes where its samples want it, its neighbours held. */
  private move(): void {
    const { p, triangles, vertexStarts, vertexCorners, held } = this;
    const { sampleStarts, sampleOrder, points, normals, u, v, weight } = this;
    const tangential = this.free ? TANGENTIAL : STIFF;
    const vertices = vertexStarts.length - 1;
    for (let x = 0; x < vertices; x++) {
      if (held[x] === 2 || vertexStarts[x] === vertexStarts[x + 1]) continue;
      // Normal equations of the step: sum of b² (n nᵀ + tangential) and of b × residual.
      let xx = 0;
      let xy = 0;
      let xz = 0;
      let yy = 0;
      let yz = 0;
      let zz = 0;
      let gx = 0;
      let gy = 0;
      let gz = 0;
      for (let at = vertexStarts[x]; at < vertexStarts[x + 1]; at++) {
        const c = vertexCorners[at];
        const t = (c / 3) | 0;
        const k = c - 3 * t;
        const i0 = 3 * triangles[3 * t];
        const i1 = 3 * triangles[3 * t + 1];
        const i2 = 3 * triangles[3 * t + 2];
        for (let s = sampleStarts[t]; s < sampleStarts[t + 1]; s++) {
          const i = sampleOrder[s];
          const bu = u[i];
          const bv = v[i];
          const bw = 1 - bu - bv;
          const b = k === 0 ? bw : k === 1 ? bu : bv;
          if (b < 1e-4) continue;
          const rx = points[3 * i] - bw * p[i0] - bu * p[i1] - bv * p[i2];
          const ry =
            points[3 * i + 1] -
            bw * p[i0 + 1] -
            bu * p[i1 + 1] -
            bv * p[i2 + 1];
          const rz =
            points[3 * i + 2] -
            bw * p[i0 + 2] -
            bu * p[i1 + 2] -
            bv * p[i2 + 2];
          const nx = normals[3 * i];
          const ny = normals[3 * i + 1];
          const nz = normals[3 * i + 2];
          const m = weight[i] * b;
          const mb = m * b;
          const rn = (1 - tangential) * m * (rx * nx + ry * ny + rz * nz);
          gx += rn * nx + tangential * m * rx;
          gy += rn * ny + tangential * m * ry;
          gz += rn * nz + tangential * m * rz;
          const mn = (1 - tangential) * mb;
          xx += mn * nx * nx + tangential * mb;
          yy += mn * ny * ny + tangential * mb;
          zz += mn * nz * nz + tangential * mb;
          xy += mn * nx * ny;
          xz += mn * nx * nz;
          yz += mn * ny * nz;
        }
      }
      xx += HOLD;
      yy += HOLD;
      zz += HOLD;
      const c00 = yy * zz - yz * yz;
      const c01 = xz * yz - xy * zz;
      const c02 = xy * yz - xz * yy;
      const inverse = 1 / (xx * c00 + xy * c01 + xz * c02);
      let sx = (c00 * gx + c01 * gy + c02 * gz) * inverse;
      let sy =
        (c01 * gx + (xx * zz - xz * xz) * gy + (xy * xz - xx * yz) * gz) *
        inverse;
      let sz =
        (c02 * gx + (xy * xz - xx * yz) * gy + (xx * yy - xy * xy) * gz) *
        inverse;
      if (held[x] === 1) {
        const n = this.vertexNormal(x);
        const along = sx * n[0] + sy * n[1] + sz * n[2];
        sx = along * n[0];
        sy = along * n[1];
        sz = along * n[2];
      }
      this.tryMove(x, sx, sy, sz);
    }
  }

  private vertexNormal(x: number): [number, number, number] {
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

  /** Moves a vertex by the step, or by half or a quarter of it, as far as its triangles stay sound. */
  private tryMove(x: number, sx: number, sy: number, sz: number): void {
    const { p } = this;
    const ox = p[3 * x];
    const oy = p[3 * x + 1];
    const oz = p[3 * x + 2];
    for (let step = 1; step > 0.2; step /= 2) {
      if (this.staysSound(x, ox + step * sx, oy + step * sy, oz + step * sz)) {
        p[3 * x] = ox + step * sx;
        p[3 * x + 1] = oy + step * sy;
        p[3 * x + 2] = oz + step * sz;
        this.moved = true;
        return;
      }
    }
  }

  private staysSound(x: number, nx: number, ny: number, nz: number): boolean {
    const { p, triangles, vertexStarts, vertexCorners } = this;
    for (let at = vertexStarts[x]; at < vertexStarts[x + 1]; at++) {
      const c = vertexCorners[at];
      const t = 3 * ((c / 3) | 0);
      const k = c - t;
      const i = 3 * triangles[t + (k === 2 ? 0 : k + 1)];
      const j = 3 * triangles[t + (k === 0 ? 2 : k - 1)];
      const ex = p[j] - p[i];
      const ey = p[j + 1] - p[i + 1];
      const ez = p[j + 2] - p[i + 2];
      const ux = p[3 * x] - p[i];
      const uy = p[3 * x + 1] - p[i + 1];
      const uz = p[3 * x + 2] - p[i + 2];
      const wx = nx - p[i];
      const wy = ny - p[i + 1];
      const wz = nz - p[i + 2];
      const ax = ey * uz - ez * uy;
      const ay = ez * ux - ex * uz;
      const az = ex * uy - ey * ux;
      const bx = ey * wz - ez * wy;
      const by = ez * wx - ex * wz;
      const bz = ex * wy - ey * wx;
      const old2 = ax * ax + ay * ay + az * az;
      const new2 = bx * bx + by * by + bz * bz;
      if (ax * bx + ay * by + az * bz <= TURN * Math.sqrt(old2 * new2))
        return false;
      const edge = ex * ex + ey * ey + ez * ez;
      const sides =
        edge +
        wx * wx +
        wy * wy +
        wz * wz +
        (wx - ex) ** 2 +
        (wy - ey) ** 2 +
        (wz - ez) ** 2;
      const quality = (3.4641 * Math.sqrt(new2)) / sides;
      if (quality < THINNEST) {
        const was =
          edge +
          ux * ux +
          uy * uy +
          uz * uz +
          (ux - ex) ** 2 +
          (uy - ey) ** 2 +
          (uz - ez) ** 2;
        if (quality < (3.4641 * Math.sqrt(old2)) / was) return false;
      }
    }
    return true;
  }

  /** Flips every edge whose other diagonal lies nearer to the samples, or makes a thin pair better for free. */
  private flip(): void {
    const { triangles, mesh } = this;
    const faceStarts = new Uint32Array(triangles.length / 3 + 1).map(
      (_, t) => 3 * t,
    );
    const edges = buildEdges({ corners: triangles, faceStarts });
    const joined = new Set<number>();
    const key = (a: number, b: number) =>
      Math.min(a, b) * (this.p.length / 3) + Math.max(a, b);
    for (let e = 0; e < edges.count; e++)
      joined.add(key(edges.vertices[2 * e], edges.vertices[2 * e + 1]));
    const touched = new Uint8Array(triangles.length / 3);
    let flipped = 0;
    for (let e = 0; e < edges.count; e++) {
      if (edges.uses[e] !== 2) continue;
      const s = (edges.first[e] / 3) | 0;
      const t = (edges.second[e] / 3) | 0;
      if (touched[s] || touched[t]) continue;
      if (
        this.stays &&
        this.held[edges.vertices[2 * e]] === 2 &&
        this.held[edges.vertices[2 * e + 1]] === 2
      )
        continue;
      if (mesh.material[s] !== mesh.material[t] || mesh.id[s] !== mesh.id[t])
        continue;
      const k = edges.first[e] - 3 * s;
      const a = triangles[3 * s + k];
      const b = triangles[3 * s + ((k + 1) % 3)];
      const c = triangles[3 * s + ((k + 2) % 3)];
      const j = edges.second[e] - 3 * t;
      if (triangles[3 * t + j] !== b) continue;
      const d = triangles[3 * t + ((j + 2) % 3)];
      if (c === d || joined.has(key(c, d))) continue;
      if (!this.betterFlipped(s, t, a, b, c, d)) continue;
      joined.delete(key(a, b));
      joined.add(key(c, d));
      triangles.set([a, d, c], 3 * s);
      triangles.set([d, b, c], 3 * t);
      this.moveSamples(s, t);
      touched[s] = touched[t] = 1;
      flipped++;
    }
    if (!flipped) return;
    this.moved = true;
    this.linkVertices();
    this.sortSamples();
  }

  /** Lets the samples of two triangles that were flipped fall on the nearer of the new ones. */
  private moveSamples(s: number, t: number): void {
    const { triangles, p, points } = this;
    for (const from of [s, t])
      for (
        let i = this.sampleStarts[from];
        i < this.sampleStarts[from + 1];
        i++
      ) {
        const sample = this.sampleOrder[i];
        const x = points.subarray(3 * sample, 3 * sample + 3);
        let best = Infinity;
        for (const to of [s, t]) {
          const [a, b, c] = triangles.subarray(3 * to, 3 * to + 3);
          const distance2 = triangleDistance2(p, a, b, c, x, WHERE);
          if (distance2 >= best) continue;
          best = distance2;
          this.on[sample] = to;
          this.u[sample] = WHERE.u;
          this.v[sample] = WHERE.v;
        }
      }
  }

  private betterFlipped(
    s: number,
    t: number,
    a: number,
    b: number,
    c: number,
    d: number,
  ): boolean {
    const { p } = this;
    const n1 = cross(p, a, b, c);
    const n2 = cross(p, b, a, d);
    const m1 = cross(p, a, d, c);
    const m2 = cross(p, d, b, c);
    const sum = [0, 1, 2].map((k) => n1[k] + n2[k]);
    const toward = (m: readonly number[]) =>
      m[0] * sum[0] + m[1] * sum[1] + m[2] * sum[2];
    const limit = 0.3 * Math.hypot(...sum);
    if (toward(m1) <= limit * Math.hypot(...m1)) return false;
    if (toward(m2) <= limit * Math.hypot(...m2)) return false;
    const before = Math.min(shape(p, a, b, c, n1), shape(p, b, a, d, n2));
    const after = Math.min(shape(p, a, d, c, m1), shape(p, d, b, c, m2));
    if (after < THINNEST && after < before) return false;
    let old = 0;
    let now = 0;
    let used = 0;
    for (const from of [s, t])
      for (
        let i = this.sampleStarts[from];
        i < this.sampleStarts[from + 1];
        i++
      ) {
        const sample = this.sampleOrder[i];
        old += this.distance2(sample);
        const x = this.points.subarray(3 * sample, 3 * sample + 3);
        now += Math.min(
          triangleDistance2(p, a, d, c, x),
          triangleDistance2(p, d, b, c, x),
        );
        used++;
      }
    if (used && now < 0.85 * old) return true;
    const lengths =
      (p[3 * a] - p[3 * b]) ** 2 +
      (p[3 * a + 1] - p[3 * b + 1]) ** 2 +
      (p[3 * a + 2] - p[3 * b + 2]) ** 2;
    // On flat ground, where nothing is lost, the rounder pair is the better one.
    return (
      after > 1.3 * before &&
      before < 0.35 &&
      now <= old * 1.02 + used * 1e-12 * lengths
    );
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
