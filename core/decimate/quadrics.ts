/** Numbers of one quadric: xx xy xz yy yz zz, x y z, constant. */
export const QUADRIC = 10;

/**
 * Pull of the solution towards the middle of the edge, as a share of the quadric's trace: keeps it in place
 * along directions that the planes leave free (flat and straight runs).
 */
const PULL = 1e-6;

/**
 * Error quadrics of all vertices in one array (Garland and Heckbert 1997), weighted by area, so that a quadric
 * is an integral of squared distance in metres⁴.
 */
export class Quadrics {
  readonly values: Float64Array;
  /** The point that `place` found. */
  x = 0;
  y = 0;
  z = 0;
  /** The area at the edge, m², and that times its squared length, metres⁴. */
  area = 0;
  spread = 0;

  /** 4 × count: sum of the normals by area, and the area; where turning normals cost. */
  private readonly turns: Float64Array | null;
  private readonly turnCost: number;
  private readonly tie: number;

  /**
   * @param evenness 0 … 1: how much the length of an edge counts
   * @param turnCost m²: what turning all normals away costs for each square metre, against squared distance
   */
  constructor(
    count: number,
    private readonly positions: Float64Array,
    { evenness = 0, turnCost = 0 } = {},
  ) {
    this.values = new Float64Array(QUADRIC * count);
    this.turns = turnCost > 0 ? new Float64Array(4 * count) : null;
    this.turnCost = turnCost;
    this.tie = 1e-7 + 0.02 * evenness * evenness;
  }

  /** Adds weight × (n·x + d)² to vertex v. */
  addPlane(
    v: number,
    nx: number,
    ny: number,
    nz: number,
    d: number,
    weight: number,
  ): void {
    const q = this.values;
    const k = QUADRIC * v;
    q[k] += weight * nx * nx;
    q[k + 1] += weight * nx * ny;
    q[k + 2] += weight * nx * nz;
    q[k + 3] += weight * ny * ny;
    q[k + 4] += weight * ny * nz;
    q[k + 5] += weight * nz * nz;
    q[k + 6] += weight * nx * d;
    q[k + 7] += weight * ny * d;
    q[k + 8] += weight * nz * d;
    q[k + 9] += weight * d * d;
  }

  /** Adds weight × (n·x + d)² to the three vertices of the face whose corners begin at `at`. */
  addFace(
    triangles: Uint32Array,
    at: number,
    nx: number,
    ny: number,
    nz: number,
    d: number,
    weight: number,
  ): void {
    const { turns } = this;
    const length = turns ? Math.sqrt(nx * nx + ny * ny + nz * nz) : 0;
    for (let c = at; c < at + 3; c++) {
      this.addPlane(triangles[c], nx, ny, nz, d, weight);
      if (!turns) continue;
      const k = 4 * triangles[c];
      turns[k] += weight * nx * length;
      turns[k + 1] += weight * ny * length;
      turns[k + 2] += weight * nz * length;
      turns[k + 3] += weight * length * length;
    }
  }

  /** Adds the quadric of vertex b to that of vertex a. */
  merge(a: number, b: number): void {
    const q = this.values;
    const i = QUADRIC * a;
    const j = QUADRIC * b;
    for (let k = 0; k < QUADRIC; k++) q[i + k] += q[j + k];
    if (this.turns)
      for (let k = 0; k < 4; k++)
        this.turns[4 * a + k] += this.turns[4 * b + k];
  }

  /** Scales how dear the shape at vertex v is. */
  scale(v: number, by: number): void {
    for (let k = QUADRIC * v; k < QUADRIC * (v + 1); k++) this.values[k] *= by;
  }

  /** The integral of squared distance at vertex v where it lies, metres⁴. */
  errorAt(v: number): number {
    const p = this.positions;
    return Math.max(
      0,
      this.valueOf(QUADRIC * v, p[3 * v], p[3 * v + 1], p[3 * v + 2]),
    );
  }

  /** The mean squared distance, metres², that a cost at vertices a and b stands for. */
  distance2(a: number, b: number, cost: number): number {
    const q = this.values;
    const i = QUADRIC * a;
    const j = QUADRIC * b;
    const area = q[i] + q[i + 3] + q[i + 5] + q[j] + q[j + 3] + q[j + 5];
    return area > 0 ? cost / area : 0;
  }

  /** The cost of joining a and b at x, y, z. */
  costThere(a: number, b: number): number {
    const { x, y, z } = this;
    return Math.max(
      0,
      this.valueOf(QUADRIC * a, x, y, z) + this.valueOf(QUADRIC * b, x, y, z),
    );
  }

  private valueOf(i: number, x: number, y: number, z: number): number {
    const q = this.values;
    return (
      q[i] * x * x +
      q[i + 3] * y * y +
      q[i + 5] * z * z +
      2 *
        (q[i + 1] * x * y +
          q[i + 2] * x * z +
          q[i + 4] * y * z +
          q[i + 6] * x +
          q[i + 7] * y +
          q[i + 8] * z) +
      q[i + 9]
    );
  }

  /** What the normals round both vertices differ from one direction, as a cost. */
  private turning(a: number, b: number): number {
    const t = this.turns!;
    const i = 4 * a;
    const j = 4 * b;
    const x = t[i] + t[j];
    const y = t[i + 1] + t[j + 1];
    const z = t[i + 2] + t[j + 2];
    return (
      this.turnCost *
      Math.max(0, t[i + 3] + t[j + 3] - Math.sqrt(x * x + y * y + z * z))
    );
  }

  /**
   * Finds the best place for the edge a–b and returns its cost. The place goes to x, y, z: the minimum of both
   * quadrics together or, where that lies far off, the best of the ends and the middle.
   * In one piece, with its sums in locals: it is the innermost loop of reducing.
   */
  place(a: number, b: number): number {
    const q = this.values;
    const p = this.positions;
    const i = QUADRIC * a;
    const j = QUADRIC * b;
    const xx = q[i] + q[j];
    const xy = q[i + 1] + q[j + 1];
    const xz = q[i + 2] + q[j + 2];
    const yy = q[i + 3] + q[j + 3];
    const yz = q[i + 4] + q[j + 4];
    const zz = q[i + 5] + q[j + 5];
    const bx = q[i + 6] + q[j + 6];
    const by = q[i + 7] + q[j + 7];
    const bz = q[i + 8] + q[j + 8];
    const c = q[i + 9] + q[j + 9];
    const ax = p[3 * a];
    const ay = p[3 * a + 1];
    const az = p[3 * a + 2];
    const ex = p[3 * b] - ax;
    const ey = p[3 * b + 1] - ay;
    const ez = p[3 * b + 2] - az;
    const mx = ax + 0.5 * ex;
    const my = ay + 0.5 * ey;
    const mz = az + 0.5 * ez;
    const pull = PULL * (xx + yy + zz) + 1e-300;
    const sxx = xx + pull;
    const syy = yy + pull;
    const szz = zz + pull;
    // Gradient at the middle; the step from there solves (A + pull) s = −g.
    const gx = -(xx * mx + xy * my + xz * mz + bx);
    const gy = -(xy * mx + yy * my + yz * mz + by);
    const gz = -(xz * mx + yz * my + zz * mz + bz);
    const c00 = syy * szz - yz * yz;
    const c01 = xz * yz - xy * szz;
    const c02 = xy * yz - xz * syy;
    const inverse = 1 / (sxx * c00 + xy * c01 + xz * c02);
    const sx = (c00 * gx + c01 * gy + c02 * gz) * inverse;
    const sy =
      (c01 * gx + (sxx * szz - xz * xz) * gy + (xy * xz - sxx * yz) * gz) *
      inverse;
    const sz =
      (c02 * gx + (xy * xz - sxx * yz) * gy + (sxx * syy - xy * xy) * gz) *
      inverse;
    const length2 = ex * ex + ey * ey + ez * ez;
    // A little of the edge's length in the cost, so that flat runs lose their short edges first.
    this.area = xx + yy + zz;
    this.spread = length2 * this.area;
    const tie = this.tie * this.spread + (this.turns ? this.turning(a, b) : 0);
    if (sx * sx + sy * sy + sz * sz <= 4 * length2) {
      const x = mx + sx;
      const y = my + sy;
      const z = mz + sz;
      this.x = x;
      this.y = y;
      this.z = z;
      return (
        Math.max(
          0,
          xx * x * x +
            yy * y * y +
            zz * z * z +
            2 *
              (xy * x * y +
                xz * x * z +
                yz * y * z +
                bx * x +
                by * y +
                bz * z) +
            c,
        ) + tie
      );
    }
    let best = Infinity;
    for (let k = 0; k < 3; k++) {
      const x = ax + 0.5 * k * ex;
      const y = ay + 0.5 * k * ey;
      const z = az + 0.5 * k * ez;
      const cost =
        xx * x * x +
        yy * y * y +
        zz * z * z +
        2 * (xy * x * y + xz * x * z + yz * y * z + bx * x + by * y + bz * z) +
        c;
      if (cost < best) {
        best = cost;
        this.x = x;
        this.y = y;
        this.z = z;
      }
    }
    return Math.max(0, best) + tie;
  }
}
