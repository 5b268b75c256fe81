import { plainContext } from "../core/base/context";
import { zipFiles } from "../core/formats/archive";
import { writePng } from "../core/formats/png";
import type { Shots } from "../core/ship/methods/shots";

/** A PNG of one grey. */
export const plainPicture = (width: number, height: number, grey: number) =>
  writePng({
    ...{ kind: "normal", width, height, channels: 3, depth: 8 },
    pixels: new Uint8Array(3 * width * height).fill(grey),
  });

/** The archive that a view sends with a call: each picture of another grey, or as told; null for none. */
export function sentPictures(
  { width, height, shots }: Shots,
  change: (name: string, n: number) => Uint8Array | null = (_, n) =>
    plainPicture(width, height, 10 + n),
) {
  const files = shots.flatMap(({ name }, n) => {
    const bytes = change(name, n);
    return bytes ? [{ name: `${name}.png`, bytes }] : [];
  });
  return [{ name: "pictures.zip", bytes: zipFiles(files, plainContext()) }];
}
