/**
 * The convex outline of points in a plane (the monotone chain of Andrew 1979).
 * @param points 2 × n, in pixels or any one unit
 * @returns [x, y, …] counter-clockwise
 */
export function convexOutline(points: Float64Array): number[] {
  const order = Array.from({ length: points.length / 2 }, (_, i) => i).sort(
    (a, b) =>
      points[2 * a] - points[2 * b] || points[2 * a + 1] - points[2 * b + 1],
  );
  const chain = (list: number[]) => {
    const out: number[] = [];
    for (const i of list) {
      while (out.length >= 2) {
        const [a, b] = [out[out.length - 2], out[out.length - 1]];
        const turn =
          (points[2 * b] - points[2 * a]) *
            (points[2 * i + 1] - points[2 * a + 1]) -
          (points[2 * b + 1] - points[2 * a + 1]) *
            (points[2 * i] - points[2 * a]);
        if (turn > 0) break;
        out.pop();
      }
      out.push(i);
    }
    out.pop();
    return out;
  };
  const hull = [...chain(order), ...chain(order.slice().reverse())];
  return (hull.length ? hull : order.slice(0, 1)).flatMap((i) => [
    points[2 * i],
    points[2 * i + 1],
  ]);
}
