import { readKtx2 } from "../../core/formats/read-ktx2";
import type { BlockAnswer, BlockQuestion } from "./block-messages";

/** Opens KTX2 pictures, one after the other, apart from all else: its library makes functions out of text. */
addEventListener("message", (event: MessageEvent<BlockQuestion>) => {
  const { number, bytes } = event.data;
  const tell = (answer: BlockAnswer, transfer: Transferable[] = []) =>
    postMessage(answer, { transfer });
  readKtx2("a picture", bytes).then(
    (picture) =>
      tell({ number, picture }, [picture.pixels.buffer as ArrayBuffer]),
    (error: unknown) =>
      tell({
        number,
        failed: error instanceof Error ? error.message : String(error),
      }),
  );
});
