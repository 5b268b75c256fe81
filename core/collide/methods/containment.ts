/** A closed convex mesh: 3 × n coordinates in metres, triangles counter-clockwise seen from outside. */
interface Convex {
  positions: ArrayLike<number>;
  triangles: ArrayLike<number>;
}

/** A triangle that is flatter than this, height by longest edge, says nothing of where it faces. */
const SLIVER = 1e-4;

/** 4 × planes: outward unit normal and offset in metres, n·x ≤ d within; slivers have none. */
export function planesOf({ positions: p, triangles }: Convex): Float64Array {
  const planes: number[] = [];
  for (let t = 0; t < triangles.length; t += 3) {
    const a = 3 * triangles[t];
    const b = 3 * triangles[t + 1];
    const c = 3 * triangles[t + 2];
    const [ux, uy, uz] = [
      p[b] - p[a],
      p[b + 1] - p[a + 1],
      p[b + 2] - p[a + 2],
    ];
    const [vx, vy, vz] = [
      p[c] - p[a],
      p[c + 1] - p[a + 1],
      p[c + 2] - p[a + 2],
    ];
    const x = uy * vz - uz * vy;
    const y = uz * vx - ux * vz;
    const z = ux * vy - uy * vx;
    const size = Math.hypot(x, y, z);
    const [wx, wy, wz] = [ux - vx, uy - vy, uz - vz];
    const longest = Math.max(
      ux * ux + uy * uy + uz * uz,
      vx * vx + vy * vy + vz * vz,
      wx * wx + wy * wy + wz * wz,
    );
    if (!(size > SLIVER * longest)) continue;
    planes.push(x / size, y / size, z / size);
    planes.push((x * p[a] + y * p[a + 1] + z * p[a + 2]) / size);
  }
  return Float64Array.from(planes);
}

/**
 * How far points stand out of the hulls that hold them together: the largest distance, metres, to the planes of the
 * hull that a point stands out of least. 0 where every point lies in a hull, or there is none.
 * @param points 3 × n, metres
 */
export function farthestOutside(
  hulls: readonly Convex[],
  points: ArrayLike<number>,
): number {
  const all = hulls.map(planesOf).filter((planes) => planes.length);
  if (!all.length) return 0;
  let far = 0;
  let at = 0;
  for (let i = 0; i < points.length; i += 3) {
    const [x, y, z] = [points[i], points[i + 1], points[i + 2]];
    // Neighbours mostly lie in the same hull.
    let least = outOf(all[at], x, y, z, Infinity);
    for (let h = 0; h < all.length && least > far; h++) {
      const out = outOf(all[h], x, y, z, least);
      if (out >= least) continue;
      least = out;
      at = h;
    }
    far = Math.max(far, least);
  }
  return far;
}

/** The largest distance of a point out of any plane (4 × planes), metres, or `most` once it is no less; 0 within. */
export function outOf(
  planes: Float64Array,
  x: number,
  y: number,
  z: number,
  most: number,
): number {
  let far = 0;
  for (let k = 0; k < planes.length && far < most; k += 4)
    far = Math.max(
      far,
      planes[k] * x + planes[k + 1] * y + planes[k + 2] * z - planes[k + 3],
    );
  return far;
}
