import type { Bounds } from "../../core/space/bounds";
import { boundsOf } from "../../core/space/bounds";
import type { FlatView } from "../../core/space/outline";
import { drawMask, flatView } from "../../core/space/outline";
import type { Vector } from "../../core/space/vector";
import { cross, unit } from "../../core/space/vector";
import type { Mesh } from "../../core/mesh/mesh";
import type { OutlinePicture } from "../shared/messages";
import type { PartView } from "./part-view";
import { splitOf } from "./split";

/** Silhouettes of all sources and of all game meshes, from given directions, in the same frame. */
export function drawOutlines(
  views: readonly PartView[],
  towards: readonly number[][],
  size: number,
): OutlinePicture[] {
  const meshes = (which: "sourceMesh" | "gameMesh") =>
    views.flatMap((view) => view[which] ?? []);
  const sources = meshes("sourceMesh");
  if (!sources.length) return [];
  const bounds = boundsOf(...sources.map((mesh) => mesh.positions));
  const centre = [0, 1, 2].map(
    (k) => (bounds.min[k] + bounds.max[k]) / 2,
  ) as unknown as Vector;
  const mask = (list: readonly Mesh[], view: FlatView) => {
    const pixels = new Uint8Array(size * size);
    for (const mesh of list) {
      const own = drawMask(view, mesh.positions, splitOf(mesh).vertices).pixels;
      for (let i = 0; i < pixels.length; i++) pixels[i] |= own[i];
    }
    return pixels;
  };
  return towards.map((way) => {
    const view = upright(way, bounds, centre, size);
    return {
      towards: way,
      size,
      source: mask(sources, view),
      game: mask(meshes("gameMesh"), view),
    };
  });
}

/** A view that a box fills, with what is up in the world up in the picture. */
function upright(
  way: readonly number[],
  bounds: Bounds,
  centre: Vector,
  size: number,
): FlatView {
  const right = unit(
    cross(Math.abs(way[1]) > 0.99 ? [0, 0, -1] : [0, 1, 0], way),
  );
  const up = unit(cross(way, right));
  const reach = [0, 1, 2].map((k) => (bounds.max[k] - bounds.min[k]) / 2);
  const along = (axis: Vector) =>
    axis.reduce((sum, x, k) => sum + Math.abs(x) * reach[k], 0);
  const radius = Math.max(along(right), along(up));
  return {
    ...flatView(way as unknown as Vector, centre, radius, size),
    right,
    up,
  };
}
