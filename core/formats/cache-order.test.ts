import { expect, it } from "vitest";
import { sphere } from "../../tests/shapes";
import { seededRandom } from "../base/random";
import { inCacheOrder } from "./cache-order";
import type { FlatPiece } from "./flatten-mesh";
import { flattenMesh } from "./flatten-mesh";

/** Vertices that a card works on again for each triangle, with a queue of sixteen it remembers. */
function misses({ indices }: FlatPiece): number {
  const queue: number[] = [];
  let count = 0;
  for (const v of indices)
    if (!queue.includes(v)) {
      count++;
      queue.push(v);
      if (queue.length > 16) queue.shift();
    }
  return (3 * count) / indices.length;
}

const triangles = ({ indices, positions, normals }: FlatPiece) => {
  const corner = (v: number) =>
    [positions, normals]
      .flatMap((each) => [...each.subarray(3 * v, 3 * v + 3)])
      .join(" ");
  return Array.from({ length: indices.length / 3 }, (_, t) => {
    const corners = [0, 1, 2].map((k) => corner(indices[3 * t + k]));
    const first = corners.indexOf(corners.toSorted()[0]);
    return [0, 1, 2].map((k) => corners[(first + k) % 3]).join(", ");
  }).sort();
};

it("keeps every triangle, and makes a card work on far fewer vertices again", async () => {
  const [piece] = flattenMesh({ name: "ball", mesh: sphere(30, 40) });
  // In an order as bad as they come.
  const random = seededRandom(5);
  const order = Array.from({ length: piece.indices.length / 3 }, (_, t) => t);
  for (let i = order.length - 1; i > 0; i--) {
    const j = Math.floor(random() * (i + 1));
    [order[i], order[j]] = [order[j], order[i]];
  }
  const indices = Uint32Array.from(
    order.flatMap((t) => [...piece.indices.subarray(3 * t, 3 * t + 3)]),
  );
  const strewn = { ...piece, indices };
  const [ordered] = await inCacheOrder([strewn]);
  expect(triangles(ordered)).toEqual(triangles(piece));
  expect(misses(ordered)).toBeLessThan(0.4 * misses(strewn));
  // Vertices come in the order in which they are first read.
  const first = [...new Set(ordered.indices)];
  expect(first).toEqual(first.map((_, v) => v));
  expect((await inCacheOrder([strewn]))[0].indices).toEqual(ordered.indices);
});
