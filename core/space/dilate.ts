/**
 * Lets the values at the border of what is covered run on into what is not, ring by ring, so that filtering
 * at island borders never reads the ground. Each new texel is the mean of its covered neighbours, or the first of them.
 * @param values channels × width × height, whatever their unit, changed in place; @param covered 1 where values count
 * @param flat whether values are names and must not be mixed
 */
export function dilate(
  values: Float32Array | Uint8Array,
  channels: number,
  covered: Uint8Array,
  width: number,
  height: number,
  rings: number,
  flat = false,
): void {
  const state = covered.map((mark) => (mark ? 1 : 0));
  let frontier: number[] = [];
  for (let i = 0; i < state.length; i++)
    if (!state[i] && touches(state, i, width, height)) frontier.push(i);
  for (let ring = 0; ring < rings && frontier.length; ring++) {
    const queued = new Set<number>();
    for (const i of frontier) {
      const x0 = i % width;
      const y0 = (i - x0) / width;
      let weight = 0;
      for (let c = 0; c < channels; c++) values[channels * i + c] = 0;
      for (let dy = -1; dy <= 1; dy++)
        for (let dx = -1; dx <= 1; dx++) {
          const x = x0 + dx;
          const y = y0 + dy;
          if (x < 0 || y < 0 || x >= width || y >= height) continue;
          const j = y * width + x;
          if (state[j] === 1) {
            if (flat && weight > 0) continue;
            weight++;
            for (let c = 0; c < channels; c++)
              values[channels * i + c] += values[channels * j + c];
          } else if (state[j] === 0) queued.add(j);
        }
      for (let c = 0; c < channels; c++) values[channels * i + c] /= weight;
    }
    // Texels of this ring only count for the next one.
    for (const i of frontier) state[i] = 1;
    frontier = [...queued].filter((i) => !state[i]).sort((a, b) => a - b);
  }
}

function touches(
  state: Uint8Array,
  i: number,
  width: number,
  height: number,
): boolean {
  const x = i % width;
  const y = (i - x) / width;
  for (let dy = -1; dy <= 1; dy++)
    for (let dx = -1; dx <= 1; dx++) {
      const nx = x + dx;
      const ny = y + dy;
      if (
        nx >= 0 &&
        ny >= 0 &&
        nx < width &&
        ny < height &&
        state[ny * width + nx] === 1
      )
        return true;
    }
  return false;
}
