import { boundsOf, diagonalOf } from "./bounds";
import { buildBvh } from "./bvh";
import { ClosestPoint } from "./closest-point";
import { sampleSurface } from "./sample";

export interface Surface {
  /** 3 × vertexCount */
  positions: Float32Array;
  /** 3 × triangleCount */
  triangles: Uint32Array;
}

export interface Deviation {
  /** Root mean square and largest distance, both ways together, as a fraction of the source's diagonal. */
  rms: number;
  max: number;
}

/** Distance between two surfaces by `count` area-weighted points each way (docs/measuring.md). */
export function measureDeviation(
  source: Surface,
  game: Surface,
  count = 60000,
): Deviation {
  const diagonal = diagonalOf(boundsOf(source.positions)) || 1;
  if (!source.triangles.length || !game.triangles.length)
    return { rms: 1, max: 1 };
  const there = oneWay(source, game, count);
  const back = oneWay(game, source, count);
  return {
    rms: Math.sqrt((there.sum + back.sum) / (2 * count)) / diagonal,
    max: Math.sqrt(Math.max(there.max, back.max)) / diagonal,
  };
}

function oneWay(from: Surface, to: Surface, count: number) {
  const { points } = sampleSurface(from.positions, from.triangles, count, 7);
  const closest = new ClosestPoint(buildBvh(to.positions, to.triangles));
  let sum = 0;
  let max = 0;
  for (let i = 0; i < points.length; i += 3) {
    closest.find(points[i], points[i + 1], points[i + 2]);
    sum += closest.distance2;
    if (closest.distance2 > max) max = closest.distance2;
  }
  return { sum, max };
}
