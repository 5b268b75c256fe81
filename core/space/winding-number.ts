import type { Bvh } from "./bvh";
import { leafCount, leafStart, NODE, NODE_LINKS } from "./bvh";

/** How far a box must be, in its own radii, to count as one dipole, where nothing else is asked for. */
const FAR = 2.2;

/**
 * How often a surface winds round a point: 1 inside a closed body, 0 outside, in between near gaps. A tree of
 * dipoles answers for what is far (Barill, Dickson, Schmidt, Levin, Jacobson 2018, the first order).
 */
export class WindingNumber {
  /** 8 × 2 × nodeCount, per child: area-weighted normal, place, radius, unused. */
  private readonly dipoles: Float64Array;
  private readonly stack = new Int32Array(256);

  private readonly far2: number;

  /** @param far how far a box must be, in its own radii, to count as one dipole: nearer is quicker and rougher */
  constructor(
    private readonly bvh: Bvh,
    far = FAR,
  ) {
    this.far2 = far * far;
    const children = (2 * bvh.nodes.length) / NODE;
    this.dipoles = new Float64Array(8 * children);
    const area = new Float64Array(children);
    // Parents come before their children, so one pass from the end meets children first.
    for (let i = children - 1; i >= 0; i--) this.gather(i, area);
  }

  private gather(i: number, area: Float64Array): void {
    const { bvh, dipoles } = this;
    const child = bvh.links[(i >> 1) * NODE + NODE_LINKS + (i & 1)];
    const d = 8 * i;
    if (child >= 0) {
      const first = child / (NODE / 2);
      for (const c of [first, first + 1]) {
        area[i] += area[c];
        for (let k = 0; k < 3; k++) {
          dipoles[d + k] += dipoles[8 * c + k];
          dipoles[d + 3 + k] += area[c] * dipoles[8 * c + 3 + k];
        }
      }
    } else {
      const t = bvh.triangles;
      for (
        let s = leafStart(child);
        s < leafStart(child) + leafCount(child);
        s++
      ) {
        const a = 9 * s;
        const nx = (t[a + 4] * t[a + 8] - t[a + 5] * t[a + 7]) / 2;
        const ny = (t[a + 5] * t[a + 6] - t[a + 3] * t[a + 8]) / 2;
        const nz = (t[a + 3] * t[a + 7] - t[a + 4] * t[a + 6]) / 2;
        const size = Math.sqrt(nx * nx + ny * ny + nz * nz);
        area[i] += size;
        dipoles[d] += nx;
        dipoles[d + 1] += ny;
        dipoles[d + 2] += nz;
        for (let k = 0; k < 3; k++)
          dipoles[d + 3 + k] +=
            size * (t[a + k] + (t[a + 3 + k] + t[a + 6 + k]) / 3);
      }
    }
    if (area[i] > 0) for (let k = 3; k < 6; k++) dipoles[d + k] /= area[i];
    const box = (i >> 1) * NODE + 6 * (i & 1);
    let radius2 = 0;
    for (let k = 0; k < 3; k++) {
      const low = dipoles[d + 3 + k] - bvh.nodes[box + k];
      const high = bvh.nodes[box + 3 + k] - dipoles[d + 3 + k];
      radius2 += Math.max(low, high) ** 2;
    }
    dipoles[d + 6] = radius2;
  }

  at(x: number, y: number, z: number): number {
    const { bvh, dipoles, stack } = this;
    let sum = 0;
    let top = 0;
    stack[top++] = 0;
    stack[top++] = 1;
    while (top) {
      const i = stack[--top];
      const d = 8 * i;
      const dx = dipoles[d + 3] - x;
      const dy = dipoles[d + 4] - y;
      const dz = dipoles[d + 5] - z;
      const r2 = dx * dx + dy * dy + dz * dz;
      if (r2 > this.far2 * dipoles[d + 6]) {
        sum +=
          (dipoles[d] * dx + dipoles[d + 1] * dy + dipoles[d + 2] * dz) /
          (r2 * Math.sqrt(r2) || 1e-300);
        continue;
      }
      const child = bvh.links[(i >> 1) * NODE + NODE_LINKS + (i & 1)];
      if (child >= 0) {
        const first = child / (NODE / 2);
        stack[top++] = first;
        stack[top++] = first + 1;
        continue;
      }
      for (
        let s = leafStart(child);
        s < leafStart(child) + leafCount(child);
        s++
      )
        sum += solidAngle(bvh.triangles, 9 * s, x, y, z);
    }
    return sum / (4 * Math.PI);
  }
}

/** Solid angle of a triangle (van Oosterom and Strackee 1983). */
function solidAngle(
  t: ArrayLike<number>,
  k: number,
  x: number,
  y: number,
  z: number,
): number {
  const ax = t[k] - x;
  const ay = t[k + 1] - y;
  const az = t[k + 2] - z;
  const bx = ax + t[k + 3];
  const by = ay + t[k + 4];
  const bz = az + t[k + 5];
  const cx = ax + t[k + 6];
  const cy = ay + t[k + 7];
  const cz = az + t[k + 8];
  const a = Math.sqrt(ax * ax + ay * ay + az * az);
  const b = Math.sqrt(bx * bx + by * by + bz * bz);
  const c = Math.sqrt(cx * cx + cy * cy + cz * cz);
  const det =
    ax * (by * cz - bz * cy) +
    ay * (bz * cx - bx * cz) +
    az * (bx * cy - by * cx);
  const den =
    a * b * c +
    (ax * bx + ay * by + az * bz) * c +
    (bx * cx + by * cy + bz * cz) * a +
    (cx * ax + cy * ay + cz * az) * b;
  return 2 * Math.atan2(det, den);
}
