import type { Mesh } from "../../../mesh/mesh";
import { faceCount } from "../../../mesh/mesh";
import { triangulate } from "../../../mesh/triangulate";
import { boundsOf, diagonalOf } from "../../../space/bounds";
import { buildBvh } from "../../../space/bvh";
import { RayScene, widen } from "../../../space/ray-scene";
import type { Vector } from "../../../space/vector";

/** From where seams are hidden. */
export type SeenFrom = "standing" | "all round" | "above";

export const SEEN_FROM: readonly { value: SeenFrom; label: string }[] = [
  { value: "standing", label: "standing height, all round" },
  { value: "above", label: "above" },
  { value: "all round", label: "every side, below too" },
];

/** Least and greatest height of the direction towards the eye, as a sine. */
const HEIGHTS: Record<SeenFrom, readonly [number, number]> = {
  standing: [-0.1, 0.45],
  above: [0.2, 1],
  "all round": [-1, 1],
};

/** Directions towards the eye, spread evenly between two heights (a spiral). */
export function eyeDirections(from: SeenFrom, count: number): Vector[] {
  const [low, high] = HEIGHTS[from];
  return Array.from({ length: count }, (_, i) => {
    const y = low + ((high - low) * (i + 0.5)) / count;
    const r = Math.sqrt(1 - y * y);
    const angle = Math.PI * (3 - Math.sqrt(5)) * i;
    return [r * Math.cos(angle), y, r * Math.sin(angle)] as const;
  });
}

/**
 * How much each face shows: over the directions to the eye, its foreshortening where nothing of the asset is in
 * the way. Meshes hide each other.
 * @returns for each mesh faceCount shares, 0 … about 0.5
 */
export function exposureOf(
  meshes: readonly Mesh[],
  from: SeenFrom,
  check: () => void,
): Float32Array[] {
  const splits = meshes.map((mesh) => triangulate(mesh));
  const total = splits.reduce((sum, each) => sum + each.vertices.length, 0);
  const positions = new Float32Array(3 * total);
  const triangles = new Uint32Array(total).map((_, i) => i);
  let at = 0;
  splits.forEach(({ vertices }, m) => {
    for (let i = 0; i < vertices.length; i++, at++)
      for (let k = 0; k < 3; k++)
        positions[3 * at + k] = meshes[m].positions[3 * vertices[i] + k];
  });
  const shares = meshes.map((mesh) => new Float32Array(faceCount(mesh)));
  if (!total) return shares;
  const scene = new RayScene([widen(buildBvh(positions, triangles))]);
  const diagonal = diagonalOf(boundsOf(positions)) || 1;
  const eyes = eyeDirections(from, total > 90_000 ? 20 : 40);
  const areas = shares.map((each) => new Float32Array(each.length));
  at = 0;
  const n = [0, 0, 0];
  splits.forEach(({ faces }, m) => {
    for (let t = 0; t < faces.length; t++, at += 9) {
      if ((t & 511) === 0) check();
      const double = normalInto(positions, at, n);
      if (!(double > 0)) continue;
      const [x, y, z] = [0, 1, 2].map(
        (k) =>
          (positions[at + k] + positions[at + 3 + k] + positions[at + 6 + k]) /
            3 +
          1e-5 * diagonal * n[k],
      );
      let sum = 0;
      for (const eye of eyes) {
        const facing = n[0] * eye[0] + n[1] * eye[1] + n[2] * eye[2];
        if (
          facing > 0.02 &&
          !scene.any(0, x, y, z, eye[0], eye[1], eye[2], 0, 2 * diagonal)
        )
          sum += facing;
      }
      shares[m][faces[t]] += (double * sum) / eyes.length;
      areas[m][faces[t]] += double;
    }
  });
  shares.forEach((share, m) => {
    for (let f = 0; f < share.length; f++)
      if (areas[m][f] > 0) share[f] /= areas[m][f];
  });
  return shares;
}

/** Unit normal of a triangle of nine numbers. @returns twice its area */
function normalInto(p: Float32Array, at: number, into: number[]): number {
  const ux = p[at + 3] - p[at];
  const uy = p[at + 4] - p[at + 1];
  const uz = p[at + 5] - p[at + 2];
  const vx = p[at + 6] - p[at];
  const vy = p[at + 7] - p[at + 1];
  const vz = p[at + 8] - p[at + 2];
  into[0] = uy * vz - uz * vy;
  into[1] = uz * vx - ux * vz;
  into[2] = ux * vy - uy * vx;
  const double = Math.hypot(into[0], into[1], into[2]);
  if (double > 0) for (let k = 0; k < 3; k++) into[k] /= double;
  return double;
}

/**
 * The rank of each face by how much it shows, over all meshes together: 0 for what shows least, 1 for most, so
 * that a third of all area lies below 1/3.
 */
export function exposureRanks(
  exposure: readonly Float32Array[],
  areas: readonly ArrayLike<number>[],
): Float32Array[] {
  const all = exposure.flatMap((each, m) =>
    Array.from(each, (value, f) => ({ m, f, value })),
  );
  all.sort((a, b) => a.value - b.value || a.m - b.m || a.f - b.f);
  const total = all.reduce((sum, { m, f }) => sum + areas[m][f], 0) || 1;
  const ranks = exposure.map((each) => new Float32Array(each.length));
  let below = 0;
  for (const { m, f } of all) {
    ranks[m][f] = (below + areas[m][f] / 2) / total;
    below += areas[m][f];
  }
  return ranks;
}
