import { basis } from "#basis";
import { ArnikError } from "../base/errors";
import { checkSides } from "./picture";

/**
 * The largest picture of a KTX2 file in UASTC or ETC1S.
 * @returns pixels 4 × width × height, rows from the top
 * @throws ArnikError for what can't be opened
 */
export async function readKtx2(
  name: string,
  bytes: Uint8Array,
): Promise<{ width: number; height: number; pixels: Uint8Array }> {
  const { KTX2File, transcoder_texture_format } = await basis();
  const format = transcoder_texture_format.cTFRGBA32.value;
  const file = new KTX2File(bytes);
  try {
    if (!file.isValid() || !file.getWidth())
      throw new ArnikError(`${name}: the KTX2 picture can't be opened`);
    checkSides(name, file.getWidth(), file.getHeight());
    if (!file.startTranscoding())
      throw new ArnikError(`${name}: the KTX2 picture can't be opened`);
    const pixels = new Uint8Array(
      file.getImageTranscodedSizeInBytes(0, 0, 0, format),
    );
    if (!file.transcodeImage(pixels, 0, 0, 0, format, 0, -1, -1))
      throw new ArnikError(`${name}: the KTX2 picture can't be opened`);
    return { width: file.getWidth(), height: file.getHeight(), pixels };
  } finally {
    file.close();
    file.delete();
  }
}
