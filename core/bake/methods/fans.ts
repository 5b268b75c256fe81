/**
 * Directions about +z that are cast in two goes: when none of the first meets anything, the rest would hardly say
 * more. 3 × as many numbers as directions, each.
 */
export interface Fan {
  first: Float32Array;
  rest: Float32Array;
  /** Whether the first are spread like all of them, so that the rest can be spared also when all of the first met something. */
  fair: boolean;
}

/** Directions within a cone about +z, cosine-weighted: half of them first, at every height in two quarters across, turned from height to height. */
export function weightedFan(count: number, cone: number): Fan {
  const widest = Math.sin(Math.min(cone, Math.PI / 2));
  return fanOf(
    directionsUp(count, (share) => widest * Math.sqrt(share)),
    (i) => ((i >> 1) + (i >> 3)) % 2 === 0,
    true,
  );
}

/**
 * Directions evenly over the half sphere about +z. First go those that lie lowest, which meet a curved surface before
 * all others do, and a quarter of the others for what hangs over.
 */
export function evenFan(count: number): Fan {
  return fanOf(
    directionsUp(count, (share) => Math.sqrt(1 - (1 - share) ** 2)),
    (i) => i >= (5 * count) / 8 || i % 4 === 1,
    false,
  );
}

/** How many rays look to each side for the curvature: it is a mean over a ball, which few tell well. */
export const curveRays = (rays: number): number =>
  Math.min(rays, Math.max(16, (3 * rays) >> 3));

/** A Hammersley set over the half sphere. @param radiusAt how far from the axis the direction at a share of all is */
function directionsUp(
  count: number,
  radiusAt: (share: number) => number,
): Float32Array {
  const directions = new Float32Array(3 * count);
  for (let i = 0; i < count; i++) {
    const r = radiusAt((i + 0.5) / count);
    let bits = i;
    let turn = 0;
    for (let half = 0.5; bits; half /= 2, bits >>= 1) turn += (bits & 1) * half;
    directions[3 * i] = r * Math.cos(2 * Math.PI * turn);
    directions[3 * i + 1] = r * Math.sin(2 * Math.PI * turn);
    directions[3 * i + 2] = Math.sqrt(Math.max(0, 1 - r * r));
  }
  return directions;
}

function fanOf(
  directions: Float32Array,
  isFirst: (i: number) => boolean,
  fair: boolean,
): Fan {
  const first: number[] = [];
  const rest: number[] = [];
  for (let i = 0; 3 * i < directions.length; i++)
    (isFirst(i) ? first : rest).push(...directions.subarray(3 * i, 3 * i + 3));
  return {
    first: Float32Array.from(first),
    rest: Float32Array.from(rest),
    fair,
  };
}
