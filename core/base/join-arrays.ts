type Joined = Uint8Array | Float64Array;

/**
 * Typed arrays one after another.
 * @param Kind of the arrays; @param arrays of any length each, whatever they hold
 */
export function joinArrays<T extends Joined>(
  Kind: new (length: number) => T,
  arrays: readonly T[],
): T {
  const all = new Kind(arrays.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const array of arrays) {
    all.set(array, at);
    at += array.length;
  }
  return all;
}
