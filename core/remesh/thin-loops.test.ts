import { describe, expect, it } from "vitest";
import { torus, tubeMesh } from "../../tests/shapes";
import { buildEdges } from "../mesh/edges";
import { faceCount, triangleCount } from "../mesh/mesh";
import { createMesh } from "../mesh/change-faces";
import { pairQuads, quadShare } from "./pair-quads";
import { edgeLoop, edgeRing, neighboursOf } from "../mesh/select";
import {
  collapseEdges,
  dissolveEdges,
  loopCosts,
  slideLoops,
  thinLoops,
} from "./thin-loops";

const tube = tubeMesh(16, 12);

/** A torus of quads. */
function ring(around: number, section: number) {
  const triangles = torus(around, section);
  const corners: number[] = [];
  for (let t = 0; t < triangles.corners.length; t += 6) {
    const [a, b, c] = triangles.corners.subarray(t, t + 3);
    corners.push(a, b, c, triangles.corners[t + 5]);
  }
  return createMesh({
    positions: triangles.positions,
    corners: Uint32Array.from(corners),
    faceStarts: new Uint32Array(corners.length / 4 + 1).map((_, f) => 4 * f),
  });
}

describe("thin loops", () => {
  it("finds the loops round a straight tube free of cost, and takes those first", () => {
    const costs = loopCosts(neighboursOf(tube));
    const free = costs.filter((loop) => loop.error < 1e-6);
    expect(free).toHaveLength(11);
    expect(costs[0].saved).toBe(32);
    const { mesh, loops, error } = thinLoops(tube, 32, 1e-5, () => {});
    expect(loops).toBe(11);
    expect(error).toBeLessThan(1e-6);
    expect(triangleCount(mesh)).toBe(32);
    expect(quadShare(mesh)).toBe(1);
  });

  it("keeps a ring of quads closed and of quads down to a count", () => {
    const body = ring(48, 24);
    const { mesh } = thinLoops(body, 600, Infinity, () => {});
    expect(triangleCount(mesh)).toBeLessThanOrEqual(600);
    expect(triangleCount(mesh)).toBeGreaterThan(300);
    expect(quadShare(mesh)).toBe(1);
    expect([...buildEdges(mesh).uses].every((uses) => uses === 2)).toBe(true);
  });

  it("stops where the next loop would move the surface too far", () => {
    const { error } = thinLoops(ring(48, 24), 4, 0.02, () => {});
    expect(error).toBeLessThanOrEqual(0.02);
  });

  it("takes single loops out with their vertices", () => {
    const near = neighboursOf(tube);
    const inner = near.edges.first.findIndex(
      (_, e) => near.edges.uses[e] === 2,
    );
    const loop = edgeLoop(near, near.edges.first[inner]);
    const thin = dissolveEdges(tube, near, loop);
    expect(triangleCount(thin)).toBe(triangleCount(tube) - 2 * loop.length);
    expect(thin.positions.length).toBeLessThan(tube.positions.length);
  });

  it("brings rings and loops to their middle", () => {
    const near = neighboursOf(tube);
    const upright = near.edges.first.findIndex((c, e) => {
      const [a, b] = [
        near.edges.vertices[2 * e],
        near.edges.vertices[2 * e + 1],
      ];
      return near.edges.uses[e] === 2 && c >= 0 && Math.abs(a - b) === 16;
    });
    const strip = edgeRing(near, near.edges.first[upright]);
    const less = collapseEdges(tube, near, strip);
    expect(faceCount(less)).toBe(faceCount(tube) - 16);
    const border = near.edges.uses.findIndex((uses) => uses === 1);
    const end = edgeLoop(near, near.edges.first[border]);
    const closed = collapseEdges(tube, near, end);
    expect([...buildEdges(closed).uses].filter((n) => n === 1)).toHaveLength(
      16,
    );
  });

  it("slides a loop onto its neighbour and says how many vertices were welded", () => {
    const near = neighboursOf(tube);
    const across = near.edges.uses.findIndex(
      (uses, e) =>
        uses === 2 &&
        Math.abs(near.edges.vertices[2 * e] - near.edges.vertices[2 * e + 1]) <
          16,
    );
    for (const side of [0, 1] as const) {
      const { mesh, welded } = slideLoops(
        tube,
        near,
        [near.edges.first[across]],
        side,
      );
      expect(welded).toBe(16);
      expect(triangleCount(mesh)).toBe(triangleCount(tube) - 32);
    }
  });
});

describe("pairing triangles", () => {
  it("finds all quads of a split grid again", () => {
    expect(quadShare(pairQuads(torus(40, 20)))).toBe(1);
  });

  it("keeps lines between materials", () => {
    const mesh = torus(40, 20);
    const faceMaterials = new Uint16Array(1600).map((_, f) => f % 2);
    expect(
      quadShare(pairQuads({ ...mesh, faceMaterials, materials: ["a", "b"] })),
    ).toBeLessThan(0.9);
  });
});
