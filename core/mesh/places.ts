/** Where to look: middle and radius, metres. */
export interface MeshPlace {
  at: [number, number, number];
  radius: number;
}

/** Most places a finding leads to. */
const MOST_PLACES = 40;

/**
 * Gathers what lies near each other into places, in the order met.
 * @param p 3 × vertexCount, metres
 * @param clouds vertices of each thing found
 * @param diagonal of the mesh: a twenty-fifth of it counts as near
 */
export function placesOf(
  p: Float32Array,
  clouds: readonly number[][],
  diagonal: number,
): MeshPlace[] {
  const places: MeshPlace[] = [];
  const near = 0.04 * diagonal;
  for (const cloud of clouds) {
    const middle: [number, number, number] = [0, 0, 0];
    for (const v of cloud)
      for (let k = 0; k < 3; k++) middle[k] += p[3 * v + k] / cloud.length;
    const radius = Math.max(
      0.01 * diagonal,
      ...cloud.map((v) =>
        Math.hypot(
          p[3 * v] - middle[0],
          p[3 * v + 1] - middle[1],
          p[3 * v + 2] - middle[2],
        ),
      ),
    );
    const known = places.find(
      ({ at }) =>
        Math.hypot(at[0] - middle[0], at[1] - middle[1], at[2] - middle[2]) <
        near,
    );
    if (known) known.radius = Math.max(known.radius, radius);
    else if (places.length < MOST_PLACES) places.push({ at: middle, radius });
  }
  return places;
}
