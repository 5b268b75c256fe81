/**
 * The numbers of about the `wanted` lowest costs, in order by factors of 1.5 and, where costs are alike to that,
 * in order of memory: walking it in leaps costs more than the finer order is worth.
 * @param costs count: none below 0, Infinity for what is not to be taken
 */
export function cheapest(
  costs: Float32Array,
  count: number,
  wanted: number,
): Uint32Array {
  const bits = new Uint32Array(costs.buffer, costs.byteOffset, count);
  const starts = new Uint32Array(1 << 10);
  for (let e = 0; e < count; e++) starts[bits[e] >>> 22]++;
  let sum = 0;
  let last = 0;
  for (let b = 0; b < starts.length; b++) {
    const here = starts[b];
    starts[b] = sum;
    if (sum < wanted) last = b;
    sum += here;
  }
  const most = last + 1 < starts.length ? starts[last + 1] : count;
  const order = new Uint32Array(most);
  for (let e = 0; e < count; e++) {
    const bucket = bits[e] >>> 22;
    if (bucket <= last) order[starts[bucket]++] = e;
  }
  return order;
}
