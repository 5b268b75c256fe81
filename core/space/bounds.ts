export interface Bounds {
  readonly min: [number, number, number];
  readonly max: [number, number, number];
}

/** Axis-aligned bounds of points (3 × n); of no points: min > max. */
export function boundsOf(...clouds: ArrayLike<number>[]): Bounds {
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (const points of clouds)
    for (let i = 0; i < points.length; i += 3)
      for (let k = 0; k < 3; k++) {
        const x = points[i + k];
        if (x < min[k]) min[k] = x;
        if (x > max[k]) max[k] = x;
      }
  return { min, max };
}

/** Length of the diagonal, 0 for empty bounds. */
export function diagonalOf({ min, max }: Bounds): number {
  if (min[0] > max[0]) return 0;
  return Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]);
}
