import { describe, expect, it } from "vitest";
import { DEMO_ASSETS } from "../../demo/index";
import { cadPart } from "../../tests/cad-like";
import { DIRTY, scanLike } from "../../tests/scan-like";
import { cube, sphere } from "../../tests/shapes";
import { measureDeviation } from "../space/deviation";
import { faceComponents } from "../mesh/components";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { keepFaces } from "../mesh/change-faces";
import { triangulate } from "../mesh/triangulate";
import { SETTLE_RULES, settleMesh } from "./settle";
import {
  bordersOf,
  expectManifold,
  thinnest,
  necked,
} from "../../tests/settle-meshes";

describe("settling", () => {
  it("takes no surface for a fin, however few faces it has", () => {
    // Patches that nobody stitched hang by an edge at faces that reach across the part.
    const others = SETTLE_RULES.map(({ value }) => value).filter(
      (rule) => rule !== "sheets" && rule !== "coincident",
    );
    const surface = (of: Mesh) => ({
      positions: of.positions,
      triangles: triangulate(of).vertices,
    });
    for (const seed of [6, 7, 10]) {
      const mesh = cadPart(seed, 12_000, { strays: 0.5 });
      const settled = settleMesh(mesh, new Set(others)).mesh;
      const off = measureDeviation(surface(mesh), surface(settled));
      expect(off.rms).toBeLessThan(1e-3);
    }
  });

  it("leaves a clean mesh as it is, polygons and all", () => {
    for (const mesh of [cube(), sphere(20, 30)]) {
      const settled = settleMesh(mesh);
      expect(settled.mesh).toBe(mesh);
      expect(settled.done).toEqual([]);
    }
  });

  it("finds nothing to settle in the demo", () => {
    for (const make of Object.values(DEMO_ASSETS))
      for (const { source } of make().parts)
        if (source) expect(settleMesh(source).done).toEqual([]);
  });

  it("makes every scan manifold and leaves closed ones closed", () => {
    for (const seed of [1, 2, 3, 4]) {
      const scan = scanLike(seed, 20_000, seed % 2 ? {} : DIRTY);
      const { mesh } = settleMesh(scan);
      expectManifold(mesh);
      expect(thinnest(mesh)).toBeGreaterThan(1e-6);
      if (seed % 2) expect(bordersOf(mesh)).toBe(0);
      expect(faceCount(mesh)).toBeGreaterThan(0.95 * faceCount(scan));
    }
  });

  it("stitches nearly all borders of CAD patches that were tessellated apart", () => {
    for (const seed of [1, 2, 3, 4, 5, 6]) {
      const part = cadPart(seed, 3000, { open: 0 });
      const { mesh } = settleMesh(part);
      expectManifold(mesh);
      expect(bordersOf(mesh)).toBeLessThan(0.06 * bordersOf(part));
    }
  });

  it("closes them fully where the patches have the same vertices", () => {
    for (const seed of [1, 2, 3]) {
      const part = cadPart(seed, 3000, { open: 0, apart: 0 });
      expect(bordersOf(settleMesh(part).mesh)).toBe(0);
    }
  });

  it("gives the same bytes each time, and names the source's face of each of its own", () => {
    const scan = scanLike(2, 10_000, DIRTY);
    const [one, two] = [settleMesh(scan), settleMesh(scan)];
    expect(one.mesh.corners).toEqual(two.mesh.corners);
    expect(one.mesh.positions).toEqual(two.mesh.positions);
    expect(one.faces).toHaveLength(faceCount(one.mesh));
    expect(Math.max(...one.faces!)).toBeLessThan(faceCount(scan));
  });
});

describe("necks", () => {
  it("too thin to mean anything are cut and closed, which leaves what they joined", () => {
    const thin = necked(1e-4);
    expectManifold(thin);
    expect(bordersOf(thin)).toBe(0);
    expect(faceComponents(thin).count).toBe(1);
    const { mesh, faces, done } = settleMesh(thin);
    expect(done).toMatchObject([{ rule: "necks", count: 1 }]);
    expect(done[0].places[0].at[0]).toBeCloseTo(1.25, 3);
    expectManifold(mesh);
    expect(bordersOf(mesh)).toBe(0);
    expect(faceComponents(mesh).count).toBe(2);
    expect(faceCount(mesh)).toBe(faceCount(thin) + 2);
    expect(faces!.length).toBe(faceCount(mesh));
    expect(Math.max(...faces!)).toBeLessThan(faceCount(thin));
    expect(settleMesh(thin, new Set(["necks"])).mesh).toBe(thin);
  });

  it("that meet a border stay, and are not counted", () => {
    const thin = necked(1e-4);
    // A face at the neck is missing: nothing goes round its vertices.
    const neck = thin.positions.length / 3 - 3;
    const at = thin.corners.indexOf(neck);
    const keep = new Uint8Array(faceCount(thin)).fill(1);
    keep[(at / 3) | 0] = 0;
    const open = keepFaces(thin, keep);
    expect(settleMesh(open).done).toEqual([]);
  });

  it("of a size that may be meant stay", () => {
    const wide = necked(0.02);
    expect(settleMesh(wide).mesh).toBe(wide);
  });
});
