import { boundsOf, diagonalOf } from "../../space/bounds";
import { convexHull } from "./convex-hull";
import type { Plane, Surface } from "./half-space";
import { NEAR, flipped } from "./half-space";
import { partBelow } from "./part-below";

/** A hull with no more points than a box has no face with more than four corners, or next to none. */
const BOX = 8;

/**
 * A convex solid in up to eight pieces, cut through its middle along each axis. Contacts of the physics library take no
 * more than four corners of a face: of a round foot with eleven those all lie on one side, and it would tip over them.
 * @param points 3 × n, metres: corners of the solid
 * @returns 3 × m each: corners of its pieces, metres
 */
export function octantsOf(points: Float32Array): Float32Array[] {
  const hull = points.length > 3 * BOX ? convexHull(points) : null;
  if (!hull) return [points];
  const { min, max } = boundsOf(points);
  const near = NEAR * diagonalOf({ min, max });
  let pieces: Surface[] = [
    {
      positions: Float64Array.from(hull.positions),
      triangles: hull.triangles,
      outlines: new Uint32Array(0),
    },
  ];
  for (let k = 0; k < 3; k++) {
    const normal = [0, 1, 2].map((n) => Number(n === k));
    const plane: Plane = [
      normal[0],
      normal[1],
      normal[2],
      (min[k] + max[k]) / 2,
    ];
    pieces = pieces.flatMap((piece) => [
      partBelow(piece, plane, near),
      partBelow(piece, flipped(plane), near),
    ]);
  }
  return pieces.flatMap(({ positions }) => {
    const corners = convexHull(positions);
    return corners ? [corners.positions] : [];
  });
}
