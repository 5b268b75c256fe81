import type { BakedMap } from "../../base/pictures";
import type { Mesh } from "../../mesh/mesh";
import { tileAt } from "../../mesh/tiles";
import { triangulate } from "../../mesh/triangulate";
import { rasterizeTriangle } from "../../space/raster";

/** Texels taken beyond an island's rim, so that its padding comes along. */
const RIM = 2;

/**
 * The texels that a mesh's islands take on a tile, with a rim round them.
 * @returns width × height, rows from the top of the tile down: 1 where they lie
 */
export function islandTexels(
  mesh: Mesh,
  tile: number,
  width: number,
  height: number,
): Uint8Array {
  const taken = new Uint8Array(width * height);
  const { corners } = triangulate(mesh);
  const uv = mesh.uvs!;
  const [right, up] = tileAt(tile);
  const x = (c: number) => (uv[2 * c] - right) * width;
  const y = (c: number) => (1 - uv[2 * c + 1] + up) * height;
  for (let t = 0; t < corners.length; t += 3) {
    const [a, b, c] = [corners[t], corners[t + 1], corners[t + 2]];
    rasterizeTriangle(
      x(a),
      y(a),
      x(b),
      y(b),
      x(c),
      y(c),
      width,
      height,
      (row, start, end) =>
        taken.fill(1, row * width + start, row * width + end),
    );
  }
  for (let round = 0; round < RIM; round++) widen(taken, width, height);
  return taken;
}

function widen(taken: Uint8Array, width: number, height: number): void {
  const before = taken.slice();
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (before[y * width + x]) continue;
      const near =
        (x > 0 && before[y * width + x - 1]) ||
        (x + 1 < width && before[y * width + x + 1]) ||
        (y > 0 && before[(y - 1) * width + x]) ||
        (y + 1 < height && before[(y + 1) * width + x]);
      if (near) taken[y * width + x] = 1;
    }
}

/**
 * Copies marked texels of one map into another of the same kind, whatever their sizes and depths.
 * @param taken as many as `into` has texels: 1 where one is copied
 * @returns how many were
 */
export function copyTexels(
  from: BakedMap,
  into: BakedMap,
  taken: Uint8Array,
): number {
  const { width, height, channels } = into;
  const shift = from.depth === into.depth ? 0 : into.depth === 16 ? 8 : -8;
  let count = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (!taken[y * width + x]) continue;
      count++;
      const sx = Math.floor(((x + 0.5) * from.width) / width);
      const sy = Math.floor(((y + 0.5) * from.height) / height);
      for (let k = 0; k < channels; k++) {
        const value = from.pixels[from.channels * (sy * from.width + sx) + k];
        into.pixels[channels * (y * width + x) + k] =
          shift > 0 ? value << shift : value >> -shift;
      }
    }
  return count;
}
