import { expect, it } from "vitest";
import { sphere } from "../../tests/shapes";
import { facesRound } from "./faces-round";

it("faces round some vertices are all that touch them, and know their own numbers", () => {
  const mesh = sphere(8, 12);
  const marked = new Uint8Array(mesh.positions.length / 3);
  marked[3] = marked[40] = 1;
  const round = facesRound(mesh, marked);
  const wanted: number[] = [];
  for (let f = 0; f + 1 < mesh.faceStarts.length; f++)
    if (
      mesh.corners
        .subarray(mesh.faceStarts[f], mesh.faceStarts[f + 1])
        .some((v) => marked[v])
    )
      wanted.push(f);
  expect([...round.oldFace]).toEqual(wanted);
  expect([...round.mesh.corners]).toEqual(
    [...round.oldCorner].map((c) => mesh.corners[c]),
  );
  round.oldFace.forEach((f, i) => {
    expect(round.oldCorner[round.mesh.faceStarts[i]]).toBe(mesh.faceStarts[f]);
  });
  expect(facesRound(mesh, marked.fill(0)).mesh.corners).toHaveLength(0);
});
