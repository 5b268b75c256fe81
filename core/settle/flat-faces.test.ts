import { expect, it } from "vitest";
import { cube, sphere } from "../../tests/shapes";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { meshFromTriangles } from "../mesh/change-faces";
import { triangulate } from "../mesh/triangulate";
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

/** Needles along the rim of a flat side, three of them within a millionth of a line: none can be flipped or collapsed. */
const NEEDLES = meshFromTriangles(
  // prettier-ignore
  new Float32Array([0.041558288,-0.0193830635,0,-0.0445834771,0.0242782701,0,-0.0445596501,0.0242662318,0,0.0416589603,-0.0193922538,0,0.0418049432,-0.0194070898,0,0.0419368222,-0.0194218848,0,0.0420823991,-0.0194397513,0,0.0422265567,-0.0194591153,0,0.0423467569,-0.0194765013,0,0.0424749665,-0.0194962248,0,0.0426474586,-0.0195248332,0,0.0428028293,-0.0195527002,0,0.0429219864,-0.0195753518,0,0.0430378728,-0.0195984356,0,0.0432057083,-0.0196337253,0,-0.0445339307,0.0242533274,0,0.0420811959,-0.0194395669,0.0167311169,0.0418963991,-0.0194171518,0.0167311169,0.0417483933,-0.0194011778,0.0167311169,-0.0445728824,0.0242729057,0,-0.0445572324,0.024264982,0.0167311169]),
  // prettier-ignore
  new Uint32Array([0,1,2,3,0,2,4,3,2,5,4,2,6,5,2,2,7,6,2,8,7,2,9,8,2,10,9,2,11,10,2,12,11,2,13,12,2,14,13,14,2,15,6,16,5,5,17,4,4,18,3,5,16,17,4,17,18,2,19,20,2,20,15]),
);

it("gives needles that nothing else mends a height that is one", () => {
  const sound = withoutFlatFaces(NEEDLES);
  expect(withoutFlatFaces(sound)).toBe(sound);
  const [a, b] = [buildEdges(NEEDLES), buildEdges(sound)].map(
    ({ uses }) => uses.filter((count) => count === 1).length,
  );
  expect(b).toBeLessThanOrEqual(a);
  // Nothing moved by more than a few millionths of what needles are long.
  const at = (mesh: Mesh) =>
    Array.from({ length: mesh.positions.length / 3 }, (_, v) => [
      ...mesh.positions.subarray(3 * v, 3 * v + 3),
    ]);
  const before = at(NEEDLES);
  for (const place of at(sound)) {
    const off = before.map((x) => Math.hypot(...x.map((y, k) => y - place[k])));
    expect(Math.min(...off)).toBeLessThan(3e-7);
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
