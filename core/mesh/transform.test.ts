import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { sphere } from "../../tests/shapes";
import { volumeOf } from "../collide/methods/convex-hull";
import { unit } from "../space/vector";
import type { Matrix } from "./transform";
import {
  cofactorOf,
  determinant,
  IDENTITY,
  multiply,
  rotation,
  transformHull,
  transformMesh,
  transformPoints,
  translation,
} from "./transform";
import { cornerNormals } from "./normals";
import { triangulate } from "./triangulate";

const number = fc.double({ min: -3, max: 3, noNaN: true });
const triple = fc.tuple(number, number, number);
const way = triple
  .filter((v) => Math.hypot(...v) > 0.1)
  .map((v) => unit(v) as [number, number, number]);
const turn = fc
  .tuple(way, fc.double({ min: -3, max: 3, noNaN: true }))
  .map(([axis, angle]) => rotation(axis, angle));
const size = fc.constantFrom(-2, -1, -0.5, 0.4, 1, 1.7);
const stretch = fc
  .tuple(size, size, size)
  .map(([x, y, z]): Matrix => [x, 0, 0, 0, 0, y, 0, 0, 0, 0, z, 0, 0, 0, 0, 1]);
/** Stretched, turned and moved. */
const matrix = fc
  .tuple(stretch, turn, triple)
  .map(([s, r, t]) => multiply(translation(...t), multiply(r, s)));
const at = (m: Matrix, p: readonly number[]) =>
  Array.from(transformPoints(Float32Array.from(p), m));
const near = (a: ArrayLike<number>, b: ArrayLike<number>, by = 1e-4) =>
  expect(Math.max(...Array.from(a, (x, i) => Math.abs(x - b[i])))).toBeLessThan(
    by,
  );

describe("matrices", () => {
  it("one after the other do what their product does", () => {
    fc.assert(
      fc.property(matrix, matrix, triple, (a, b, p) => {
        near(at(multiply(a, b), p), at(a, at(b, p)), 1e-3);
        near(multiply(a, IDENTITY), a, 1e-12);
        near(multiply(IDENTITY, a), a, 1e-12);
        expect(determinant(multiply(a, b))).toBeCloseTo(
          determinant(a) * determinant(b),
          6,
        );
      }),
    );
  });

  it("that turn keep lengths and their axis, by the right hand", () => {
    fc.assert(
      fc.property(way, number, triple, (axis, angle, p) => {
        const m = rotation(axis, angle);
        expect(determinant(m)).toBeCloseTo(1, 9);
        expect(Math.hypot(...at(m, p))).toBeCloseTo(Math.hypot(...p), 4);
        near(at(m, axis), axis, 1e-5);
        near(multiply(m, rotation(axis, -angle)), IDENTITY, 1e-9);
      }),
    );
    near(at(rotation([0, 0, 1], Math.PI / 2), [1, 0, 0]), [0, 1, 0]);
    near(at(rotation([0, 1, 0], Math.PI / 2), [0, 0, 1]), [1, 0, 0]);
    near(at(rotation([1, 0, 0], Math.PI / 2), [0, 1, 0]), [0, 0, 1]);
  });

  it("have cofactors that keep normals upright on what is stretched", () => {
    fc.assert(
      fc.property(matrix, triple, triple, (m, u, v) => {
        const cross = (a: readonly number[], b: readonly number[]) => [
          a[1] * b[2] - a[2] * b[1],
          a[2] * b[0] - a[0] * b[2],
          a[0] * b[1] - a[1] * b[0],
        ];
        const still = [...m.slice(0, 12), 0, 0, 0, 1];
        const c = cofactorOf(m);
        const n = cross(u, v);
        const carried = [0, 1, 2].map(
          (k) => c[k] * n[0] + c[3 + k] * n[1] + c[6 + k] * n[2],
        );
        near(carried, cross(at(still, u), at(still, v)), 1e-3);
      }),
    );
  });
});

describe("what is moved by a matrix", () => {
  const bare = sphere(6, 8);
  const ball = {
    ...bare,
    normals: cornerNormals(bare),
    cage: Float32Array.from(
      Array.from(bare.corners).flatMap((v) =>
        [0, 1, 2].map((k) => 0.1 * bare.positions[3 * v + k]),
      ),
    ),
  };

  it("keeps its faces outwards and its normals on them, mirrored or not", () => {
    fc.assert(
      fc.property(matrix, (m) => {
        const moved = transformMesh(ball, m);
        const { vertices } = triangulate(moved);
        const before = volumeOf(ball.positions, triangulate(ball).vertices);
        expect(volumeOf(moved.positions, vertices)).toBeCloseTo(
          before * Math.abs(determinant(m)),
          3,
        );
        const normals = moved.normals!;
        const middle = at(m, [0, 0, 0]);
        // A cage is told from its vertices: it is turned, and not moved along.
        const still = [...m.slice(0, 12), 0, 0, 0, 1];
        for (let c = 0; c < moved.corners.length; c++) {
          const n = normals.subarray(3 * c, 3 * c + 3);
          expect(Math.hypot(...n)).toBeCloseTo(1, 4);
          const v = 3 * moved.corners[c];
          const outwards = [0, 1, 2].reduce(
            (sum, k) => sum + n[k] * (moved.positions[v + k] - middle[k]),
            0,
          );
          expect(outwards).toBeGreaterThan(0);
          const own = bare.positions.subarray(v, v + 3).map((x) => 0.1 * x);
          near(moved.cage!.subarray(3 * c, 3 * c + 3), at(still, [...own]));
        }
      }),
      { numRuns: 30 },
    );
  });

  it("is a hull that holds as much, of the name it is given", () => {
    fc.assert(
      fc.property(matrix, (m) => {
        const { vertices: triangles } = triangulate(ball);
        const hull = {
          ...{ name: "a", kind: "convex" as const },
          ...{ positions: ball.positions, triangles },
        };
        const moved = transformHull(hull, m, "b");
        expect(moved.name).toBe("b");
        expect(volumeOf(moved.positions, moved.triangles)).toBeCloseTo(
          volumeOf(hull.positions, triangles) * Math.abs(determinant(m)),
          3,
        );
        // What it was made from stays as it is.
        expect(hull.triangles).toEqual(triangulate(ball).vertices);
      }),
      { numRuns: 30 },
    );
  });
});
