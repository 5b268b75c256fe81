import { cross as cross3, dot, pointAt, subtract, unit } from "../space/vector";
import type { Mesh } from "../mesh/mesh";
import { cross } from "../mesh/triangle-shape";
import { SETTLE_RULES, settleMesh } from "./settle";

/** A triangle has no area where its height is below this share of its longest edge. */
const NO_HEIGHT = 1e-6;

const OTHERS = new Set(
  SETTLE_RULES.map(({ value }) => value).filter((rule) => rule !== "noArea"),
);

/** What a face has that was flat once its corner is moved, and in how many turns all have it. */
const RAISED = 2e-6;
const TURNS = 4;

/**
 * A mesh of triangles without those of no area, which are dissolved into their neighbours; the same where it has none.
 * Needles of a fan that can neither be flipped nor collapsed get a height of two millionths of their length.
 */
export function withoutFlatFaces(mesh: Mesh): Mesh {
  if (!flatFaces(mesh).length) return mesh;
  let at = settleMesh(mesh, OTHERS).mesh;
  for (let turn = 0; turn < TURNS; turn++) {
    const left = flatFaces(at);
    if (!left.length) break;
    at = withRaised(at, left);
  }
  return at;
}

/** Twice the area of a triangle of given corners, and the square of its longest edge. */
function sizeOf(p: Float32Array, [a, b, c]: Uint32Array) {
  const sides = [
    [a, b],
    [b, c],
    [c, a],
  ].map(([v, w]) => squared(p, v, w));
  const normal = cross(p, a, b, c);
  return { normal, double: Math.hypot(...normal), longest: Math.max(...sides) };
}

const squared = (p: Float32Array, v: number, w: number) =>
  (p[3 * v] - p[3 * w]) ** 2 +
  (p[3 * v + 1] - p[3 * w + 1]) ** 2 +
  (p[3 * v + 2] - p[3 * w + 2]) ** 2;

function flatFaces({ positions: p, corners }: Mesh): number[] {
  const flat: number[] = [];
  for (let t = 0; t < corners.length / 3; t++) {
    const { double, longest } = sizeOf(p, corners.subarray(3 * t, 3 * t + 3));
    if (!(double > NO_HEIGHT * longest)) flat.push(t);
  }
  return flat;
}

/** Moves the corner across from the longest edge of each of these faces off it, where no face round it turns over. */
function withRaised(mesh: Mesh, flat: readonly number[]): Mesh {
  const { corners } = mesh;
  const p = mesh.positions.slice();
  const tips = new Map<number, number[]>();
  for (const t of flat) tips.set(tipOf(p, corners, t), []);
  corners.forEach((v, c) => tips.get(v)?.push((c / 3) | 0));
  const ring = (t: number) => corners.subarray(3 * t, 3 * t + 3);
  for (const t of flat) {
    const tip = tipOf(p, corners, t);
    const [b, c] = [...ring(t)].filter((v) => v !== tip);
    const along = unit(subtract(pointAt(p, c), pointAt(p, b)));
    const from = subtract(pointAt(p, tip), pointAt(p, b));
    const foot = dot(from, along);
    const off = from.map((x, k) => x - foot * along[k]);
    const others = tips.get(tip)!.filter((s) => s !== t);
    // On the edge itself its neighbours say which way their face goes on.
    const plane = unit(
      others
        .map((s) => sizeOf(p, ring(s)).normal)
        .reduce<number[]>((sum, n) => sum.map((x, k) => x + n[k]), [0, 0, 0]),
    );
    const away =
      Math.hypot(...off) > 0.1 * NO_HEIGHT * Math.hypot(...from)
        ? unit(off)
        : unit(cross3(along, plane));
    const { longest } = sizeOf(p, ring(t));
    const old = [...p.subarray(3 * tip, 3 * tip + 3)];
    const before = others.map((s) => sizeOf(p, ring(s)));
    for (const way of [1, -1]) {
      const far = way * RAISED * Math.sqrt(longest);
      for (let k = 0; k < 3; k++)
        p[3 * tip + k] = old[k] - off[k] + far * away[k];
      const sound = others.every((s, i) => {
        const now = sizeOf(p, ring(s));
        return (
          dot(now.normal, before[i].normal) >= 0 &&
          now.double > Math.min(before[i].double, NO_HEIGHT * now.longest)
        );
      });
      if (sound) break;
      p.set(old, 3 * tip);
    }
  }
  return { ...mesh, positions: p };
}

/** The vertex of a triangle that lies across from its longest edge. */
function tipOf(p: Float32Array, corners: Uint32Array, t: number): number {
  const [a, b, c] = corners.subarray(3 * t, 3 * t + 3);
  const [ab, bc, ca] = [squared(p, a, b), squared(p, b, c), squared(p, c, a)];
  const longest = Math.max(ab, bc, ca);
  return longest === ab ? c : longest === bc ? a : b;
}
