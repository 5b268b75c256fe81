import type { ConvexMesh, HullKind } from "../../mesh/hull";
import { convexHull } from "./convex-hull";
import { fitBox, fitCapsule, fitSphere } from "./fitted-shapes";
import { fitPrism } from "./prism";
import { StandOff } from "./stand-off";

/** Vertices of the hull that shapes are held against. */
const VERTICES = 255;
/** Sides of a prism that is cheaper than the hull. */
const SIDES = 8;

/**
 * The cheapest shape that an engine has for points within an error: a sphere, a capsule, a box, a prism, or else their
 * hull. Each holds all that the hull holds.
 * @param hull of the points
 * @param error how far a shape may stand off the hull, metres
 */
export function bestShape(
  points: ArrayLike<number>,
  hull: ConvexMesh,
  error: number,
): { kind: HullKind; mesh: ConvexMesh } {
  // The hull to be kept may have fewer vertices than the points need; fitting to all points of a scan takes long.
  const full = convexHull(points, VERTICES) ?? hull;
  const corners = full.positions;
  const off = new StandOff(full.positions, full.triangles);
  const cheap: [HullKind, () => ConvexMesh][] = [
    ["sphere", () => fitSphere(corners)],
    ["capsule", () => fitCapsule(corners)],
    ["box", () => fitBox(corners)],
    ["prism", () => fitPrism(corners, SIDES)],
  ];
  for (const [kind, fit] of cheap) {
    const mesh = fit();
    // A convex shape is farthest from what it holds at a corner.
    let far = 0;
    const { positions: p } = mesh;
    for (let i = 0; i < p.length && far <= error; i += 3)
      far = Math.max(far, off.at(p[i], p[i + 1], p[i + 2]));
    if (p.length && far <= error) return { kind, mesh };
  }
  return { kind: "convex", mesh: hull };
}
