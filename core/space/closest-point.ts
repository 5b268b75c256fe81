import type { Bvh } from "./bvh";
import { NODE, NODE_LINKS, leafCount, leafStart } from "./bvh";

/** Finds closest points on a hierarchy. Results stay in the fields until the next call. */
export class ClosestPoint {
  /** The closest point. */
  x = 0;
  y = 0;
  z = 0;
  /** Squared distance to it. */
  distance2 = 0;
  /** Weights of the second and the third corner there. */
  u = 0;
  v = 0;
  private readonly stack = new Int32Array(192);
  private readonly entry = new Float64Array(192);

  /** 2 × nodeCount: the owner of all triangles below a child, or −1 where they have several. */
  private readonly childOwner: Int32Array | null = null;

  /** @param owner a number per triangle, for queries that leave one owner's triangles out */
  constructor(
    private readonly bvh: Bvh,
    private readonly owner: ArrayLike<number> | null = null,
  ) {
    if (owner) this.childOwner = ownersBelow(bvh, owner);
  }

  /**
   * The triangle (the caller's number) nearest to a point, or −1 if none is nearer than √within2.
   * Triangles whose owner is `skip` do not count.
   */
  find(
    px: number,
    py: number,
    pz: number,
    within2 = Infinity,
    skip = -1,
  ): number {
    const { nodes, links, ids } = this.bvh;
    const { stack, entry, owner, childOwner } = this;
    this.distance2 = within2;
    let best = -1;
    let top = 0;
    let node = 0;
    for (;;) {
      if (node >= 0) {
        let left = boxDistance2(nodes, node, px, py, pz);
        let right = boxDistance2(nodes, node + 6, px, py, pz);
        if (childOwner !== null && skip >= 0) {
          const child = node / (NODE / 2);
          if (childOwner[child] === skip) left = Infinity;
          if (childOwner[child + 1] === skip) right = Infinity;
        }
        const leftFirst = left <= right;
        const link = node + NODE_LINKS;
        stack[top] = links[leftFirst ? link + 1 : link];
        entry[top++] = leftFirst ? right : left;
        stack[top] = links[leftFirst ? link : link + 1];
        entry[top++] = leftFirst ? left : right;
      } else {
        const start = leafStart(node);
        const end = start + leafCount(node);
        for (let i = start; i < end; i++)
          if (skip >= 0 && owner !== null && owner[ids[i]] === skip) continue;
          else if (this.nearer(9 * i, px, py, pz)) best = ids[i];
      }
      do {
        if (top === 0) return best;
        node = stack[--top];
      } while (entry[top] >= this.distance2);
    }
  }

  /** Ericson 2005, Real-Time Collision Detection, section 5.1.5: the region of the triangle decides. */
  private nearer(k: number, px: number, py: number, pz: number): boolean {
    const t = this.bvh.triangles;
    const ax = px - t[k];
    const ay = py - t[k + 1];
    const az = pz - t[k + 2];
    const e1x = t[k + 3];
    const e1y = t[k + 4];
    const e1z = t[k + 5];
    const e2x = t[k + 6];
    const e2y = t[k + 7];
    const e2z = t[k + 8];
    const d1 = e1x * ax + e1y * ay + e1z * az;
    const d2 = e2x * ax + e2y * ay + e2z * az;
    const e11 = e1x * e1x + e1y * e1y + e1z * e1z;
    const e12 = e1x * e2x + e1y * e2y + e1z * e2z;
    const e22 = e2x * e2x + e2y * e2y + e2z * e2z;
    const d3 = d1 - e11;
    const d4 = d2 - e12;
    const d5 = d1 - e12;
    const d6 = d2 - e22;
    let u = 0;
    let v = 0;
    if (d1 <= 0 && d2 <= 0) u = v = 0;
    else if (d3 >= 0 && d4 <= d3) u = 1;
    else if (d6 >= 0 && d5 <= d6) v = 1;
    else {
      const vc = d1 * d4 - d3 * d2;
      const vb = d5 * d2 - d1 * d6;
      const va = d3 * d6 - d5 * d4;
      // An edge of no length is no region: of a face without area another edge may be nearest.
      if (vc <= 0 && d1 >= 0 && d3 <= 0 && d1 > d3) u = d1 / (d1 - d3);
      else if (vb <= 0 && d2 >= 0 && d6 <= 0 && d2 > d6) v = d2 / (d2 - d6);
      else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
        const sum = d4 - d3 + (d5 - d6);
        v = sum === 0 ? 0 : (d4 - d3) / sum;
        u = 1 - v;
      } else {
        const sum = va + vb + vc;
        u = vb / sum;
        v = vc / sum;
      }
    }
    const x = t[k] + u * e1x + v * e2x;
    const y = t[k + 1] + u * e1y + v * e2y;
    const z = t[k + 2] + u * e1z + v * e2z;
    const d = (x - px) ** 2 + (y - py) ** 2 + (z - pz) ** 2;
    if (!(d < this.distance2)) return false;
    this.distance2 = d;
    this.x = x;
    this.y = y;
    this.z = z;
    this.u = u;
    this.v = v;
    return true;
  }
}

/** Parents come before their children in the arrays, so one pass from the end settles all. */
function ownersBelow(bvh: Bvh, owner: ArrayLike<number>): Int32Array {
  const { links, ids } = bvh;
  const below = new Int32Array((2 * links.length) / NODE).fill(-1);
  for (let i = below.length - 1; i >= 0; i--) {
    const child = links[(i >> 1) * NODE + NODE_LINKS + (i & 1)];
    if (child >= 0) {
      const first = child / (NODE / 2);
      below[i] = below[first] === below[first + 1] ? below[first] : -1;
      continue;
    }
    const start = leafStart(child);
    const end = start + leafCount(child);
    if (end === start) continue;
    below[i] = owner[ids[start]];
    for (let k = start + 1; k < end; k++)
      if (owner[ids[k]] !== below[i]) below[i] = -1;
  }
  return below;
}

function boxDistance2(
  boxes: Float32Array,
  b: number,
  x: number,
  y: number,
  z: number,
): number {
  const dx =
    x < boxes[b] ? boxes[b] - x : x > boxes[b + 3] ? x - boxes[b + 3] : 0;
  const dy =
    y < boxes[b + 1]
      ? boxes[b + 1] - y
      : y > boxes[b + 4]
        ? y - boxes[b + 4]
        : 0;
  const dz =
    z < boxes[b + 2]
      ? boxes[b + 2] - z
      : z > boxes[b + 5]
        ? z - boxes[b + 5]
        : 0;
  return dx * dx + dy * dy + dz * dz;
}
