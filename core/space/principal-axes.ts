/** Three directions square to each other, right-handed. */
export type Axes = [number[], number[], number[]];

export const WORLD_AXES: Axes = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

/** Principal axes of points, longest first (Jacobi rotations on the covariance). */
export function principalAxes(points: ArrayLike<number>): Axes {
  const n = points.length / 3;
  const mean = [0, 0, 0];
  for (let i = 0; i < points.length; i++) mean[i % 3] += points[i] / n;
  const m = [
    [0, 0, 0],
    [0, 0, 0],
    [0, 0, 0],
  ];
  for (let i = 0; i < points.length; i += 3)
    for (let r = 0; r < 3; r++)
      for (let c = 0; c < 3; c++)
        m[r][c] += (points[i + r] - mean[r]) * (points[i + c] - mean[c]);
  const v = WORLD_AXES.map((axis) => axis.slice());
  for (let sweep = 0; sweep < 24; sweep++)
    for (const [p, q] of [
      [0, 1],
      [0, 2],
      [1, 2],
    ]) {
      if (Math.abs(m[p][q]) < 1e-30) continue;
      const theta = (m[q][q] - m[p][p]) / (2 * m[p][q]);
      const t =
        Math.sign(theta || 1) /
        (Math.abs(theta) + Math.sqrt(theta * theta + 1));
      const c = 1 / Math.sqrt(t * t + 1);
      const s = t * c;
      for (let k = 0; k < 3; k++)
        [m[k][p], m[k][q]] = [
          c * m[k][p] - s * m[k][q],
          s * m[k][p] + c * m[k][q],
        ];
      for (let k = 0; k < 3; k++)
        [m[p][k], m[q][k]] = [
          c * m[p][k] - s * m[q][k],
          s * m[p][k] + c * m[q][k],
        ];
      for (let k = 0; k < 3; k++)
        [v[p][k], v[q][k]] = [
          c * v[p][k] - s * v[q][k],
          s * v[p][k] + c * v[q][k],
        ];
    }
  const order = [0, 1, 2].sort((a, b) => m[b][b] - m[a][a]);
  const [x, y] = order.map((k) => v[k]);
  // The third axis closes a right-handed frame.
  return [
    x,
    y,
    [
      x[1] * y[2] - x[2] * y[1],
      x[2] * y[0] - x[0] * y[2],
      x[0] * y[1] - x[1] * y[0],
    ],
  ];
}
