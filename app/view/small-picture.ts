import type { Rect } from "../shared/layout";

/** How large pictures of snapshots are, px. */
const WIDE = 320;
const HIGH = 200;

/**
 * A small PNG of the middle of a canvas' part.
 * @param table part of the canvas, CSS px; @param ratio pixels of the canvas of one of those
 */
export async function smallPicture(
  canvas: OffscreenCanvas,
  table: Rect,
  ratio: number,
): Promise<ArrayBuffer> {
  const small = new OffscreenCanvas(WIDE, HIGH);
  const height = Math.min(table.height, (table.width * HIGH) / WIDE);
  const width = (height * WIDE) / HIGH;
  small
    .getContext("2d")!
    .drawImage(
      canvas,
      (table.left + (table.width - width) / 2) * ratio,
      (table.top + (table.height - height) / 2) * ratio,
      width * ratio,
      height * ratio,
      0,
      0,
      WIDE,
      HIGH,
    );
  const blob = await small.convertToBlob({ type: "image/png" });
  return blob.arrayBuffer();
}
