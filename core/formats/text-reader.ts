/** Walks over the words and lines of ASCII bytes without making strings of numbers. */
export class TextReader {
  at = 0;
  line = 1;

  constructor(readonly bytes: Uint8Array) {}

  get done(): boolean {
    return this.at >= this.bytes.length;
  }

  /** Moves over blanks; a backslash at the end of a line joins it to the next. */
  skipBlanks(): void {
    const { bytes } = this;
    for (;;) {
      const c = bytes[this.at];
      if (c === 32 || c === 9 || c === 13) this.at++;
      else if (
        c === 92 &&
        (bytes[this.at + 1] === 10 ||
          (bytes[this.at + 1] === 13 && bytes[this.at + 2] === 10))
      ) {
        this.at += bytes[this.at + 1] === 10 ? 2 : 3;
        this.line++;
      } else return;
    }
  }

  /** Whether the line has no more words. */
  atLineEnd(): boolean {
    this.skipBlanks();
    const c = this.bytes[this.at];
    return c === undefined || c === 10 || c === 35;
  }

  nextLine(): void {
    const { bytes } = this;
    while (this.at < bytes.length && bytes[this.at] !== 10) this.at++;
    this.at++;
    this.line++;
  }

  /** Blanks and line ends. */
  skipSpace(): void {
    for (;;) {
      this.skipBlanks();
      if (this.bytes[this.at] !== 10) return;
      this.at++;
      this.line++;
    }
  }

  word(): string {
    this.skipBlanks();
    const start = this.at;
    while (this.at < this.bytes.length && this.bytes[this.at] > 32) this.at++;
    return decode(this.bytes.subarray(start, this.at));
  }

  restOfLine(): string {
    this.skipBlanks();
    const start = this.at;
    while (this.at < this.bytes.length && this.bytes[this.at] !== 10) this.at++;
    return decode(this.bytes.subarray(start, this.at)).trim();
  }

  /** The next word as a number; NaN for a word that is none (such as "nan"), undefined at the line's end. */
  number(): number | undefined {
    if (this.atLineEnd()) return undefined;
    const { bytes } = this;
    const start = this.at;
    let i = start;
    let sign = 1;
    if (bytes[i] === 45 || bytes[i] === 43) sign = bytes[i++] === 45 ? -1 : 1;
    let value = 0;
    let digits = 0;
    let shift = 0;
    for (; bytes[i] >= 48 && bytes[i] <= 57; i++, digits++)
      value = value * 10 + bytes[i] - 48;
    if (bytes[i] === 46)
      for (i++; bytes[i] >= 48 && bytes[i] <= 57; i++, digits++, shift++)
        value = value * 10 + bytes[i] - 48;
    const ends = bytes[i] === undefined || bytes[i] <= 32;
    if (ends && digits > 0 && digits <= 15) {
      this.at = i;
      return (sign * value) / POWERS[shift];
    }
    // Exponents, many digits and anything else go the exact and slow way.
    const word = this.word();
    return word.trim() === "" ? NaN : Number(word);
  }
}

const POWERS = Array.from({ length: 16 }, (_, k) => 10 ** k);
/** Longest word or name that is kept, bytes: no file means more. */
const LONGEST = 4096;
const utf8 = new TextDecoder();
const decode = (bytes: Uint8Array) =>
  utf8.decode(bytes.length > LONGEST ? bytes.subarray(0, LONGEST) : bytes);

/** Text without its byte order mark, UTF-16 made UTF-8 (Unicode 15, section 23.8). */
export function plainText(bytes: Uint8Array): Uint8Array {
  const [a, b, c] = bytes;
  if (a === 0xef && b === 0xbb && c === 0xbf) return bytes.subarray(3);
  const wide =
    a === 0xff && b === 0xfe
      ? "utf-16le"
      : a === 0xfe && b === 0xff
        ? "utf-16be"
        : "";
  return wide
    ? new TextEncoder().encode(new TextDecoder(wide).decode(bytes))
    : bytes;
}

/** A list of numbers that grows without boxing them. */
export class NumberList {
  private values: Float64Array;
  length = 0;

  constructor(capacity = 1024) {
    this.values = new Float64Array(capacity);
  }

  push(value: number): void {
    if (this.length === this.values.length) {
      const wider = new Float64Array(this.length * 2);
      wider.set(this.values);
      this.values = wider;
    }
    this.values[this.length++] = value;
  }

  get(i: number): number {
    return this.values[i];
  }

  toFloats(): Float32Array {
    return Float32Array.from(this.values.subarray(0, this.length));
  }

  toIndices(): Uint32Array {
    return Uint32Array.from(this.values.subarray(0, this.length));
  }
}
