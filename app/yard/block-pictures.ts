import { DataTexture } from "three";
import type { BlockAnswer, BlockQuestion } from "./block-messages";

let worker: Worker | null = null;
let asked = 0;
const waiting = new Map<number, (answer: BlockAnswer) => void>();

/** Asks the worker that opens KTX2 pictures. */
function opened(bytes: Uint8Array): Promise<BlockAnswer> {
  if (!worker) {
    worker = new Worker(
      new URL("./block-pictures.worker.ts", import.meta.url),
      {
        type: "module",
      },
    );
    worker.onmessage = ({ data }: MessageEvent<BlockAnswer>) => {
      waiting.get(data.number)?.(data);
      waiting.delete(data.number);
    };
    worker.onerror = ({ message }) => {
      for (const [number, settle] of waiting)
        settle({ number, failed: message });
      waiting.clear();
      worker = null;
    };
  }
  const number = ++asked;
  return new Promise((settle) => {
    waiting.set(number, settle);
    worker!.postMessage({ number, bytes } satisfies BlockQuestion);
  });
}

/** Pictures in blocks (KTX2) for three's loader of glTF, drawn as the colours that they unpack to. */
export class BlockPictureLoader {
  /** It is asked as three's own loader of these is. */
  readonly isKTX2Loader = true;

  parse(
    bytes: ArrayBuffer,
    onLoad: (texture: DataTexture) => void,
    onError: (error: unknown) => void,
  ): void {
    opened(new Uint8Array(bytes))
      .then(({ picture, failed }) => {
        if (!picture) throw new Error(failed);
        const { pixels, width, height } = picture;
        const texture = new DataTexture(
          pixels as Uint8Array<ArrayBuffer>,
          width,
          height,
        );
        texture.needsUpdate = true;
        onLoad(texture);
      })
      .catch(onError);
  }
}
