import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { seededRandom } from "../../../base/random";
import { keepFaces } from "../../../mesh/change-faces";
import { buildEdges } from "../../../mesh/edges";
import type { Mesh } from "../../../mesh/mesh";
import { faceCount } from "../../../mesh/mesh";
import { sphere, torus } from "../../../../tests/shapes";
import { prepareUnwrap } from "../chart";
import { cutToDisc } from "../cut";
import { flatten } from "../flatten";

/** A patch that grows from a face by random neighbours until it has so many faces. */
function randomPatch(mesh: Mesh, size: number, seed: number): Mesh {
  const random = seededRandom(seed);
  const { first, second, count } = buildEdges(mesh);
  const next: number[][] = Array.from({ length: faceCount(mesh) }, () => []);
  const faceOf = new Uint32Array(mesh.corners.length);
  for (let f = 0; f < faceCount(mesh); f++)
    faceOf.fill(f, mesh.faceStarts[f], mesh.faceStarts[f + 1]);
  for (let e = 0; e < count; e++) {
    if (second[e] < 0) continue;
    const [f, g] = [faceOf[first[e]], faceOf[second[e]]];
    next[f].push(g);
    next[g].push(f);
  }
  const keep = new Uint8Array(next.length);
  const front = [Math.floor(random() * next.length)];
  let kept = 0;
  while (kept < size && front.length) {
    const [f] = front.splice(Math.floor(random() * front.length), 1);
    if (keep[f]) continue;
    keep[f] = 1;
    kept++;
    for (const g of next[f]) if (!keep[g]) front.push(g);
  }
  return keepFaces(mesh, keep);
}

const bodies: Record<string, Mesh> = {
  ball: sphere(24, 32, 1, (a, h) => 0.25 * Math.sin(4 * a) * Math.cos(5 * h)),
  ring: torus(36, 18, 1, 0.4),
};

describe("random discs", () => {
  it("are laid out without a turned triangle, with their area, whatever their outline", () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...Object.keys(bodies)),
        fc.integer({ min: 3, max: 400 }),
        fc.nat(1e6),
        (name, size, seed) => {
          const m = prepareUnwrap(randomPatch(bodies[name], size, seed));
          const faces = [...m.areas.keys()];
          const cut = cutToDisc(m, faces, new Int32Array(faces.length), 0);
          // What holds together by a vertex alone, or can't be cut to a disc, is no disc.
          if (!cut) return;
          const { uv, flipped, stretch } = flatten(cut.chart);
          expect(flipped).toBe(0);
          expect(stretch).toBeGreaterThanOrEqual(1 - 1e-9);
          const { triangles, vertexCount } = cut.chart;
          expect(uv.length).toBe(2 * vertexCount);
          let flat = 0;
          for (let t = 0; t < triangles.length; t += 3) {
            const [a, b, c] = [0, 1, 2].map((k) => 2 * triangles[t + k]);
            const twice =
              (uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) -
              (uv[c] - uv[a]) * (uv[b + 1] - uv[a + 1]);
            expect(twice).toBeGreaterThan(0);
            flat += twice / 2;
          }
          const round = m.areas.reduce((sum, area) => sum + area, 0);
          expect(flat / round).toBeCloseTo(1, 6);
        },
      ),
      { numRuns: 60 },
    );
  });
});
