import { ArnikError } from "../../base/errors";
import { spaced } from "../../base/wording";
import { createMesh } from "../../mesh/change-faces";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { cornerNormals } from "../../mesh/normals";
import { boundsOf, diagonalOf } from "../../space/bounds";

/** A cage of another size than this against its game mesh was made in another unit. */
const MOST_LARGER = 4;

/** Whether a corner has a place of its own in the cage, and not the one that is found for it. */
export const isCaged = (cage: ArrayLike<number>, corner: number): boolean =>
  cage[3 * corner] !== 0 ||
  cage[3 * corner + 1] !== 0 ||
  cage[3 * corner + 2] !== 0;

/**
 * The cage that a game mesh has, and where it has none one so far out along the smoothed normals.
 * @param lengths metres, at each corner or everywhere; @returns 3 × cornerCount, metres
 */
export function offsetsOf(
  game: Mesh,
  lengths: number | Float32Array,
): Float32Array {
  const smooth = cornerNormals({ ...game, hard: null });
  return Float32Array.from(smooth, (x, i) => {
    const c = (i / 3) | 0;
    if (game.cage && isCaged(game.cage, c)) return game.cage[i];
    return x * (typeof lengths === "number" ? lengths : lengths[c]);
  });
}

/**
 * The cage as a mesh with the faces of the game mesh; corners that part there are vertices of their own.
 * @param offsets 3 × cornerCount: ways from the game mesh to the cage, metres
 */
export function cageMesh(game: Mesh, offsets: Float32Array): Mesh {
  const { positions: p, corners, faceStarts } = game;
  const places: number[] = [];
  const known = new Map<string, number>();
  const vertices = new Uint32Array(corners.length);
  corners.forEach((v, c) => {
    const at = [0, 1, 2].map((k) =>
      Math.fround(p[3 * v + k] + offsets[3 * c + k]),
    );
    const key = `${v} ${at.join(" ")}`;
    let place = known.get(key);
    if (place === undefined) {
      place = places.length / 3;
      places.push(...at);
      known.set(key, place);
    }
    vertices[c] = place;
  });
  return createMesh({
    positions: Float32Array.from(places),
    corners: vertices,
    faceStarts,
  });
}

/**
 * The cage of a part from a mesh that has its faces, in their order.
 * @returns 3 × cornerCount: ways from the game mesh to the cage, metres
 * @throws ArnikError where it has others, or another size
 */
export function offsetsFrom(
  name: string,
  game: Mesh,
  cage: Mesh,
): Float32Array {
  const same =
    cage.corners.length === game.corners.length &&
    faceCount(cage) === faceCount(game) &&
    game.faceStarts.every((start, f) => start === cage.faceStarts[f]);
  if (!same)
    throw new ArnikError(
      `the cage of ${name} has ${spaced(faceCount(cage))} faces with ${spaced(cage.corners.length)} corners, its game mesh ${spaced(faceCount(game))} with ${spaced(game.corners.length)}: a cage has the same faces in the same order`,
    );
  const [own, size] = [game, cage].map((mesh) =>
    diagonalOf(boundsOf(mesh.positions)),
  );
  if (!(size < MOST_LARGER * own) || !(own < MOST_LARGER * size))
    throw new ArnikError(
      `the cage of ${name} is ${(size / own).toPrecision(2)} times as large as its game mesh: bring it in with the same unit`,
    );
  return Float32Array.from({ length: 3 * game.corners.length }, (_, i) => {
    const [c, k] = [(i / 3) | 0, i % 3];
    return (
      cage.positions[3 * cage.corners[c] + k] -
      game.positions[3 * game.corners[c] + k]
    );
  });
}
