import { describe, expect, it } from "vitest";
import fc from "fast-check";
import {
  cube,
  joined,
  moved,
  sphere,
  strewn,
  tubeMesh,
} from "../../tests/shapes";
import { faceComponents } from "./components";
import { buildEdges } from "./edges";
import { hardAbove } from "./hard-angle";
import { faceCount, triangleCount, vertexCount } from "./mesh";
import { createMesh, keepFaces } from "./change-faces";
import { cornerFans, cornerNormals, faceNormals } from "./normals";
import { triangleArea } from "../space/sample";
import { triangulate } from "./triangulate";
import { coincident, weld } from "./weld";

describe("counts", () => {
  it("counts an n-gon as n − 2 triangles", () => {
    expect(triangleCount(cube())).toBe(12);
    expect(faceCount(cube())).toBe(6);
    expect(vertexCount(cube())).toBe(8);
  });
});

describe("keepFaces", () => {
  it("drops vertices nothing uses and keeps what hangs on corners", () => {
    const mesh = {
      ...cube(),
      uvs: Float32Array.from({ length: 48 }, (_, i) => i),
    };
    const keep = new Uint8Array(6);
    keep[2] = 1;
    const one = keepFaces(mesh, keep);
    expect(faceCount(one)).toBe(1);
    expect(vertexCount(one)).toBe(4);
    expect([...one.uvs!]).toEqual([16, 17, 18, 19, 20, 21, 22, 23]);
  });
});

describe("edges", () => {
  it("finds each edge of a closed mesh once, used twice", () => {
    const edges = buildEdges(cube());
    expect(edges.count).toBe(12);
    expect([...edges.uses].every((uses) => uses === 2)).toBe(true);
  });

  it("agrees with Euler on a sphere", () => {
    const mesh = sphere();
    const edges = buildEdges(mesh);
    expect(vertexCount(mesh) - edges.count + faceCount(mesh)).toBe(2);
  });

  it("sees the two open ends of a tube", () => {
    const open = [...buildEdges(tubeMesh(24, 3)).uses].filter(
      (uses) => uses === 1,
    );
    expect(open).toHaveLength(48);
  });
});

describe("triangulate", () => {
  it("covers an n-gon's area, also where it is not convex", () => {
    const star: number[] = [];
    for (let i = 0; i < 10; i++) {
      const r = i % 2 ? 0.4 : 1;
      star.push(
        r * Math.cos((Math.PI * i) / 5),
        0,
        -r * Math.sin((Math.PI * i) / 5),
      );
    }
    const mesh = createMesh({
      positions: new Float32Array(star),
      corners: Uint32Array.from({ length: 10 }, (_, i) => i),
      faceStarts: new Uint32Array([0, 10]),
    });
    const { vertices } = triangulate(mesh);
    expect(vertices.length).toBe(24);
    let area = 0;
    for (let t = 0; t < vertices.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => 3 * vertices[t + k]);
      const p = mesh.positions;
      area +=
        ((p[b] - p[a]) * -(p[c + 2] - p[a + 2]) +
          (p[c] - p[a]) * (p[b + 2] - p[a + 2])) /
        2;
    }
    expect(area).toBeCloseTo(5 * 0.4 * Math.sin(Math.PI / 5), 5);
  });

  it("cuts a bent quad so that it does not fold", () => {
    const mesh = createMesh({
      positions: new Float32Array([0, 0, 0, 1, 0, 0.9, 2, 0, 0, 1, 0, 1]),
      corners: new Uint32Array([0, 3, 2, 1]),
      faceStarts: new Uint32Array([0, 4]),
    });
    const { vertices } = triangulate(mesh);
    expect([...vertices].filter((v) => v === 1)).toHaveLength(2);
  });
});

describe("normals", () => {
  it("point away from the middle of a sphere", () => {
    const mesh = sphere();
    const normals = cornerNormals(mesh);
    for (let c = 0; c < mesh.corners.length; c++) {
      const v = 3 * mesh.corners[c];
      const dot = [0, 1, 2].reduce(
        (sum, k) => sum + normals[3 * c + k] * mesh.positions[v + k],
        0,
      );
      expect(dot).toBeGreaterThan(0.98);
    }
  });

  it("are those of the faces where all edges are hard", () => {
    const mesh = cube();
    const hard = { ...mesh, hard: new Uint8Array(24).fill(1) };
    const corner = cornerNormals(hard);
    const face = faceNormals(mesh);
    for (let c = 0; c < 24; c++)
      for (let k = 0; k < 3; k++)
        expect(corner[3 * c + k]).toBeCloseTo(
          face[3 * Math.floor(c / 4) + k],
          6,
        );
    expect(cornerFans(hard).count).toBe(24);
  });
});

describe("hardAbove", () => {
  it("marks a cube's edges at 60° and none at 120°", () => {
    expect(hardAbove(cube(), 60).count).toBe(12);
    expect(hardAbove(cube(), 120).count).toBe(0);
  });
});

describe("components", () => {
  it("tells pieces apart that share no vertex", () => {
    expect(faceComponents(joined(cube(), moved(cube(), 5, 0, 0))).count).toBe(
      2,
    );
  });
});

describe("weld", () => {
  it("makes one closed mesh of a soup of triangles", () => {
    const solid = sphere(8, 10);
    const soup = createMesh({
      positions: Float32Array.from(
        [...solid.corners].flatMap((v) => [
          ...solid.positions.subarray(3 * v, 3 * v + 3),
        ]),
      ),
      corners: Uint32Array.from(solid.corners, (_, c) => c),
      faceStarts: solid.faceStarts,
    });
    const { mesh, verticesGone } = weld(soup, 0);
    expect(vertexCount(mesh)).toBe(vertexCount(solid));
    expect(verticesGone).toBe(vertexCount(soup) - vertexCount(solid));
    expect([...buildEdges(mesh).uses].every((uses) => uses === 2)).toBe(true);
  });

  it("never moves a vertex farther than the tolerance", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.double({ min: 0, max: 0.5, noNaN: true }),
        (seed, tolerance) => {
          const { positions } = strewn(40, seed);
          const target = coincident(positions, tolerance);
          for (let v = 0; v < target.length; v++) {
            const w = target[v];
            expect(target[w]).toBe(w);
            const d = Math.hypot(
              ...[0, 1, 2].map(
                (k) => positions[3 * v + k] - positions[3 * w + k],
              ),
            );
            expect(d).toBeLessThanOrEqual(tolerance + 1e-6);
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  it("finds every pair that is near enough in a brute-force search", () => {
    const { positions } = strewn(60, 3);
    const target = coincident(positions, 0.2);
    for (let v = 0; v < target.length; v++) {
      if (target[v] !== v) continue;
      for (let w = 0; w < v; w++) {
        if (target[w] !== w) continue;
        const d = Math.hypot(
          ...[0, 1, 2].map((k) => positions[3 * v + k] - positions[3 * w + k]),
        );
        expect(d).toBeGreaterThan(0.2);
      }
    }
  });
});

it("cuts a quad with a corner on the line between its neighbours so that both triangles have area", () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 3 }),
      fc.double({ min: 0.1, max: 0.9, noNaN: true }),
      fc.double({ min: 0.05, max: 4, noNaN: true }),
      (turn, along, height) => {
        // The second corner lies between the first and the third.
        const places = [
          [0, 0, 0],
          [2 * along, 0, 0],
          [2, 0, 0],
          [1.3, height, 0.2],
        ];
        const mesh = createMesh({
          positions: Float32Array.from(
            places.flatMap((_, k) => places[(k + turn) % 4]),
          ),
          faceStarts: Uint32Array.of(0, 4),
          corners: Uint32Array.of(0, 1, 2, 3),
        });
        const { vertices } = triangulate(mesh);
        for (const t of [0, 1])
          expect(triangleArea(mesh.positions, vertices, t)).toBeGreaterThan(
            1e-3,
          );
      },
    ),
  );
});
