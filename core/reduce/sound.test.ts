import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  cube,
  joined,
  moved,
  sphere,
  torus,
  tubeMesh,
} from "../../tests/shapes";
import { reduceTogether } from "../decimate/reduce-together";
import { faceComponents } from "../mesh/components";
import { crossingFaces } from "../mesh/crossings";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { faceCount, triangleCount } from "../mesh/mesh";
import { faceNormals } from "../mesh/normals";
import { subdivide } from "../mesh/subdivide";
import { triangulate } from "../mesh/triangulate";
import { plainContext } from "../base/context";
import { boundsOf } from "../space/bounds";
import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import { pointAt } from "../space/vector";

const reduce = (mesh: Mesh, budget: number) =>
  reduceTogether([mesh], budget, plainContext())[0]!;
const scaled = (mesh: Mesh, x: number, y: number, z: number): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((p, i) => p * [x, y, z][i % 3]),
});
function crossings(mesh: Mesh): number {
  const { vertices, faces } = triangulate(mesh);
  const alone = Uint32Array.from(
    { length: mesh.positions.length / 3 },
    (_, v) => v,
  );
  return crossingFaces(
    mesh.positions,
    vertices,
    faces,
    faceComponents(mesh).ofFace,
    alone,
  ).faces.length;
}
const isClosed = (mesh: Mesh) => {
  const { uses, count } = buildEdges(mesh);
  return uses.slice(0, count).every((n) => n === 2);
};
/** Share of the faces that look the other way than the source where it is nearest. */
function turnedOver(source: Mesh, game: Mesh): number {
  const { vertices, faces } = triangulate(source);
  const closest = new ClosestPoint(buildBvh(source.positions, vertices));
  const theirs = faceNormals(source);
  const ours = faceNormals(game);
  let count = 0;
  for (let f = 0; f < faceCount(game); f++) {
    const at = [0, 0, 0];
    const [s, e] = [game.faceStarts[f], game.faceStarts[f + 1]];
    for (let c = s; c < e; c++)
      pointAt(game.positions, game.corners[c]).forEach((x, k) => {
        at[k] += x / (e - s);
      });
    const t = faces[closest.find(at[0], at[1], at[2])];
    let dot = 0;
    for (let k = 0; k < 3; k++) dot += ours[3 * f + k] * theirs[3 * t + k];
    if (dot < -0.2) count++;
  }
  return count / faceCount(game);
}
/** A box of hard edges cut fine, as modellers' programs give it. */
const fineBox = (x: number, y: number, z: number) =>
  scaled(
    subdivide({ ...cube(), creases: new Uint8Array(24).fill(100) }, 4),
    x,
    y,
    z,
  );

describe("what reduction leaves sound", () => {
  it("lets no faces pass through each other that did not", () => {
    const bodies = [
      scaled(sphere(32, 44), 1, 0.03, 1),
      torus(80, 20, 1, 0.06),
      sphere(
        44,
        60,
        1,
        (a, t) => 0.5 * Math.max(0, Math.sin(6 * a) * Math.cos(5 * t)) ** 3,
      ),
    ];
    for (const body of bodies) {
      expect(crossings(body)).toBe(0);
      for (const budget of [800, 240])
        expect(crossings(reduce(body, budget))).toBe(0);
    }
  });

  it("keeps thin rods and sheets as thick as they are", () => {
    const rod = scaled(sphere(120, 40), 0.01, 1, 0.01);
    const sheet = fineBox(1, 0.004, 0.7);
    for (const [thin, axis, budget] of [
      [rod, 0, 60],
      [sheet, 1, 12],
    ] as const) {
      const small = reduce(thin, budget);
      const thickness = (mesh: Mesh) => {
        const { min, max } = boundsOf(mesh.positions);
        return max[axis] - min[axis];
      };
      expect(thickness(small)).toBeGreaterThan(0.8 * thickness(thin));
      expect(isClosed(small)).toBe(true);
    }
  });

  it("gives a box of any sides back as a box, each of several with its own", () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.double({ min: 0.1, max: 2, noNaN: true }),
            fc.double({ min: 0.1, max: 2, noNaN: true }),
            fc.double({ min: 0.1, max: 2, noNaN: true }),
          ),
          { minLength: 1, maxLength: 4 },
        ),
        (sizes) => {
          const boxes = joined(
            ...sizes.map(([x, y, z], i) =>
              moved(fineBox(x, y, z), 6 * i, 0, 0),
            ),
          );
          const small = reduce(boxes, 12 * sizes.length);
          expect(triangleCount(small)).toBe(12 * sizes.length);
          expect(isClosed(small)).toBe(true);
          const corners = new Set<string>();
          for (let v = 0; v < small.positions.length / 3; v++)
            corners.add(
              pointAt(small.positions, v)
                .map((x) => x.toFixed(2))
                .join(" "),
            );
          sizes.forEach(([x, y, z], i) => {
            for (let k = 0; k < 8; k++) {
              const at = [
                6 * i + (k & 1 ? x : -x),
                k & 2 ? y : -y,
                k & 4 ? z : -z,
              ];
              const near = [...corners].some((text) =>
                text
                  .split(" ")
                  .every((word, a) => Math.abs(Number(word) - at[a]) < 0.02),
              );
              expect(near).toBe(true);
            }
          });
        },
      ),
      { numRuns: 10, seed: 3 },
    );
  });

  it("turns no face over, whatever the body and the budget", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 7 }),
        fc.double({ min: 0, max: 0.2, noNaN: true }),
        fc.integer({ min: 60, max: 900 }),
        (waves, height, budget) => {
          const body = joined(
            sphere(40, 60, 1, (a, t) => height * Math.sin(waves * a + 3 * t)),
            moved(torus(60, 24, 1, 0.4), 3, 0, 0),
          );
          const small = reduce(body, budget);
          expect(triangleCount(small)).toBeLessThanOrEqual(budget);
          expect(isClosed(small)).toBe(true);
          expect(turnedOver(body, small)).toBe(0);
        },
      ),
      { numRuns: 5, seed: 9 },
    );
  });

  it("draws nothing to where a piece was that was given up", () => {
    // Specks far off cost more triangles than they are worth beside the body.
    const specks = Array.from({ length: 12 }, (_, i) =>
      moved(scaled(cube(), 0.004, 0.004, 0.004), 3 + 0.2 * i, 2, 0),
    );
    const body = joined(tubeMesh(60, 60), ...specks);
    const small = reduce(body, 300);
    const { min, max } = boundsOf(small.positions);
    const kept = faceComponents(small).count - 1;
    if (kept < 12) expect(max[0]).toBeLessThan(3 + 0.2 * 12);
    expect(min[1]).toBeGreaterThan(-0.1);
    for (let v = 0; v < small.positions.length / 3; v++) {
      const [x, y] = pointAt(small.positions, v);
      const onBody = Math.abs(x) < 1.05;
      const onSpeck = Math.abs(y - 2) < 0.02;
      expect(onBody || onSpeck).toBe(true);
    }
  });
});
