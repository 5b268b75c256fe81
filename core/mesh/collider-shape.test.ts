import fc from "fast-check";
import { expect, it } from "vitest";
import type { ColliderShape } from "./collider-shape";
import { capsuleMesh, meshOfShape, shapeOf } from "./collider-shape";
import { buildEdges } from "./edges";
import type { Hull, HullKind } from "./hull";
import { meshFromTriangles } from "./change-faces";
import { rotation, transformHull } from "./transform";

type Implicit = Exclude<ColliderShape, { type: "mesh" }>;

const hullOf = (shape: Implicit): Hull => ({
  name: "a",
  kind: shape.type,
  ...meshOfShape(shape),
});

/** Largest distance by which points stand out of a shape. */
function standOut(shape: Implicit, p: Float32Array): number {
  let most = -Infinity;
  for (let i = 0; i < p.length; i += 3) {
    const d = [0, 1, 2].map((k) => p[i + k] - shape.centre[k]);
    const along = (axis: readonly number[]) =>
      d.reduce((sum, x, k) => sum + x * axis[k], 0);
    if (shape.type === "box")
      shape.axes.forEach((axis, a) => {
        most = Math.max(most, Math.abs(along(axis)) - shape.size[a] / 2);
      });
    else if (shape.type === "sphere")
      most = Math.max(most, Math.hypot(...d) - shape.radius);
    else {
      const at = Math.max(
        -shape.height / 2,
        Math.min(shape.height / 2, along(shape.axis)),
      );
      most = Math.max(
        most,
        Math.hypot(...d.map((x, k) => x - at * shape.axis[k])) - shape.radius,
      );
    }
  }
  return most;
}

const length = fc.double({ min: 0.1, max: 10, noNaN: true });
const place = fc.tuple(
  ...[0, 1, 2].map(() => fc.double({ min: -5, max: 5, noNaN: true })),
) as fc.Arbitrary<[number, number, number]>;
const AXES: [number[], number[], number[]] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];
const shapes: fc.Arbitrary<Implicit> = fc.oneof(
  fc.record({
    type: fc.constant("box" as const),
    size: fc.tuple(length, length, length),
    centre: place,
    axes: fc.constant(AXES),
  }),
  fc.record({
    type: fc.constant("sphere" as const),
    radius: length,
    centre: place,
  }),
  fc.record({
    type: fc.constant("capsule" as const),
    radius: length,
    height: length,
    centre: place,
    axis: fc.constant([0, 1, 0] as const),
  }),
);

it("gives back the measures of the shape that a hull was made as, turned anyhow, holding all of it", () => {
  fc.assert(
    fc.property(shapes, length, place, (given, angle, [x, y, z]) => {
      const size = Math.hypot(x, y, z);
      const turn = rotation(
        size > 1e-9 ? [x / size, y / size, z / size] : [0, 0, 1],
        angle,
      );
      const hull = transformHull(hullOf(given), turn, "a");
      const found = shapeOf(hull) as Implicit;
      expect(found.type).toBe(given.type);
      const extent = Math.max(...hull.positions.map(Math.abs));
      const near = (a: number, b: number) =>
        expect(Math.abs(a - b)).toBeLessThan(1e-5 * extent);
      if (found.type === "box" && given.type === "box") {
        const sorted = (list: readonly number[]) =>
          list.toSorted((a, b) => a - b);
        sorted(found.size).forEach((x, k) => near(x, sorted(given.size)[k]));
      } else if (found.type !== "box" && given.type !== "box")
        near(found.radius, given.radius);
      if (found.type === "capsule" && given.type === "capsule")
        near(found.height, given.height);
      expect(standOut(found, hull.positions)).toBeLessThan(1e-5 * extent);
    }),
    { numRuns: 60 },
  );
});

it("leaves as they are what no simple shape stands for", () => {
  const box = hullOf({
    type: "box",
    size: [1, 2, 3],
    centre: [0, 0, 0],
    axes: AXES,
  });
  const as = (kind: HullKind, positions = box.positions) =>
    shapeOf({ ...box, kind, positions });
  expect(as("convex")).toEqual({ type: "mesh", convex: true });
  expect(as("prism")).toEqual({ type: "mesh", convex: true });
  expect(as("ground")).toEqual({ type: "mesh", convex: false });
  // A corner was drawn out: it is called a box and is none.
  const skew = box.positions.map((x, i) => (i < 3 ? x - 4 : x));
  expect(as("box", skew)).toEqual({ type: "mesh", convex: true });
});

it("draws round shapes as closed meshes, outside out", () => {
  for (const end of [0, 2]) {
    const { positions, triangles } = capsuleMesh([0, 0, 0], [0, end, 0], 1);
    const { uses } = buildEdges(meshFromTriangles(positions, triangles));
    expect(uses.every((use) => use === 2)).toBe(true);
    let volume = 0;
    for (let t = 0; t < triangles.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map((k) =>
        positions.subarray(3 * triangles[t + k], 3 * triangles[t + k] + 3),
      );
      volume +=
        (a[0] * (b[1] * c[2] - b[2] * c[1]) +
          a[1] * (b[2] * c[0] - b[0] * c[2]) +
          a[2] * (b[0] * c[1] - b[1] * c[0])) /
        6;
    }
    const round = Math.PI * end + (4 / 3) * Math.PI;
    expect(volume / round).toBeGreaterThan(0.9);
    expect(volume / round).toBeLessThan(1);
  }
});
