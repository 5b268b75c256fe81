const COVERED = 1;
const QUEUED = 2;

/**
 * Lets the values at the border of what is covered run on into what is not, ring by ring, so that filtering
 * at island borders never reads the ground. Each new texel is the mean of its covered neighbours, or the first of them.
 * @param values channels × width × height, whatever their unit, changed in place; @param covered texelCount: 1 where
 *   values count
 * @param flat whether values are names and must not be mixed
 */
export function dilate(
  values: Float32Array | Int16Array | Uint8Array,
  channels: number,
  covered: Uint8Array,
  width: number,
  height: number,
  rings: number,
  flat = false,
): void {
  const state = covered.map((mark) => (mark ? COVERED : 0));
  const whole = !(values instanceof Float32Array);
  const sum = new Float64Array(channels);
  let frontier = new Texels();
  for (let i = 0; i < state.length && rings > 0; i++)
    if (state[i] === COVERED) frontier.addRound(i, state, width, height);
  for (let ring = 0; ring < rings && frontier.count; ring++) {
    const { list, count } = frontier;
    for (let n = 0; n < count; n++) {
      const i = list[n];
      const x0 = i % width;
      const y0 = (i - x0) / width;
      let weight = 0;
      sum.fill(0);
      for (let y = Math.max(0, y0 - 1); y <= y0 + 1 && y < height; y++)
        for (let x = Math.max(0, x0 - 1); x <= x0 + 1 && x < width; x++) {
          const j = y * width + x;
          if (state[j] !== COVERED || (flat && weight > 0)) continue;
          weight++;
          for (let c = 0; c < channels; c++) sum[c] += values[channels * j + c];
        }
      for (let c = 0; c < channels; c++) {
        const mean = sum[c] / weight;
        values[channels * i + c] = whole ? Math.round(mean) : mean;
      }
    }
    // Texels of this ring only count for the next one.
    for (let n = 0; n < count; n++) state[list[n]] = COVERED;
    frontier = new Texels();
    for (let n = 0; n < count && ring + 1 < rings; n++)
      frontier.addRound(list[n], state, width, height);
  }
}

/** A list of texels that grows. */
class Texels {
  list = new Uint32Array(1024);
  count = 0;

  /** Takes in those round a texel that nothing covers yet, and marks them. */
  addRound(i: number, state: Uint8Array, width: number, height: number): void {
    const x0 = i % width;
    const y0 = (i - x0) / width;
    for (let y = Math.max(0, y0 - 1); y <= y0 + 1 && y < height; y++)
      for (let x = Math.max(0, x0 - 1); x <= x0 + 1 && x < width; x++) {
        const j = y * width + x;
        if (state[j]) continue;
        state[j] = QUEUED;
        this.add(j);
      }
  }

  private add(texel: number): void {
    if (this.count === this.list.length) {
      const larger = new Uint32Array(2 * this.count);
      larger.set(this.list);
      this.list = larger;
    }
    this.list[this.count++] = texel;
  }
}
