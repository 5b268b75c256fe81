import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { sheetMesh, sphere } from "../../tests/shapes";
import { seededRandom } from "../base/random";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import type { WantedVertex } from "./insert-vertices";
import { insertVertices } from "./insert-vertices";
import type { Triangles } from "./soup";
import { gatherSoup } from "./soup";
import { oneMesh } from "./states";
import { cross, shape } from "../mesh/triangle-shape";

const stateOf = (mesh: Mesh) => oneMesh(gatherSoup([mesh]), 0);

/** Places over random triangles, a little off them. */
function places(mesh: Triangles, count: number, seed: number): WantedVertex[] {
  const random = seededRandom(seed);
  return Array.from({ length: count }, () => {
    const triangle = Math.floor(random() * mesh.owner.length);
    let [u, v] = [random(), random()];
    if (u + v > 1) [u, v] = [1 - u, 1 - v];
    const corner = (k: number) => mesh.triangles[3 * triangle + k];
    const point = [0, 1, 2].map(
      (d) =>
        (1 - u - v) * mesh.positions[3 * corner(0) + d] +
        u * mesh.positions[3 * corner(1) + d] +
        v * mesh.positions[3 * corner(2) + d] +
        0.01 * (random() - 0.5),
    );
    return { triangle, u, v, point };
  });
}

const usesOf = ({ triangles }: Triangles) =>
  buildEdges({
    corners: triangles,
    faceStarts: Uint32Array.from(
      { length: triangles.length / 3 + 1 },
      (_, t) => 3 * t,
    ),
  });

describe("putting vertices in", () => {
  it("adds two triangles for each, never more than wanted, and tears nothing", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 40 }),
        fc.integer({ min: 1, max: 9999 }),
        (most, seed) => {
          const mesh = stateOf(sphere(9, 12));
          const next = insertVertices(mesh, places(mesh, 60, seed), most);
          const more = (next.positions.length - mesh.positions.length) / 3;
          expect(more).toBeLessThanOrEqual(most);
          expect(next.owner.length - mesh.owner.length).toBe(2 * more);
          const { uses, count } = usesOf(next);
          for (let e = 0; e < count; e++) expect(uses[e]).toBe(2);
        },
      ),
    );
  });

  it("turns no triangle over and makes none much thinner", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 9999 }), (seed) => {
        const mesh = stateOf(sphere(9, 12));
        const p = mesh.positions;
        const next = insertVertices(mesh, places(mesh, 60, seed), 60);
        let thinnest = 1;
        for (let t = 0; t < mesh.triangles.length; t += 3) {
          const [a, b, c] = mesh.triangles.subarray(t, t + 3);
          thinnest = Math.min(thinnest, shape(p, a, b, c, cross(p, a, b, c)));
        }
        for (let t = 0; t < next.triangles.length; t += 3) {
          const [a, b, c] = next.triangles.subarray(t, t + 3);
          const n = cross(next.positions, a, b, c);
          expect(shape(next.positions, a, b, c, n)).toBeGreaterThan(
            Math.min(0.12, 0.9 * thinnest) - 1e-12,
          );
          const out = [0, 1, 2].reduce(
            (sum, k) => sum + n[k] * next.positions[3 * a + k],
            0,
          );
          expect(out).toBeGreaterThan(0);
        }
      }),
    );
  });

  it("keeps the numbers of triangles and hands material and ID on to the pieces", () => {
    const mesh = stateOf(sheetMesh(4));
    mesh.material.forEach((_, t) => (mesh.material[t] = t % 3));
    mesh.id.forEach((_, t) => (mesh.id[t] = t % 5));
    const [u, v] = [1 / 3, 1 / 3];
    const triangle = 7;
    const point = [0, 1, 2].map(
      (d) =>
        [0, 1, 2].reduce(
          (sum, k) =>
            sum + mesh.positions[3 * mesh.triangles[3 * triangle + k] + d],
          0,
        ) / 3,
    );
    const next = insertVertices(mesh, [{ triangle, u, v, point }], 1);
    const last = mesh.owner.length;
    expect([...next.material.subarray(0, last)]).toEqual([...mesh.material]);
    for (const t of [last, last + 1]) {
      expect(next.material[t]).toBe(mesh.material[triangle]);
      expect(next.id[t]).toBe(mesh.id[triangle]);
    }
  });

  it("leaves open borders alone", () => {
    const mesh = stateOf(sheetMesh(2));
    const { uses, first, count } = usesOf(mesh);
    for (let e = 0; e < count; e++) {
      if (uses[e] !== 1) continue;
      const triangle = Math.floor(first[e] / 3);
      const k = first[e] % 3;
      const w = [0.5, 0.5, 0.5];
      w[(k + 2) % 3] = 0;
      const next = insertVertices(
        mesh,
        [{ triangle, u: w[1], v: w[2], point: [0, 0, 0] }],
        1,
      );
      expect(next.owner.length).toBe(mesh.owner.length);
    }
  });
});
