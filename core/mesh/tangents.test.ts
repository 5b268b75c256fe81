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
import { transformMesh } from "./transform";
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

/** The normal that a texel's value gives at the middle of each triangle, by where that lies on the sheet. */
function litBy(mesh: Mesh, [x, y, z]: readonly number[]) {
  const normals = cornerNormals(mesh);
  const split = triangulate(mesh);
  const tangents = tangentsOf(mesh, normals, split);
  const found = new Map<string, number[]>();
  for (let i = 0; i < split.corners.length; i += 3) {
    const middle = (
      values: Float32Array,
      width: number,
      at: (corner: number) => number,
    ) =>
      Array.from(
        { length: width },
        (_, c) =>
          [0, 1, 2].reduce((sum, k) => sum + values[width * at(i + k) + c], 0) /
          3,
      );
    const corner = (c: number) => split.corners[c];
    const n = middle(normals, 3, corner);
    const t = middle(tangents, 4, (c) => c);
    const sign = tangents[4 * i + 3];
    const shown = [0, 1, 2].map((k) => {
      const [a, b] = [(k + 1) % 3, (k + 2) % 3];
      return x * t[k] + y * sign * (n[a] * t[b] - n[b] * t[a]) + z * n[k];
    });
    const key = middle(mesh.uvs!, 2, corner).map((u) => u.toFixed(5));
    found.set(
      key.join(),
      shown.map((each) => each / Math.hypot(...shown)),
    );
  }
  return found;
}

it("a mirrored copy that shares its texels is lit alike on both sides", () => {
  const mesh = unwrapped(torus(18, 9));
  const mirror = [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 3, 0, 0, 1];
  const copy = transformMesh(mesh, mirror);
  const value = [0.4, -0.3, 0.8];
  const own = litBy(mesh, value);
  const other = litBy(copy, value);
  expect(other.size).toBe(own.size);
  for (const [key, [x, y, z]] of own) {
    const [a, b, c] = other.get(key)!;
    const cos = -x * a + y * b + z * c;
    expect((Math.acos(Math.min(1, cos)) * 180) / Math.PI).toBeLessThan(0.1);
  }
});
