import type { Mesh } from "./mesh";

/** Columns of tiles in a UDIM row. */
export const TILES_A_ROW = 10;

/** The number that a tile has by the UDIM convention. @param tile 0 for the first one */
export const udimOf = (tile: number) => 1001 + tile;

/** Where a tile lies in UV space: whole sheets to the right and up. */
export const tileAt = (tile: number): [number, number] => [
  tile % TILES_A_ROW,
  Math.floor(tile / TILES_A_ROW),
];

/** The tile that a place in UV space lies on, or −1 where there is none: left of, below or right of all of them. */
export function tileOf(u: number, v: number): number {
  const [x, y] = [Math.floor(u), Math.floor(v)];
  return x < 0 || y < 0 || x >= TILES_A_ROW ? -1 : x + TILES_A_ROW * y;
}

/** The tile each face of a mesh with UVs lies on, by its middle; −1 where there is none. */
export function tileOfFaces({ uvs, faceStarts }: Mesh): Int32Array {
  return Int32Array.from({ length: faceStarts.length - 1 }, (_, f) => {
    let u = 0;
    let v = 0;
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++) {
      u += uvs![2 * c];
      v += uvs![2 * c + 1];
    }
    const corners = faceStarts[f + 1] - faceStarts[f];
    return tileOf(u / corners, v / corners);
  });
}
