import { expect, it } from "vitest";
import { cube, sphere } from "../../../tests/shapes";
import { buildEdges } from "../edges";
import type { Mesh } from "../mesh";
import { meshFromTriangles } from "../mesh";
import { triangulate } from "../triangulate";
import { withoutFlatFaces } from "./flat-faces";

/** A ball whose first triangle has a vertex put almost onto one of its edges, on its own side only. */
function withFlatFace(off: number): Mesh {
  const ball = sphere(12, 16);
  const corners = triangulate(ball).vertices;
  const at = (v: number) => [...ball.positions.subarray(3 * v, 3 * v + 3)];
  const [a, b, c] = corners.slice(300, 303);
  const [pa, pb, pc] = [at(a), at(b), at(c)];
  const middle = pa.map((x, k) => {
    const half = (x + pb[k]) / 2;
    return half + off * (pc[k] - half);
  });
  const m = ball.positions.length / 3;
  const rest = [...corners.slice(0, 300), ...corners.slice(303)];
  return meshFromTriangles(
    Float32Array.from([...ball.positions, ...middle]),
    Uint32Array.from([...rest, a, b, m, b, c, m, c, a, m]),
  );
}

it("takes faces of no area out, and opens nothing", () => {
  for (const off of [0, 1e-7]) {
    const flat = withFlatFace(off);
    const sound = withoutFlatFaces(flat);
    expect(sound).not.toBe(flat);
    const { uses } = buildEdges(sound);
    expect(uses.every((count) => count === 2)).toBe(true);
    // The face beyond is parted at the vertex instead.
    expect(sound.corners.length).toBe(flat.corners.length);
    expect(withoutFlatFaces(sound)).toBe(sound);
  }
});

it("leaves what has none as it is", () => {
  for (const mesh of [
    sphere(),
    withFlatFace(0.01),
    meshFromTriangles(cube().positions, triangulate(cube()).vertices),
  ])
    expect(withoutFlatFaces(mesh)).toBe(mesh);
});
