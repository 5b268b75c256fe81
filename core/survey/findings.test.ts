import { describe, expect, it } from "vitest";
import { PLANTS, thirtyMeshes } from "../../tests/planted";
import { joined, moved, sphere } from "../../tests/shapes";
import { faceCount } from "../mesh/mesh";
import { reverseFaces } from "../mesh/change-faces";
import { seededRandom } from "../base/random";
import { MENDS, mendMesh } from "./methods/mend";
import { surveyMesh } from "./methods/survey-mesh";

const TOLERANCE = 1e-5;
const RULES = { tolerance: TOLERANCE };
const look = (mesh: Parameters<typeof surveyMesh>[1]) =>
  surveyMesh("part", mesh, TOLERANCE, true);
const ALL = new Set(MENDS.map(({ value }) => value));
const meshes = thirtyMeshes();

describe("thirty sound meshes", () => {
  it("are thirty", () => expect(meshes.length).toBe(30));
  it.each(meshes)("$name raises no alarm", ({ mesh }) => {
    const { findings, survey } = look(mesh);
    expect(findings).toEqual([]);
    expect(survey.closed).toBe(true);
  });
});

describe.each(PLANTS)("$name", ({ finds, count, closes, plant }) => {
  it.each(meshes)("is found in $name and mended", ({ name, mesh }) => {
    const broken = plant(mesh, seededRandom(name.length + mesh.corners.length));
    const { findings } = look(broken);
    const found = findings.find(({ kind }) => kind === finds);
    expect(found?.count ?? 0, "found").toBeGreaterThan(0);
    if (count !== undefined) expect(found!.count).toBe(count);
    expect(found!.places.length).toBeGreaterThan(0);
    const { mesh: mended } = mendMesh(broken, ALL, RULES);
    const after = look(mended);
    expect(after.findings.map(({ kind, count: n }) => `${kind} ${n}`)).toEqual(
      [],
    );
    if (closes) expect(after.survey.closed).toBe(true);
  });
});

describe("winding", () => {
  it("sets every inside-out shell of 200 nests right", () => {
    const random = seededRandom(11);
    for (let nest = 0; nest < 200; nest++) {
      const depth = 2 + Math.floor(random() * 3);
      const shells = Array.from({ length: depth }, (_, k) => {
        const mesh = sphere(
          6 + Math.floor(6 * random()),
          8 + Math.floor(8 * random()),
          1 - k / (depth + 1),
          (a, t) => (0.12 / (depth + 1)) * Math.sin(3 * a + nest) * Math.cos(t),
        );
        const inside = random() < 0.5;
        const shell = inside
          ? reverseFaces(mesh, new Uint8Array(faceCount(mesh)).fill(1))
          : mesh;
        return { mesh: moved(shell, 0.02 * random(), 0, 0), inside };
      });
      const broken = joined(...shells.map(({ mesh }) => mesh));
      const turned = shells.reduce(
        (sum, { mesh, inside }) => sum + (inside ? faceCount(mesh) : 0),
        0,
      );
      const found = look(broken).survey.flippedFaces;
      expect(found).toBe(turned);
      const { mesh: right } = mendMesh(broken, new Set(["winding"]), RULES);
      expect(look(right).survey.flippedFaces).toBe(0);
    }
  });
});

describe("mending", () => {
  it("moves no face farther than the tolerance", () => {
    const random = seededRandom(3);
    for (const { mesh } of meshes) {
      const shaken = joined(mesh, mesh);
      const positions = shaken.positions.map(
        (x) => x + 4e-6 * (random() - 0.5),
      );
      const { mesh: mended } = mendMesh({ ...shaken, positions }, ALL, RULES);
      // Every vertex that is left lies within the tolerance of one that was there.
      for (let v = 0; v < mended.positions.length; v += 3) {
        let nearest = Infinity;
        for (let w = 0; w < positions.length; w += 3)
          nearest = Math.min(
            nearest,
            Math.hypot(
              positions[w] - mended.positions[v],
              positions[w + 1] - mended.positions[v + 1],
              positions[w + 2] - mended.positions[v + 2],
            ),
          );
        expect(nearest).toBeLessThanOrEqual(TOLERANCE);
      }
    }
  });
});
