import { WORLD_AXES, principalAxes } from "../../space/principal-axes";
import { smallestBox } from "../../space/smallest-box";
import type { ConvexMesh } from "../../mesh/hull";
import { boxMesh, capsuleMesh } from "../../mesh/collider-shape";
import { boundingSphere, capsuleAlong } from "../../space/round-bounds";
import { planesOf } from "./containment";

/** The smallest box round points, see core/space/smallest-box.ts. */
export function fitBox(points: ArrayLike<number>): ConvexMesh {
  const { axes, extents } = smallestBox(points);
  return boxMesh(axes, extents);
}

/** The smallest sphere as a mesh that holds all points. */
export function fitSphere(points: ArrayLike<number>): ConvexMesh {
  const { centre, radius } = boundingSphere(points);
  return capsuleRound(points, centre, centre, radius);
}

/** A capsule along the principal axis that gives the least volume, with ends drawn in as far as the points allow. */
export function fitCapsule(points: ArrayLike<number>): ConvexMesh {
  let best: { a: number[]; b: number[]; radius: number } | null = null;
  let least = Infinity;
  for (const axes of [principalAxes(points), WORLD_AXES])
    for (const axis of axes) {
      const capsule = capsuleAlong(points, axis);
      const length = Math.hypot(
        ...[0, 1, 2].map((k) => capsule.b[k] - capsule.a[k]),
      );
      const volume =
        Math.PI * capsule.radius ** 2 * (length + (4 / 3) * capsule.radius);
      if (volume < least) {
        least = volume;
        best = capsule;
      }
    }
  return capsuleRound(points, best!.a, best!.b, best!.radius);
}

/**
 * A capsule as a mesh that holds all points: its flat faces cut into the round shape, which is made larger by as much as
 * points stand out of them. A flat face's distance from the axis grows with the radius, whatever the length.
 */
function capsuleRound(
  points: ArrayLike<number>,
  a: readonly number[],
  b: readonly number[],
  radius: number,
): ConvexMesh {
  const first = capsuleMesh(a, b, radius);
  const planes = planesOf(first);
  let larger = 1;
  for (let k = 0; k < planes.length; k += 4) {
    const [x, y, z, d] = planes.subarray(k, k + 4);
    const axis = Math.max(
      x * a[0] + y * a[1] + z * a[2],
      x * b[0] + y * b[1] + z * b[2],
    );
    for (let i = 0; i < points.length; i += 3)
      larger = Math.max(
        larger,
        (x * points[i] + y * points[i + 1] + z * points[i + 2] - axis) /
          (d - axis),
      );
  }
  return larger > 1 ? capsuleMesh(a, b, radius * larger * 1.000001) : first;
}
