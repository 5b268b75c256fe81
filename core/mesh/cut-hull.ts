import type { ConvexMesh } from "./hull";

/**
 * The points of a convex body on either side of a plane: its own, and where its edges meet the plane.
 * @param normal unit length; @param offset n·x of the plane, metres
 * @returns 3 × n each, metres: below and above
 */
export function pointsByPlane(
  { positions: p, triangles }: ConvexMesh,
  normal: readonly number[],
  offset: number,
): [below: number[], above: number[]] {
  const height = (v: number) =>
    normal[0] * p[3 * v] +
    normal[1] * p[3 * v + 1] +
    normal[2] * p[3 * v + 2] -
    offset;
  const below: number[] = [];
  const above: number[] = [];
  for (let v = 0; v < p.length / 3; v++) {
    const h = height(v);
    if (h <= 0) below.push(...p.subarray(3 * v, 3 * v + 3));
    if (h >= 0) above.push(...p.subarray(3 * v, 3 * v + 3));
  }
  for (let t = 0; t < triangles.length; t++) {
    const a = triangles[t];
    const b = triangles[t % 3 === 2 ? t - 2 : t + 1];
    const ha = height(a);
    const hb = height(b);
    // Each edge has two triangles: one of them runs it upwards.
    if (!(ha < 0 && hb > 0)) continue;
    const share = ha / (ha - hb);
    const met = [0, 1, 2].map(
      (k) => p[3 * a + k] + share * (p[3 * b + k] - p[3 * a + k]),
    );
    below.push(...met);
    above.push(...met);
  }
  return [below, above];
}
