import { boundsOf, diagonalOf } from "./bounds";
import type { Side } from "./directions";
import { frameOf, viewDirections } from "./directions";
import { rasterizeTriangle } from "./raster";
import type { Vector } from "./vector";

/** What a mesh covers of a square picture. */
export interface Mask {
  size: number;
  /** size × size, 1 where covered; rows from the bottom up. */
  pixels: Uint8Array;
}

/** A view along a direction that shows a ball whole: pixels from places. */
export interface FlatView {
  size: number;
  right: Vector;
  up: Vector;
  centre: Vector;
  /** Pixels a metre. */
  scale: number;
}

/** @param towards direction to the eye */
export function flatView(
  towards: Vector,
  centre: Vector,
  radius: number,
  size: number,
): FlatView {
  const [right, up] = frameOf(towards);
  return { size, right, up, centre, scale: (size - 4) / (2 * (radius || 1)) };
}

const across = (view: FlatView, p: ArrayLike<number>, v: number) =>
  view.size / 2 +
  view.scale *
    ((p[3 * v] - view.centre[0]) * view.right[0] +
      (p[3 * v + 1] - view.centre[1]) * view.right[1] +
      (p[3 * v + 2] - view.centre[2]) * view.right[2]);

const upwards = (view: FlatView, p: ArrayLike<number>, v: number) =>
  view.size / 2 +
  view.scale *
    ((p[3 * v] - view.centre[0]) * view.up[0] +
      (p[3 * v + 1] - view.centre[1]) * view.up[1] +
      (p[3 * v + 2] - view.centre[2]) * view.up[2]);

/** Draws triangles into a mask. */
export function drawMask(
  view: FlatView,
  positions: ArrayLike<number>,
  triangles: ArrayLike<number>,
): Mask {
  const { size } = view;
  const pixels = new Uint8Array(size * size);
  const fill = (row: number, from: number, to: number) => {
    pixels.fill(1, row * size + from, row * size + to);
  };
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t], triangles[t + 1], triangles[t + 2]];
    rasterizeTriangle(
      across(view, positions, a),
      upwards(view, positions, a),
      across(view, positions, b),
      upwards(view, positions, b),
      across(view, positions, c),
      upwards(view, positions, c),
      size,
      size,
      fill,
    );
  }
  return { size, pixels };
}

/** Edge of the pictures in which outlines are looked for, px, and how many there are. */
const PICTURE = 160;
const VIEWS = 32;

/**
 * How often each vertex lies on the outline of the whole, as a share of the views in which any could.
 * @returns vertexCount shares, 0 … 1
 */
export function outlineShares(
  positions: Float32Array,
  triangles: Uint32Array,
  from: Side,
): Float32Array {
  const bounds = boundsOf(positions);
  const centre = [0, 1, 2].map(
    (k) => (bounds.min[k] + bounds.max[k]) / 2,
  ) as unknown as Vector;
  const shares = new Float32Array(positions.length / 3);
  for (const towards of viewDirections(VIEWS, from)) {
    const view = flatView(towards, centre, diagonalOf(bounds) / 2, PICTURE);
    const { pixels } = drawMask(view, positions, triangles);
    for (let v = 0; v < shares.length; v++) {
      const x = Math.floor(across(view, positions, v));
      const y = Math.floor(upwards(view, positions, v));
      let free = false;
      for (let dy = -1; dy <= 1 && !free; dy++)
        for (let dx = -1; dx <= 1 && !free; dx++)
          free = !pixels[(y + dy) * PICTURE + x + dx];
      if (free) shares[v] += 1 / VIEWS;
    }
  }
  return shares;
}
