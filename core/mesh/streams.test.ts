import { expect, it } from "vitest";
import { withEveryStream } from "../../tests/every-stream";
import { sphere, torus } from "../../tests/shapes";
import { createAsset, createPart } from "../asset/asset";
import { toDocument } from "../asset/document";
import { fromDocument } from "../asset/read-document";
import type { Mesh } from "./mesh";
import { faceCount, faceOfCorners } from "./mesh";
import { joinMeshes, keepFaces, reverseFaces } from "./change-faces";
import { settleMesh } from "../settle/settle";
import { ON_EDGES, STREAM_NAMES, STREAMS } from "./streams";
import { subdivideOnce } from "./subdivide";

const ball = withEveryStream(sphere(6, 8), 1);
const ring = withEveryStream(torus(8, 6), 2);

/** The row of a stream that is given for a face, or for the first corner of one. */
function row(mesh: Mesh, name: (typeof STREAM_NAMES)[number], face: number) {
  const { on, width } = STREAMS[name];
  const at = on === "faces" ? face : mesh.faceStarts[face];
  return [...mesh[name]!.subarray(width * at, width * (at + 1))];
}

it("names every array of a mesh", () => {
  const arrays = Object.entries(ball).filter(([, value]) =>
    ArrayBuffer.isView(value),
  );
  expect(arrays.map(([name]) => name).sort()).toEqual(
    ["positions", "faceStarts", "corners", ...STREAM_NAMES].sort(),
  );
});

it.each(STREAM_NAMES)("keeps %s in a document", (name) => {
  const bytes = new Map<string, Uint8Array>();
  const part = createPart("ball", 0, { game: ball });
  const document = toDocument(createAsset("one", [part]), (hash, stream) =>
    bytes.set(hash, stream.slice()),
  );
  const back = fromDocument(
    JSON.parse(JSON.stringify(document)) as typeof document,
    (hash) => bytes.get(hash)!,
  );
  expect(back.parts[0].game![name]).toEqual(ball[name]);
});

it.each(STREAM_NAMES)("keeps %s where meshes are joined", (name) => {
  const both = joinMeshes([ball, ring]);
  expect(row(both, name, 3)).toEqual(row(ball, name, 3));
  expect(row(both, name, faceCount(ball) + 5)).toEqual(row(ring, name, 5));
});

it.each(STREAM_NAMES)("keeps %s where only some faces stay", (name) => {
  const keep = new Uint8Array(faceCount(ball)).map((_, f) => f % 3);
  const some = keepFaces(ball, keep);
  // Faces 1, 2, 4, 5, 7 … stay.
  expect(row(some, name, 3)).toEqual(row(ball, name, 5));
});

it.each(STREAM_NAMES)("has %s as it was after turning twice", (name) => {
  const which = new Uint8Array(faceCount(ball)).map((_, f) => f % 2);
  const once = reverseFaces(ball, which);
  expect(reverseFaces(once, which)[name]).toEqual(ball[name]);
});

it("leaves marks on the edges they are on while faces turn", () => {
  const turned = reverseFaces(ball, new Uint8Array(faceCount(ball)).fill(1));
  const marksOf = (mesh: Mesh, name: (typeof ON_EDGES)[number]) => {
    const found = new Map<string, number>();
    for (let f = 0; f < faceCount(mesh); f++)
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
        const next =
          c + 1 < mesh.faceStarts[f + 1] ? c + 1 : mesh.faceStarts[f];
        const ends = [mesh.corners[c], mesh.corners[next]].sort(
          (a, b) => a - b,
        );
        found.set(`${f} ${ends.join(" ")}`, mesh[name]![c] as number);
      }
    return found;
  };
  for (const name of ON_EDGES)
    expect(marksOf(turned, name)).toEqual(marksOf(ball, name));
});

it.each(STREAM_NAMES)("hands %s on to what is made by subdividing", (name) => {
  const finer = subdivideOnce(ball);
  const face = faceOfCorners(ball);
  // Quad c stands at corner c of the coarse mesh, and begins there.
  for (const c of [0, 9, 40]) {
    const { on, width } = STREAMS[name];
    const at = on === "faces" ? face[c] : c;
    const own = [...ball[name]!.subarray(width * at, width * (at + 1))];
    const expected = name === "creases" ? [Math.max(0, own[0] - 10)] : own;
    expect(row(finer, name, c)).toEqual(expected);
  }
});

it("gives a smooth mesh normals of its own faces alone", () => {
  const some = new Uint8Array(faceCount(ball));
  some[4] = 1;
  const finer = subdivideOnce({ ...ball, hard: null, ownNormals: some });
  const face = faceOfCorners(ball);
  for (let c = 0; c < ball.corners.length; c++) {
    const own = [...finer.normals!.subarray(12 * c, 12 * c + 3)];
    const was = [...ball.normals!.subarray(3 * c, 3 * c + 3)];
    if (face[c] === 4) expect(own).toEqual(was);
    else expect(own).not.toEqual(was);
  }
  expect(subdivideOnce({ ...ball, ownNormals: null }).normals).toBe(null);
});

it.each(STREAM_NAMES)("keeps %s while a source is settled", (name) => {
  const twice = { ...ball, normals: null };
  const stray = joinMeshes([
    twice,
    withEveryStream(
      keepFaces(twice, new Uint8Array(faceCount(twice)).fill(1, 0, 1)),
      1,
    ),
  ]);
  const given =
    name === "normals"
      ? {
          ...stray,
          normals: new Float32Array(3 * stray.corners.length).fill(1),
        }
      : stray;
  const settled = settleMesh(given, new Set()).mesh;
  // The doubled face goes; the others have what they had.
  expect(faceCount(settled)).toBe(faceCount(ball));
  expect(row(settled, name, 5)).toEqual(row(given, name, 5));
});
