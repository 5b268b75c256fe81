import type { Mesh } from "../core/mesh/mesh";
import { createMesh } from "../core/mesh/change-faces";
import { cube, joined, moved } from "./shapes";

/** Closed solids of which one knows what convex pieces they are made of. */

type Place = readonly [number, number];

/** A prism over an outline that runs counter-clockwise in x and y, from z = 0 to `depth`. */
export function extruded(outline: readonly Place[], depth: number): Mesh {
  const n = outline.length;
  const positions = new Float32Array(6 * n);
  outline.forEach(([x, y], i) => {
    positions.set([x, y, 0], 3 * i);
    positions.set([x, y, depth], 3 * (n + i));
  });
  const faces = [
    outline.map((_, i) => n - 1 - i),
    outline.map((_, i) => n + i),
    ...outline.map((_, i) => {
      const next = (i + 1) % n;
      return [i, next, n + next, n + i];
    }),
  ];
  const faceStarts = new Uint32Array(faces.length + 1);
  faces.forEach((face, f) => (faceStarts[f + 1] = faceStarts[f] + face.length));
  return createMesh({
    positions,
    corners: Uint32Array.from(faces.flat()),
    faceStarts,
  });
}

/** A solid of revolution about y: the outline, in radius and height, runs counter-clockwise and off the axis. */
export function revolved(outline: readonly Place[], around = 48): Mesh {
  const n = outline.length;
  const positions = new Float32Array(3 * n * around);
  for (let i = 0; i < around; i++) {
    const turn = (2 * Math.PI * i) / around;
    outline.forEach(([r, y], k) =>
      positions.set(
        [r * Math.cos(turn), y, -r * Math.sin(turn)],
        3 * (i * n + k),
      ),
    );
  }
  const corners: number[] = [];
  for (let i = 0; i < around; i++)
    for (let k = 0; k < n; k++) {
      const [j, m] = [(i + 1) % around, (k + 1) % n];
      corners.push(i * n + k, j * n + k, j * n + m, i * n + m);
    }
  return createMesh({
    positions,
    corners: Uint32Array.from(corners),
    faceStarts: Uint32Array.from(
      { length: corners.length / 4 + 1 },
      (_, f) => 4 * f,
    ),
  });
}

const box = (
  x: number,
  y: number,
  z: number,
  w: number,
  h: number,
  d: number,
) =>
  moved(
    {
      ...cube(),
      positions: cube().positions.map((p, i) => (p * [w, h, d][i % 3]) / 2),
    },
    x + w / 2,
    y + h / 2,
    z + d / 2,
  );

export const lSolid = () =>
  extruded(
    [
      [0, 0],
      [3, 0],
      [3, 1],
      [1, 1],
      [1, 2.5],
      [0, 2.5],
    ],
    1.3,
  );

export const tSolid = () =>
  extruded(
    [
      [1, 0],
      [2, 0],
      [2, 2],
      [3, 2],
      [3, 3],
      [0, 3],
      [0, 2],
      [1, 2],
    ],
    0.7,
  );

export const uSolid = () =>
  extruded(
    [
      [0, 0],
      [3, 0],
      [3, 2],
      [2.4, 2],
      [2.4, 0.6],
      [0.6, 0.6],
      [0.6, 2],
      [0, 2],
    ],
    1,
  );

/** Steps, each as high as it is deep. */
export const stairs = (steps = 5) =>
  extruded(
    [
      [0, 0],
      [steps, 0],
      ...Array.from({ length: steps }, (_, i): Place[] => [
        [steps - i, i + 1],
        [steps - i - 1, i + 1],
      ])
        .flat()
        .slice(0, -1),
      [0, steps],
    ],
    3,
  );

/** A top on four legs: five boxes that touch. */
export const table = () =>
  joined(
    box(0, 0.7, 0, 1.2, 0.05, 0.8),
    ...[0.02, 1.12].flatMap((x) =>
      [0.02, 0.72].map((z) => box(x, 0, z, 0.06, 0.7, 0.06)),
    ),
  );

/** A thick cup without a handle, 10 cm high and 8 cm wide: its hollow is 7 cm wide. */
export const cup = (around = 48) =>
  revolved(
    [
      [0.0005, 0],
      [0.04, 0],
      [0.04, 0.1],
      [0.035, 0.1],
      [0.035, 0.006],
      [0.0005, 0.006],
    ],
    around,
  );

/** A flat ring with a rectangular section, 2 m wide with an opening of 1.4 m. */
export const flatRing = (around = 48) =>
  revolved(
    [
      [0.7, 0],
      [1, 0],
      [1, 0.3],
      [0.7, 0.3],
    ],
    around,
  );
