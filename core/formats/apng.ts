/** Of every PNG. */
const SIGNATURE = 8;
/** Length, name and check sum of a chunk, bytes. */
const AROUND = 12;

interface Chunk {
  type: string;
  data: Uint8Array;
}

/**
 * Pictures one after the other as an animated PNG that runs for ever (PNG, third edition, 11.3.6). Where animation is
 * not known the first is shown.
 * @param frames PNGs of one size and kind, at least one
 * @param seconds that each is shown
 */
export function animatedPng(
  frames: readonly Uint8Array[],
  seconds: number,
): Uint8Array {
  const first = chunksOf(frames[0]);
  const header = first.find(({ type }) => type === "IHDR")!.data;
  const made: Chunk[] = [
    { type: "IHDR", data: header },
    { type: "acTL", data: numbers(frames.length, 0) },
  ];
  let number = 0;
  frames.forEach((frame, f) => {
    made.push({
      type: "fcTL",
      data: joined(
        // Its number, its size, and that it lies at 0, 0.
        numbers(number++, readUint32(header, 0), readUint32(header, 4), 0, 0),
        // Hundredths of a second; each takes the place of the one before.
        Uint8Array.of(0, Math.round(100 * seconds), 0, 100, 0, 0),
      ),
    });
    for (const { type, data } of chunksOf(frame))
      if (type === "IDAT")
        made.push(
          f
            ? { type: "fdAT", data: joined(numbers(number++), data) }
            : { type, data },
        );
  });
  made.push({ type: "IEND", data: new Uint8Array(0) });
  return joined(frames[0].subarray(0, SIGNATURE), ...made.map(written));
}

function chunksOf(png: Uint8Array): Chunk[] {
  const chunks: Chunk[] = [];
  for (let at = SIGNATURE; at < png.length;) {
    const length = readUint32(png, at);
    chunks.push({
      type: String.fromCharCode(...png.subarray(at + 4, at + 8)),
      data: png.subarray(at + 8, at + 8 + length),
    });
    at += AROUND + length;
  }
  return chunks;
}

function written({ type, data }: Chunk): Uint8Array {
  const named = joined(
    Uint8Array.from(type, (letter) => letter.charCodeAt(0)),
    data,
  );
  return joined(numbers(data.length), named, numbers(checkSum(named)));
}

const readUint32 = (bytes: Uint8Array, at: number) =>
  new DataView(bytes.buffer, bytes.byteOffset).getUint32(at);

/** Numbers of 32 bits, the largest byte first. */
const numbers = (...values: number[]): Uint8Array => {
  const bytes = new Uint8Array(4 * values.length);
  const view = new DataView(bytes.buffer);
  values.forEach((value, i) => view.setUint32(4 * i, value));
  return bytes;
};

function joined(...pieces: readonly Uint8Array[]): Uint8Array {
  const bytes = new Uint8Array(
    pieces.reduce((sum, piece) => sum + piece.length, 0),
  );
  let at = 0;
  for (const piece of pieces) {
    bytes.set(piece, at);
    at += piece.length;
  }
  return bytes;
}

/** The check sum of PNG chunks (CRC 32, ISO 3309). */
function checkSum(bytes: Uint8Array): number {
  let sum = 0xffffffff;
  for (const byte of bytes) {
    sum ^= byte;
    for (let bit = 0; bit < 8; bit++)
      sum = sum & 1 ? (sum >>> 1) ^ 0xedb88320 : sum >>> 1;
  }
  return (sum ^ 0xffffffff) >>> 0;
}
