const along = (p: ArrayLike<number>, i: number, axis: readonly number[]) =>
  p[i] * axis[0] + p[i + 1] * axis[1] + p[i + 2] * axis[2];

/** Two directions that stand on an axis and on each other. @param axis of length one */
export function acrossAxis(axis: readonly number[]): [number[], number[]] {
  const helper = Math.abs(axis[0]) < 0.8 ? [1, 0, 0] : [0, 1, 0];
  let u = [
    axis[1] * helper[2] - axis[2] * helper[1],
    axis[2] * helper[0] - axis[0] * helper[2],
    axis[0] * helper[1] - axis[1] * helper[0],
  ];
  const size = Math.hypot(...u);
  u = u.map((x) => x / size);
  const v = [
    axis[1] * u[2] - axis[2] * u[1],
    axis[2] * u[0] - axis[0] * u[2],
    axis[0] * u[1] - axis[1] * u[0],
  ];
  return [u, v];
}

/** Smallest sphere round points, to a thousandth (Bădoiu and Clarkson 2003). @param points 3 numbers each, metres */
export function boundingSphere(points: ArrayLike<number>): {
  centre: number[];
  radius: number;
} {
  const centre = [points[0], points[1], points[2]];
  const farthest = () => {
    let at = 0;
    let most = -1;
    for (let i = 0; i < points.length; i += 3) {
      const d =
        (points[i] - centre[0]) ** 2 +
        (points[i + 1] - centre[1]) ** 2 +
        (points[i + 2] - centre[2]) ** 2;
      if (d > most) {
        most = d;
        at = i;
      }
    }
    return { at, radius: Math.sqrt(most) };
  };
  for (let round = 1; round <= 1000; round++) {
    const { at } = farthest();
    for (let k = 0; k < 3; k++)
      centre[k] += (points[at + k] - centre[k]) / (round + 1);
  }
  return { centre, radius: farthest().radius };
}

/**
 * The capsule along an axis that holds all points, its ends drawn in as far as they allow.
 * @param points 3 numbers each, metres
 * @returns the middles of its ends, and its radius
 */
export function capsuleAlong(
  points: ArrayLike<number>,
  axis: readonly number[],
) {
  const [u, v] = acrossAxis(axis);
  const flat = new Float64Array(points.length);
  for (let i = 0; i < points.length; i += 3) {
    flat[i] = along(points, i, u);
    flat[i + 1] = along(points, i, v);
  }
  const { centre, radius } = boundingSphere(flat);
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < points.length; i += 3) {
    const off = Math.hypot(flat[i] - centre[0], flat[i + 1] - centre[1]);
    const rise = Math.sqrt(Math.max(0, radius * radius - off * off));
    const h = along(points, i, axis);
    low = Math.min(low, h + rise);
    high = Math.max(high, h - rise);
  }
  if (low > high) low = high = (low + high) / 2;
  const at = (h: number) =>
    [0, 1, 2].map((k) => centre[0] * u[k] + centre[1] * v[k] + h * axis[k]);
  return { a: at(low), b: at(high), radius };
}
