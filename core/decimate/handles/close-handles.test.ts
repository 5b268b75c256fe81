import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  bridged,
  joined,
  moved,
  sheetMesh,
  sphere,
  torus,
} from "../../../tests/shapes";
import { buildEdges } from "../../mesh/edges";
import type { Mesh } from "../../mesh/mesh";
import { keepSettled } from "../../settle/settled-of";
import type { Soup } from "../soup";
import { gatherSoup } from "../soup";
import { closeHandles } from "./close-handles";

/** Vertices − edges + triangles, and how many edges have how many uses. */
function shapeOf({ triangles, owner }: Soup) {
  const faceStarts = new Uint32Array(owner.length + 1).map((_, t) => 3 * t);
  const edges = buildEdges({ corners: triangles, faceStarts });
  const alike = [...edges.uses].filter(
    (uses, e) =>
      uses === 2 && triangles[edges.first[e]] === triangles[edges.second[e]],
  );
  return {
    euler: new Set(triangles).size - edges.count + owner.length,
    borders: edges.uses.filter((uses) => uses === 1).length,
    more: edges.uses.filter((uses) => uses > 2).length,
    turned: alike.length,
  };
}
const CLOSED = { borders: 0, more: 0, turned: 0 };

/** Meshes as they are: what lies so near together would be settled otherwise. */
function asSoup(...meshes: Mesh[]): Soup {
  for (const mesh of meshes) keepSettled(mesh, { mesh, faces: null, done: [] });
  return gatherSoup(meshes);
}

const close = (mesh: Mesh, reach: number, stays: Uint8Array | null = null) =>
  closeHandles(asSoup(mesh), [reach], stays);

/** The middle of a triangle, and the triangle nearest to a place. */
const middle = ({ positions: p, corners }: Mesh, t: number) =>
  [0, 1, 2].map(
    (k) =>
      [0, 1, 2].reduce((sum, i) => sum + p[3 * corners[3 * t + i] + k], 0) / 3,
  );
function nearest(mesh: Mesh, place: readonly number[]): number {
  const far = Array.from({ length: mesh.corners.length / 3 }, (_, t) =>
    Math.hypot(...middle(mesh, t).map((x, k) => x - place[k])),
  );
  return far.indexOf(Math.min(...far));
}

const ball = sphere(60, 80);
/** Triangles at two angles about the ball's axis, on its equator or off it. */
const onBall = (angle: number, up = 0) =>
  nearest(ball, [Math.cos(angle), up, -Math.sin(angle)]);

describe("handles far smaller than what is wanted", () => {
  it("are cut by the shortest loop and closed, where they were", () => {
    const pair = [onBall(0), onBall(0.3)] as const;
    const pierced = bridged(ball, [pair]);
    expect(shapeOf(asSoup(pierced)).euler).toBe(0);
    const { soup, places } = close(pierced, 0.4);
    expect(shapeOf(soup)).toEqual({ euler: 2, ...CLOSED });
    expect(places).toHaveLength(1);
    expect(places[0].mesh).toBe(0);
    const away = pair.map((t) =>
      Math.hypot(...middle(ball, t).map((x, k) => x - places[0].at[k])),
    );
    expect(Math.min(...away)).toBeLessThan(0.1);
    // The tube has three edges round it: six triangles take the place of none.
    expect(soup.owner.length - pierced.corners.length / 3).toBe(2);
  });

  it("stay where they are not small, or all there is to a shape", () => {
    const wide = bridged(ball, [[onBall(0), onBall(1.5)]]);
    const flat: Mesh = {
      ...ball,
      positions: ball.positions.map((x, i) => (i % 3 === 1 ? 0.02 * x : x)),
    };
    const drilled = bridged(flat, [
      [nearest(flat, [0.5, 0.02, 0]), nearest(flat, [0.5, -0.02, 0])],
    ]);
    const chain = joined(ball, moved(torus(), 4, 0, 0));
    for (const mesh of [wide, drilled, torus(40, 20), chain]) {
      const soup = asSoup(mesh);
      const made = closeHandles(soup, [0.4], null);
      expect(made.places).toEqual([]);
      expect(made.soup).toBe(soup);
    }
  });

  it("stay where they are to be left as they are", () => {
    const mesh = bridged(ball, [[onBall(0), onBall(0.3)]]);
    const stays = new Uint8Array(mesh.corners.length / 3).fill(1);
    expect(close(mesh, 0.4, stays).places).toEqual([]);
  });

  it("go from open sheets, whose borders stay", () => {
    const sheet = sheetMesh(30);
    const near = (x: number, z: number) => nearest(sheet, [x, 0, z]);
    const pairs = [
      [near(0.5, 0.5), near(0.62, 0.5)],
      [near(0.01, 0.3), near(0.01, 0.42)],
    ] as const;
    const soup = asSoup(bridged(sheet, pairs));
    expect(shapeOf(soup).euler).toBe(-3);
    const made = closeHandles(soup, [0.18], null);
    expect(shapeOf(made.soup)).toEqual({ ...CLOSED, euler: 1, borders: 120 });
    expect(made.places).toHaveLength(2);
  });

  it("go however many there are and wherever they meet", () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.nat({ max: 79 }),
            fc.integer({ min: 18, max: 36 }),
            fc.integer({ min: 4, max: 7 }),
          ),
          { minLength: 1, maxLength: 8 },
        ),
        (wanted) => {
          const used = new Set<number>();
          const cornersOf = (t: number) => [
            ...ball.corners.subarray(3 * t, 3 * t + 3),
          ];
          const pairs = wanted.flatMap(([around, ring, step]) => {
            // All of one meridian after the other, the two at the poles first.
            const s = around * 118 + 2 * ring;
            const pair = [s, s + 2 * step] as const;
            const own = pair.flatMap(cornersOf);
            if (new Set(own).size < 6 || own.some((v) => used.has(v)))
              return [];
            for (const v of own) used.add(v);
            return [pair];
          });
          const mesh = bridged(ball, pairs);
          const made = close(mesh, 0.5);
          expect(shapeOf(made.soup)).toEqual({ euler: 2, ...CLOSED });
          expect(made.places).toHaveLength(pairs.length);
          expect(close(mesh, 0.5).soup.positions).toEqual(made.soup.positions);
          const before = mesh.positions.length;
          const own = made.soup.positions.subarray(0, before);
          expect(own).toEqual(asSoup(mesh).positions);
        },
      ),
      { numRuns: 30, seed: 7 },
    );
  });

  it("keep the material, ID and part of what is round them", () => {
    const mesh = bridged(ball, [[onBall(0), onBall(0.3)]]);
    const soup = asSoup(sphere(8, 8), {
      ...mesh,
      ids: new Uint16Array(mesh.corners.length / 3).fill(3),
    });
    const made = closeHandles(soup, [0.4, 0.4], null);
    const more = made.soup.owner.length - soup.owner.length;
    expect(more).toBeGreaterThan(1);
    expect([...made.soup.owner.slice(-more)]).toEqual(Array(more).fill(1));
    expect([...made.soup.id.slice(-more)]).toEqual(Array(more).fill(3));
    expect(made.soup.marks).toHaveLength(3 * made.soup.owner.length);
    expect(made.places[0].mesh).toBe(1);
  });
});
