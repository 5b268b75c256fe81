/**
 * The chain of few of many points that comes nearest to all of them, least squares of what lies between
 * (dynamic programming after Perez and Vidal 1994).
 * @param points each of the same number of coordinates, in order along the chain; the ends stay
 * @param most points of the chain, or 0 for as many as `tolerance` needs
 * @param tolerance root mean square distance that is near enough where `most` is 0
 * @returns indices of the chosen points, rising
 */
export function bestChain(
  points: readonly (readonly number[])[],
  most: number,
  tolerance: number,
): number[] {
  const n = points.length;
  if (n <= 2) return points.map((_, i) => i);
  const cost = segmentCosts(points);
  const limit = Math.min(n, most || MOST);
  // best[k][j]: least cost of reaching point j with k segments.
  let best = new Float64Array(n).fill(Infinity);
  best[0] = 0;
  const from: Int32Array[] = [];
  let segments = 0;
  while (segments + 1 < limit) {
    segments++;
    const next = new Float64Array(n).fill(Infinity);
    const came = new Int32Array(n).fill(-1);
    for (let j = 1; j < n; j++)
      for (let i = 0; i < j; i++) {
        const sum = best[i] + cost[i * n + j];
        if (sum < next[j]) {
          next[j] = sum;
          came[j] = i;
        }
      }
    from.push(came);
    best = next;
    if (!most && Math.sqrt(best[n - 1] / n) <= tolerance) break;
  }
  const chain = [n - 1];
  for (let k = segments - 1; k >= 0; k--) chain.unshift(from[k][chain[0]]);
  return chain;
}

/** Points of a chain whose number nobody set, at the most. */
const MOST = 24;

/** n × n: what lies between two points, squared distance to the segment that joins them. */
function segmentCosts(points: readonly (readonly number[])[]): Float64Array {
  const n = points.length;
  const width = points[0].length;
  const cost = new Float64Array(n * n);
  for (let i = 0; i < n; i++)
    for (let j = i + 2; j < n; j++) {
      const [a, b] = [points[i], points[j]];
      let length2 = 0;
      for (let k = 0; k < width; k++) length2 += (b[k] - a[k]) ** 2;
      let sum = 0;
      for (let m = i + 1; m < j; m++) {
        let along = 0;
        for (let k = 0; k < width; k++)
          along += (points[m][k] - a[k]) * (b[k] - a[k]);
        const t = length2 > 0 ? Math.max(0, Math.min(1, along / length2)) : 0;
        for (let k = 0; k < width; k++)
          sum += (points[m][k] - a[k] - t * (b[k] - a[k])) ** 2;
      }
      cost[i * n + j] = sum;
    }
  return cost;
}
