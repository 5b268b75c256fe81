import { generateTangents } from "mikktspace";
import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../tests/laid";
import {
  cube,
  joined,
  moved,
  sheetMesh,
  sphere,
  torus,
} from "../../tests/shapes";
import { seededRandom } from "../base/random";
import { hardAbove } from "./hard-angle";
import type { Mesh } from "./mesh";
import { cornerNormals } from "./normals";
import { tangentsOf } from "./tangents";
import { triangulate } from "./triangulate";

/** The package's answer for the same corners. */
function yardstick(mesh: Mesh, normals: Float32Array): Float32Array {
  const { corners, vertices } = triangulate(mesh);
  const spread = (from: Float32Array, index: Uint32Array, width: number) =>
    Float32Array.from(
      [...index].flatMap((i) => [
        ...from.subarray(width * i, width * i + width),
      ]),
    );
  return generateTangents(
    spread(mesh.positions, vertices, 3),
    spread(normals, corners, 3),
    spread(mesh.uvs!, corners, 2),
  );
}

function compare(mesh: Mesh): void {
  const normals = cornerNormals(mesh);
  const ours = tangentsOf(mesh, normals, triangulate(mesh));
  const theirs = yardstick(mesh, normals);
  expect(ours.length).toBe(theirs.length);
  for (let i = 0; i < ours.length; i += 4) {
    expect(Math.sign(ours[i + 3])).toBe(Math.sign(theirs[i + 3]));
    for (let k = 0; k < 3; k++)
      expect(Math.abs(ours[i + k] - theirs[i + k])).toBeLessThan(2e-4);
  }
}

const unwrapped = (mesh: Mesh) => laidOn([mesh], squareSheet(512))[0];

describe("tangents are those of the MikkTSpace package", () => {
  it("on a sheet with mirrored halves", () => {
    const mesh = sheetMesh(
      8,
      (x, z) => 0.1 * Math.sin(7 * x) * Math.cos(5 * z),
    );
    const uvs = Float32Array.from(
      [...mesh.corners].flatMap((v) => [
        Math.abs(mesh.positions[3 * v] - 0.5),
        mesh.positions[3 * v + 2],
      ]),
    );
    compare({ ...mesh, uvs });
  });

  it("on unwrapped bodies, smooth and with hard edges", () => {
    for (const body of [
      sphere(14, 18),
      torus(18, 9),
      joined(cube(), moved(sphere(8, 10), 4, 0, 0)),
    ]) {
      const mesh = unwrapped(body);
      compare(mesh);
      compare({ ...mesh, hard: hardAbove(mesh, 30).hard });
    }
  });

  it("on UVs at random, many of them folded", () => {
    const random = seededRandom(9);
    const mesh = sphere(10, 12);
    compare({
      ...mesh,
      uvs: Float32Array.from({ length: 2 * mesh.corners.length }, () =>
        random(),
      ),
    });
  });

  it("refuses a mesh without UVs", () => {
    const mesh = cube();
    expect(() =>
      tangentsOf(mesh, cornerNormals(mesh), triangulate(mesh)),
    ).toThrow(/UVs/);
  });
});
