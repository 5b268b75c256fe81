import { UNIT } from "./channels";

/**
 * Takes the grain of few rays out of what was found by many: the mean over 5 × 5 texels of the same island, those
 * with a different normal counting less, so that grooves stay, and those of another value than grain explains, so that
 * the borders of shadows stay too (a bilateral filter, Tomasi and Manduchi 1998).
 * @param values 1 or 3 × width × height
 * @param normals 3 × width × height, tangent space, of length `UNIT`
 * @param covered width × height: not 0 where an island lies
 * @param noise how far apart values are that are still taken for the same, in their unit
 * @returns as many values
 */
export function withoutGrain(
  values: Float32Array,
  normals: Int16Array,
  covered: Uint8Array,
  width: number,
  height: number,
  noise: number,
): Float32Array {
  const smooth = new Float32Array(values);
  const channels = values.length / covered.length;
  const sum = new Float64Array(channels);
  const noise2 = noise * noise;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (!covered[i]) continue;
      const nx = normals[3 * i];
      const ny = normals[3 * i + 1];
      const nz = normals[3 * i + 2];
      const right = Math.min(width - 1, x + 2);
      const top = Math.min(height - 1, y + 2);
      sum.fill(0);
      let weights = 0;
      for (let v = Math.max(0, y - 2); v <= top; v++)
        for (
          let k = v * width + Math.max(0, x - 2);
          k <= v * width + right;
          k++
        ) {
          if (!covered[k]) continue;
          const dot =
            (nx * normals[3 * k] +
              ny * normals[3 * k + 1] +
              nz * normals[3 * k + 2]) /
            (UNIT * UNIT);
          if (!(dot > 0)) continue;
          // The eighth power: far quicker by squares.
          const dot2 = dot * dot;
          let apart2 = 0;
          for (let c = 0; c < channels; c++) {
            const apart = values[channels * k + c] - values[channels * i + c];
            apart2 += apart * apart;
          }
          const weight =
            (dot2 * dot2 * dot2 * dot2) / (1 + (apart2 / noise2) ** 2);
          for (let c = 0; c < channels; c++)
            sum[c] += weight * values[channels * k + c];
          weights += weight;
        }
      if (weights > 0)
        for (let c = 0; c < channels; c++)
          smooth[channels * i + c] = sum[c] / weights;
    }
  return smooth;
}
