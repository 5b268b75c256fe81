/** What every PNG begins with. */
export const PNG_SIGNATURE = Uint8Array.of(137, 80, 78, 71, 13, 10, 26, 10);

export interface PngChunk {
  type: string;
  data: Uint8Array;
}

/** A chunk with its length, name and check sum (PNG, third edition, 5.3). */
export function pngChunk({ type, data }: PngChunk): Uint8Array {
  const bytes = new Uint8Array(12 + data.length);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, data.length);
  for (let k = 0; k < 4; k++) bytes[4 + k] = type.charCodeAt(k);
  bytes.set(data, 8);
  view.setUint32(8 + data.length, checkSum(bytes.subarray(4, -4)));
  return bytes;
}

/** What each byte makes of a check sum. */
const OF_BYTE = Uint32Array.from({ length: 256 }, (_, byte) => {
  let sum = byte;
  for (let bit = 0; bit < 8; bit++)
    sum = sum & 1 ? (sum >>> 1) ^ 0xedb88320 : sum >>> 1;
  return sum;
});

/** The check sum of PNG chunks (CRC 32, ISO 3309). */
function checkSum(bytes: Uint8Array): number {
  let sum = 0xffffffff;
  for (let i = 0; i < bytes.length; i++)
    sum = (sum >>> 8) ^ OF_BYTE[(sum ^ bytes[i]) & 255];
  return (sum ^ 0xffffffff) >>> 0;
}
