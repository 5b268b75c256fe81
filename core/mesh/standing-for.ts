import type { Mesh } from "./mesh";
import { faceCount } from "./mesh";
import { triangulate } from "./triangulate";
import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";

/** Where in a triangle it is asked: weights of the second and the third corner. */
const ASKED = [
  [1 / 3, 1 / 3],
  [0.1, 0.1],
  [0.8, 0.1],
  [0.1, 0.8],
] as const;

/**
 * The faces of a game mesh that stand for some faces of its source: those for which most places have one of them
 * nearest.
 * @param marks faces of the source
 * @returns marks of the game mesh's faces
 * @param marks faceCount of the source
 * @returns faceCount marks of the other mesh
 */
export function facesStandingFor(
  source: Mesh,
  marks: ArrayLike<number>,
  game: Mesh,
): Uint8Array {
  const found = new Uint8Array(faceCount(game));
  const from = triangulate(source);
  if (!from.faces.length) return found;
  const closest = new ClosestPoint(buildBvh(source.positions, from.vertices));
  const to = triangulate(game);
  const votes = new Int32Array(found.length);
  const p = game.positions;
  for (let t = 0; t < to.faces.length; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => 3 * to.vertices[3 * t + k]);
    for (const [u, v] of ASKED) {
      const at = (k: number) =>
        (1 - u - v) * p[a + k] + u * p[b + k] + v * p[c + k];
      const near = closest.find(at(0), at(1), at(2));
      votes[to.faces[t]] += near >= 0 && marks[from.faces[near]] ? 1 : -1;
    }
  }
  votes.forEach((n, f) => {
    if (n > 0) found[f] = 1;
  });
  return found;
}
