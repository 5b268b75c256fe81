import { describe, expect, it } from "vitest";
import { cube, sheetMesh, sphere, tubeMesh } from "../../tests/shapes";
import { buildEdges } from "./edges";
import { clipMesh } from "./clip";
import { clusterMesh } from "../decimate/cluster";
import type { Mesh } from "./mesh";
import { faceCount, triangleCount } from "./mesh";
import { joinMeshes, reverseFaces } from "./change-faces";
import { SHARP, subdivide, subdivideOnce } from "./subdivide";

const at = (mesh: Mesh, v: number) => [
  ...mesh.positions.slice(3 * v, 3 * v + 3),
];
const open = (mesh: Mesh) =>
  buildEdges(mesh).uses.filter((uses) => uses === 1).length;

describe("Catmull and Clark", () => {
  it("gives the classic first step of a cube", () => {
    const next = subdivideOnce(cube());
    expect(faceCount(next)).toBe(24);
    // Corners of a cube of edge 2 go to 5/9 of where they were.
    for (const x of at(next, 0)) expect(Math.abs(x)).toBeCloseTo(5 / 9, 6);
    expect(open(next)).toBe(0);
  });

  it("comes to a round body whose extent is known", () => {
    const round = subdivide(cube(), 5);
    let most = 0;
    for (let v = 0; v < round.positions.length; v += 3)
      most = Math.max(most, Math.abs(round.positions[v]));
    // Limit point of a cube's face middle: between the inscribed and the original.
    expect(most).toBeGreaterThan(0.6);
    expect(most).toBeLessThan(1);
  });

  it("leaves a cube a cube where every edge is creased for good", () => {
    const sharp = { ...cube(), creases: new Uint8Array(24).fill(SHARP) };
    const next = subdivide(sharp, 3);
    for (let i = 0; i < next.positions.length; i += 3) {
      const far = Math.max(
        ...[0, 1, 2].map((k) => Math.abs(next.positions[i + k])),
      );
      expect(far).toBeCloseTo(1, 6);
    }
  });

  it("keeps a crease for as many levels as it is sharp", () => {
    const extent = (sharpness: number) => {
      const mesh = { ...cube(), creases: new Uint8Array(24).fill(sharpness) };
      const { positions } = subdivide(mesh, 4);
      return positions.reduce((sum, x) => sum + x * x, 0);
    };
    expect(extent(0)).toBeLessThan(extent(10));
    expect(extent(10)).toBeLessThan(extent(20));
    expect(extent(20)).toBeLessThan(extent(SHARP));
  });

  it("makes both halves of a creased edge ten softer a level, and none within a face; for good stays for good", () => {
    // Creases by the edge, so that both faces at it say the same.
    const mesh = cube();
    const creases = mesh.corners.map((v, c) => {
      const face = 4 * Math.floor(c / 4);
      const next = mesh.corners[face + ((c + 1 - face) % 4)];
      return [10 * ((v + next) % 3), SHARP][Number(v + next === 7)];
    });
    const next = subdivide({ ...mesh, creases: Uint8Array.from(creases) }, 1);
    for (let c = 0; c < 24; c++) {
      const soften = (sharp: number) =>
        sharp === SHARP ? SHARP : Math.max(0, sharp - 10);
      const before = 4 * Math.floor(c / 4) + ((c + 3) % 4);
      expect([...next.creases!.slice(4 * c, 4 * c + 4)]).toEqual([
        soften(creases[c]),
        0,
        0,
        soften(creases[before]),
      ]);
    }
  });

  it("keeps a flat sheet flat and a corner of one face in place", () => {
    const next = subdivide(sheetMesh(3), 2);
    expect(next.positions.every((x, i) => i % 3 !== 1 || x === 0)).toBe(true);
    expect(at(next, 3)).toEqual([1, 0, 0]);
    expect(open(next)).toBe(12 * 4);
  });

  it("divides UVs straight and takes materials along", () => {
    const mesh: Mesh = {
      ...cube(),
      uvs: Float32Array.from(
        { length: 48 },
        (_, i) => [0, 0, 1, 0, 1, 1, 0, 1][i % 8],
      ),
      materials: ["a", "b"],
      faceMaterials: Uint16Array.from([0, 1, 0, 1, 0, 1]),
    };
    const next = subdivideOnce(mesh);
    expect([...next.uvs!.slice(0, 8)]).toEqual([
      0, 0, 0.5, 0, 0.5, 0.5, 0, 0.5,
    ]);
    expect([...next.faceMaterials!.slice(0, 8)]).toEqual([
      0, 0, 0, 0, 1, 1, 1, 1,
    ]);
  });
});

describe("clipping", () => {
  it("cuts a closed body at a plane, all new vertices on it", () => {
    const half = clipMesh(sphere(20, 30), { normal: [0, 1, 0], offset: 0.2 });
    for (let v = 1; v < half.positions.length; v += 3)
      expect(half.positions[v]).toBeGreaterThanOrEqual(0.2 - 1e-6);
    expect(open(half)).toBeGreaterThan(20);
  });

  it("leaves what lies before the plane as it is and nothing of what lies behind", () => {
    const mesh = cube();
    expect(clipMesh(mesh, { normal: [1, 0, 0], offset: -2 })).toBe(mesh);
    expect(
      clipMesh(mesh, { normal: [1, 0, 0], offset: 2 }).corners.length,
    ).toBe(0);
  });

  it("interpolates UVs along the cut", () => {
    const mesh: Mesh = {
      ...sheetMesh(1),
      uvs: new Float32Array([0, 0, 0, 1, 1, 1, 0, 0, 1, 1, 1, 0]),
    };
    const half = clipMesh(mesh, { normal: [1, 0, 0], offset: 0.25 });
    for (let c = 0; c < half.corners.length; c++)
      expect(half.uvs![2 * c]).toBeCloseTo(
        half.positions[3 * half.corners[c]],
        6,
      );
  });
});

describe("joining, turning over, clustering", () => {
  it("joins what some have and leaves normals out unless all have them", () => {
    const painted: Mesh = {
      ...cube(),
      ids: new Uint16Array(6).fill(2),
      normals: new Float32Array(72).fill(0.5),
      materials: ["b"],
    };
    const both = joinMeshes([cube(), painted]);
    expect(faceCount(both)).toBe(12);
    expect([...both.ids!]).toEqual([0, 0, 0, 0, 0, 0, 2, 2, 2, 2, 2, 2]);
    expect(both.normals).toBeNull();
    expect(both.materials).toEqual(["surface", "b"]);
    expect([...both.faceMaterials!.slice(5, 7)]).toEqual([0, 1]);
  });

  it("turning faces over twice changes nothing, and marks stay on their edges", () => {
    const mesh: Mesh = {
      ...tubeMesh(6, 2),
      hard: Uint8Array.from({ length: 48 }, (_, c) => (c % 4 === 1 ? 1 : 0)),
    };
    const all = new Uint8Array(faceCount(mesh)).fill(1);
    const over = reverseFaces(mesh, all);
    const marked = (each: Mesh) => {
      const edges = buildEdges(each);
      const names = new Set<string>();
      each.hard!.forEach((mark, c) => {
        const e = edges.ofCorner[c];
        if (mark)
          names.add(`${edges.vertices[2 * e]} ${edges.vertices[2 * e + 1]}`);
      });
      return [...names].sort();
    };
    expect(marked(over)).toEqual(marked(mesh));
    expect(reverseFaces(over, all).corners).toEqual(mesh.corners);
  });

  it("a light look-alike keeps to its size and its place", () => {
    const mesh = sphere(300, 400);
    const light = clusterMesh(mesh, 20_000);
    expect(triangleCount(light)).toBeLessThanOrEqual(20_000);
    expect(triangleCount(light)).toBeGreaterThan(5000);
    for (let v = 0; v < light.positions.length; v += 3)
      expect(Math.hypot(...light.positions.slice(v, v + 3))).toBeGreaterThan(
        0.97,
      );
  });
});
