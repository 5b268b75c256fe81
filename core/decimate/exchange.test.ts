import { describe, expect, it } from "vitest";
import { moved, sphere, torus } from "../../tests/shapes";
import { plainContext } from "../base/context";
import { surfaceOf } from "../reduce/operations/judge";
import { measureDeviation } from "../space/deviation";
import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import { Collapser } from "./collapse";
import { buildEdges } from "../mesh/edges";
import { exchangeWorst } from "./exchange";
import { Fit } from "./fit";
import type { Mesh } from "../mesh/mesh";
import { meshFromTriangles } from "../mesh/change-faces";
import { drawSamples, samplesOf } from "./samples";
import { gatherSoup } from "./soup";
import { oneMesh } from "./states";

/** Fits of meshes that were reduced together, and what they are fits of. */
function fitsOf(meshes: readonly Mesh[], budget: number) {
  const soup = gatherSoup(meshes);
  const samples = drawSamples(soup, 12_000);
  const source = {
    positions: Float32Array.from(soup.positions),
    triangles: soup.triangles.slice(),
  };
  const near = meshes.map((_, m) =>
    oneMesh({ ...soup, triangles: soup.triangles.slice() }, m),
  );
  new Collapser(soup, meshes.length).run(budget, { progress() {}, check() {} });
  const fits = meshes.map((_, m) => {
    const own = oneMesh(soup, m);
    const nearest = new ClosestPoint(
      buildBvh(Float32Array.from(near[m].positions), near[m].triangles),
    );
    const fit = new Fit(own, samplesOf(samples, m, own), near[m], nearest);
    fit.run(0, 2, () => {});
    return fit;
  });
  return { fits, source };
}

const meshOf = ({ mesh }: Fit) =>
  meshFromTriangles(
    Float32Array.from(mesh.positions),
    Uint32Array.from(mesh.triangles),
  );

const total = (fits: readonly Fit[]) =>
  fits.reduce((sum, fit) => sum + fit.mesh.owner.length, 0);

const bumpy = () =>
  sphere(60, 80, 1, (a, h) => 0.2 * Math.sin(4 * a) * Math.cos(h) ** 3);

describe("exchanging triangles", () => {
  it.each([120, 300, 800])(
    "brings %i of them nearer to the source, and never takes more",
    (budget) => {
      const { fits, source } = fitsOf(
        [bumpy(), moved(torus(60, 30), 3, 0, 0)],
        budget,
      );
      const before = measureDeviation(source, surfaceOf(fits.map(meshOf)));
      const next = exchangeWorst(fits, {}, plainContext());
      const after = measureDeviation(source, surfaceOf(next.map(meshOf)));
      expect(total(next)).toBeLessThanOrEqual(total(fits));
      expect(total(next)).toBeGreaterThanOrEqual(0.995 * total(fits));
      // A ball and a ring of a hundred triangles have none to spare.
      expect(after.rms).toBeLessThan(
        budget > 200 ? before.rms : 1.0001 * before.rms,
      );
    },
  );

  it("leaves closed bodies closed, in as many pieces", () => {
    const { fits } = fitsOf([bumpy(), moved(sphere(30, 40), 3, 0, 0)], 400);
    const next = exchangeWorst(fits, {}, plainContext());
    expect(next).toHaveLength(2);
    for (const fit of next)
      expect(buildEdges(meshOf(fit)).uses.every((uses) => uses === 2)).toBe(
        true,
      );
  });

  it("gives the same bytes each time", () => {
    const once = () =>
      exchangeWorst(fitsOf([bumpy()], 250).fits, {}, plainContext())[0].mesh;
    const [a, b] = [once(), once()];
    expect(a.triangles).toEqual(b.triangles);
    expect(a.positions).toEqual(b.positions);
  });

  it("can be given up on the way", () => {
    const { fits } = fitsOf([bumpy()], 400);
    const context = {
      ...plainContext(),
      check() {
        throw new Error("given up");
      },
    };
    expect(() => exchangeWorst(fits, {}, context)).toThrow("given up");
  });
});
