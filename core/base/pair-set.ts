/** A well mixed 32-bit hash of two indices. */
export function hashPair(a: number, b: number): number {
  let h = Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b);
  h ^= h >>> 15;
  h = Math.imul(h, 0x2c1b3c6d);
  return (h ^ (h >>> 13)) >>> 0;
}

/** A set of ordered pairs of indices below 2³² − 1, by open addressing: no object a pair, as a `Set` of keys would make. */
export class PairSet {
  /** 2 × slots: the pairs, the first index raised by one so that 0 stands for an empty slot. */
  private readonly slots: Uint32Array;
  private readonly mask: number;

  /** @param most how many pairs may be added */
  constructor(most: number) {
    let size = 8;
    while (size < 2 * most) size *= 2;
    this.slots = new Uint32Array(2 * size);
    this.mask = size - 1;
  }

  add(a: number, b: number): void {
    const at = this.find(a, b);
    this.slots[at] = a + 1;
    this.slots[at + 1] = b;
  }

  has(a: number, b: number): boolean {
    return this.slots[this.find(a, b)] > 0;
  }

  /** Where a pair stands, or the empty slot where it would. */
  private find(a: number, b: number): number {
    const { slots, mask } = this;
    let at = hashPair(a, b) & mask;
    while (
      slots[2 * at] &&
      (slots[2 * at] !== a + 1 || slots[2 * at + 1] !== b)
    )
      at = (at + 1) & mask;
    return 2 * at;
  }
}
