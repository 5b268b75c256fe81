import encode from "@jsquash/webp/encode.js";

/** A picture with alpha as WebP. @param data 4 × width × height @param quality 1 … 100 */
export const encodeWebp = async (
  picture: { width: number; height: number; data: Uint8Array },
  quality: number,
): Promise<Uint8Array> =>
  new Uint8Array(
    await encode(picture as unknown as ImageData, { quality, method: 4 }),
  );
