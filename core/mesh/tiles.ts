import type { Mesh } from "./mesh";

/** Columns of tiles in a UDIM row, and the rows that there may be: 1001 to 1100. */
export const TILES_A_ROW = 10;
const ROWS = 10;

/** The number that a tile has by the UDIM convention. @param tile 0 for the first one */
export const udimOf = (tile: number) => 1001 + tile;

/** Where a tile lies in UV space: whole sheets to the right and up. */
export const tileAt = (tile: number): [number, number] => [
  tile % TILES_A_ROW,
  Math.floor(tile / TILES_A_ROW),
];

/** The tile that a place in UV space lies on, or −1 where there is none: beside, below or above all of them. */
export function tileOf(u: number, v: number): number {
  const [x, y] = [Math.floor(u), Math.floor(v)];
  const on = x >= 0 && y >= 0 && x < TILES_A_ROW && y < ROWS;
  return on ? x + TILES_A_ROW * y : -1;
}

/** The tiles that faces of meshes lie on, in order; the first one where there is none. */
export function tilesUsed(meshes: readonly Mesh[]): number[] {
  const tiles = new Set<number>();
  for (const mesh of meshes)
    if (mesh.uvs)
      for (const tile of tileOfFaces(mesh)) if (tile >= 0) tiles.add(tile);
  return tiles.size ? [...tiles].sort((a, b) => a - b) : [0];
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
