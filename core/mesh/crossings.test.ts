import { describe, expect, it } from "vitest";
import { seededRandom } from "../base/random";
import { crossingFaces } from "./crossings";

/** Triangles of a size in a unit box, every one with vertices of its own but for those that share one with the one before. */
function soup(seed: number, count: number, size: number, sharing = 0) {
  const random = seededRandom(seed);
  const positions: number[] = [];
  const triangles: number[] = [];
  for (let t = 0; t < count; t++) {
    const middle = [random(), random(), random()];
    for (let k = 0; k < 3; k++) {
      if (k === 0 && t && random() < sharing) {
        triangles.push(triangles[3 * t - 3]);
        continue;
      }
      triangles.push(positions.length / 3);
      for (const x of middle) positions.push(x + size * (random() - 0.5));
    }
  }
  return {
    positions: Float32Array.from(positions),
    triangles: Uint32Array.from(triangles),
  };
}

type Soup = ReturnType<typeof soup>;
type Vector = [number, number, number];

const minus = (a: Vector, b: Vector): Vector => [
  a[0] - b[0],
  a[1] - b[1],
  a[2] - b[2],
];
/** Six times the volume of the tetrahedron over a triangle: on which side of it a point lies. */
function side([a, b, c]: Vector[], at: Vector): number {
  const [u, v, w] = [minus(b, a), minus(c, a), minus(at, a)];
  return (
    u[0] * (v[1] * w[2] - v[2] * w[1]) +
    u[1] * (v[2] * w[0] - v[0] * w[2]) +
    u[2] * (v[0] * w[1] - v[1] * w[0])
  );
}
/** Whether the line from e to f goes through a triangle, by the signs of volumes alone. */
function pierces(e: Vector, f: Vector, [a, b, c]: Vector[]): boolean {
  if (side([a, b, c], e) > 0 === side([a, b, c], f) > 0) return false;
  const turns = [
    [a, b],
    [b, c],
    [c, a],
  ].map(([from, to]) => side([e, f, from], to) > 0);
  return turns[0] === turns[1] && turns[1] === turns[2];
}

/** All pairs that pass through each other, by trying every two of them. */
function bruteForce({ positions, triangles }: Soup): string[] {
  const at = (v: number) => [...positions.slice(3 * v, 3 * v + 3)] as Vector;
  const found: string[] = [];
  for (let t = 0; t < triangles.length / 3; t++)
    for (let u = t + 1; u < triangles.length / 3; u++) {
      const [mine, its] = [t, u].map((f) => [
        ...triangles.slice(3 * f, 3 * f + 3),
      ]);
      const shared = mine.filter((v) => its.includes(v));
      const through = (from: number[], to: number[]) =>
        from.some((v, k) => {
          const w = from[(k + 1) % 3];
          if (shared.includes(v) || shared.includes(w)) return false;
          return pierces(at(v), at(w), to.map(at));
        });
      if (through(mine, its) || through(its, mine)) found.push(`${t} ${u}`);
    }
  return found;
}

function search({ positions, triangles }: Soup, asked?: Uint8Array) {
  const count = triangles.length / 3;
  return crossingFaces(
    positions,
    triangles,
    Uint32Array.from({ length: count }, (_, t) => t),
    new Uint32Array(count),
    Uint32Array.from({ length: positions.length / 3 }, (_, v) => v),
    undefined,
    asked,
  );
}
const named = (pairs: readonly (readonly number[])[]) =>
  pairs.map((pair) => [...pair].sort((a, b) => a - b).join(" ")).sort();

describe("faces that pass through each other", () => {
  it("are those that trying every two of them finds", () => {
    for (const [seed, count, size, sharing] of [
      [1, 2, 1, 0],
      [2, 5, 1, 0.5],
      [3, 120, 0.3, 0],
      [4, 300, 0.2, 0.5],
      [5, 400, 0.1, 0.2],
    ]) {
      const mesh = soup(seed, count, size, sharing);
      const { pairs, faces } = search(mesh);
      const wanted = bruteForce(mesh);
      expect(named(pairs)).toEqual(wanted.sort());
      expect(faces).toEqual([...new Set(pairs.flat())].sort((a, b) => a - b));
    }
  });

  it("are those with a face that is asked about, where only some are", () => {
    const mesh = soup(6, 300, 0.2, 0.3);
    const asked = Uint8Array.from({ length: 300 }, (_, f) =>
      f % 7 === 0 ? 1 : 0,
    );
    const all = search(mesh).pairs;
    const some = search(mesh, asked).pairs;
    expect(some.length).toBeGreaterThan(5);
    expect(named(some)).toEqual(
      named(all.filter((pair) => pair.some((f) => asked[f]))),
    );
  });

  it("name the vertices first that most piercing edges end in", () => {
    // A needle through three sheets.
    const sheets = [0.2, 0.5, 0.8].flatMap((x) => [
      x,
      -1,
      -1,
      x,
      1,
      -1,
      x,
      0,
      1,
    ]);
    const positions = Float32Array.from([
      ...sheets,
      0,
      0,
      0,
      1,
      0,
      0,
      0,
      0.1,
      0,
    ]);
    const triangles = Uint32Array.from({ length: 12 }, (_, i) => i);
    const { piercing, faces } = search({ positions, triangles });
    expect(faces).toEqual([0, 1, 2, 3]);
    expect(piercing.slice(0, 2)).toEqual([9, 10]);
  });
});
