import type { Mesh } from "../core/mesh/mesh";
import { createMesh, meshFromTriangles } from "../core/mesh/change-faces";
import { seededRandom } from "../core/base/random";

/** A cube of quads about the origin, edge 2. */
export function cube(): Mesh {
  const positions = new Float32Array(24);
  for (let v = 0; v < 8; v++)
    for (let k = 0; k < 3; k++) positions[3 * v + k] = (v >> k) & 1 ? 1 : -1;
  const corners = [
    0, 4, 6, 2, 1, 3, 7, 5, 0, 1, 5, 4, 2, 6, 7, 3, 0, 2, 3, 1, 4, 5, 7, 6,
  ];
  return createMesh({
    positions,
    corners: new Uint32Array(corners),
    faceStarts: Uint32Array.from({ length: 7 }, (_, f) => 4 * f),
  });
}

/** A closed sphere of triangles; `bump` moves every vertex along its normal. */
export function sphere(
  rings = 24,
  around = 32,
  radius = 1,
  bump: (angle: number, height: number) => number = () => 0,
): Mesh {
  const points: number[] = [0, -radius, 0];
  for (let r = 1; r < rings; r++)
    for (let i = 0; i < around; i++) {
      const t = (Math.PI * r) / rings - Math.PI / 2;
      const a = (2 * Math.PI * i) / around;
      const size = radius + bump(a, t);
      points.push(
        size * Math.cos(t) * Math.cos(a),
        size * Math.sin(t),
        -size * Math.cos(t) * Math.sin(a),
      );
    }
  points.push(0, radius, 0);
  const top = points.length / 3 - 1;
  const triangles: number[] = [];
  const at = (r: number, i: number) => 1 + (r - 1) * around + (i % around);
  for (let i = 0; i < around; i++) {
    triangles.push(0, at(1, i + 1), at(1, i));
    triangles.push(top, at(rings - 1, i), at(rings - 1, i + 1));
    for (let r = 1; r + 1 < rings; r++) {
      triangles.push(at(r, i), at(r, i + 1), at(r + 1, i + 1));
      triangles.push(at(r, i), at(r + 1, i + 1), at(r + 1, i));
    }
  }
  return meshFromTriangles(
    new Float32Array(points),
    new Uint32Array(triangles),
  );
}

/** An open tube of quads along y. */
export function tubeMesh(around = 24, along = 12, radius = 1, height = 4) {
  const points: number[] = [];
  const corners: number[] = [];
  for (let r = 0; r <= along; r++)
    for (let i = 0; i < around; i++) {
      const a = (2 * Math.PI * i) / around;
      points.push(
        radius * Math.cos(a),
        (height * r) / along,
        -radius * Math.sin(a),
      );
    }
  for (let r = 0; r < along; r++)
    for (let i = 0; i < around; i++) {
      const j = (i + 1) % around;
      const base = r * around;
      corners.push(base + i, base + j, base + around + j, base + around + i);
    }
  return createMesh({
    positions: new Float32Array(points),
    corners: new Uint32Array(corners),
    faceStarts: Uint32Array.from(
      { length: corners.length / 4 + 1 },
      (_, f) => 4 * f,
    ),
  });
}

/** A torus of triangles: has a handle, so it is no sphere and no disc. */
export function torus(around = 24, tube = 12, radius = 1, thick = 0.3): Mesh {
  const points: number[] = [];
  const triangles: number[] = [];
  for (let i = 0; i < around; i++)
    for (let k = 0; k < tube; k++) {
      const a = (2 * Math.PI * i) / around;
      const b = (2 * Math.PI * k) / tube;
      const r = radius + thick * Math.cos(b);
      points.push(r * Math.cos(a), thick * Math.sin(b), -r * Math.sin(a));
    }
  const at = (i: number, k: number) => (i % around) * tube + (k % tube);
  for (let i = 0; i < around; i++)
    for (let k = 0; k < tube; k++) {
      triangles.push(at(i, k), at(i + 1, k), at(i + 1, k + 1));
      triangles.push(at(i, k), at(i + 1, k + 1), at(i, k + 1));
    }
  return meshFromTriangles(
    new Float32Array(points),
    new Uint32Array(triangles),
  );
}

/** A flat n × n grid of triangles in the xz plane, edge 1, pushed up by a function. */
export function sheetMesh(
  n: number,
  height: (x: number, z: number) => number = () => 0,
): Mesh {
  const points: number[] = [];
  const triangles: number[] = [];
  for (let j = 0; j <= n; j++)
    for (let i = 0; i <= n; i++)
      points.push(i / n, height(i / n, j / n), j / n);
  for (let j = 0; j < n; j++)
    for (let i = 0; i < n; i++) {
      const a = j * (n + 1) + i;
      triangles.push(a, a + n + 1, a + n + 2, a, a + n + 2, a + 1);
    }
  return meshFromTriangles(
    new Float32Array(points),
    new Uint32Array(triangles),
  );
}

/** A mesh moved, and several as one. */
export function moved(mesh: Mesh, x: number, y: number, z: number): Mesh {
  const shift = [x, y, z];
  return {
    ...mesh,
    positions: mesh.positions.map((value, i) => value + shift[i % 3]),
  };
}

export function joined(...meshes: Mesh[]): Mesh {
  const positions: number[] = [];
  const corners: number[] = [];
  const starts = [0];
  for (const mesh of meshes) {
    const base = positions.length / 3;
    for (const x of mesh.positions) positions.push(x);
    for (let f = 0; f + 1 < mesh.faceStarts.length; f++) {
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
        corners.push(base + mesh.corners[c]);
      starts.push(corners.length);
    }
  }
  return createMesh({
    positions: new Float32Array(positions),
    corners: new Uint32Array(corners),
    faceStarts: new Uint32Array(starts),
  });
}

/** A mesh of triangles with a tube of three edges from each first triangle to its second: a bridge or a tunnel. */
export function bridged(
  mesh: Mesh,
  pairs: readonly (readonly [number, number])[],
): Mesh {
  const ends = new Set(pairs.flat());
  const triangles: number[] = [];
  const rim = (t: number) => [...mesh.corners.subarray(3 * t, 3 * t + 3)];
  for (let t = 0; t < mesh.corners.length / 3; t++)
    if (!ends.has(t)) triangles.push(...rim(t));
  for (const [s, t] of pairs) {
    const from = rim(s);
    const [x, y, z] = rim(t);
    const to = [x, z, y];
    for (let k = 0; k < 3; k++) {
      const [a, b] = [from[k], from[(k + 1) % 3]];
      const [c, d] = [to[k], to[(k + 1) % 3]];
      triangles.push(a, b, c, b, d, c);
    }
  }
  return meshFromTriangles(mesh.positions, Uint32Array.from(triangles));
}

/** Single triangles at random in a cube of two, none wider than `size`. */
export function strewn(count: number, seed: number, size = 2): Mesh {
  const random = seededRandom(seed);
  const positions = new Float32Array(9 * count);
  const at = [0, 0, 0];
  for (let i = 0; i < positions.length; i++) {
    if (i % 9 === 0 && size < 2)
      for (let k = 0; k < 3; k++) at[k] = (2 - size) * (random() - 0.5);
    positions[i] = at[i % 3] + size * (random() - 0.5);
  }
  return meshFromTriangles(
    positions,
    Uint32Array.from({ length: 3 * count }, (_, i) => i),
  );
}

/** A large ball and many small ones in rows before it: below some triangles for each the small ones break. */
export function ballsInRows(count: number): { balls: Mesh; wall: Mesh } {
  const ball = sphere(12, 16, 0.2);
  const balls = Array.from({ length: count }, (_, i) =>
    moved(ball, i % 10, Math.floor(i / 10), 0),
  );
  return {
    balls: joined(...balls),
    wall: moved(sphere(40, 60, 3), 0, -5, 0),
  };
}

/** A scan as scanners leave it: a rough sphere with holes, specks, doubled and fanned faces. */
export function roughScan(): Mesh {
  const random = seededRandom(5);
  const body = sphere(90, 120, 1, () => 0.004 * (random() - 0.5));
  const keep = Array.from(
    { length: body.corners.length / 3 },
    (_, f) => f,
  ).filter((f) => f % 97 !== 0);
  const corners = keep.flatMap((f) => [
    ...body.corners.subarray(3 * f, 3 * f + 3),
  ]);
  const doubled = corners.slice(0, 900);
  const points = [...body.positions];
  for (let s = 0; s < 1500; s++) {
    const [x, y, z] = [
      random() * 3 - 1.5,
      random() * 3 - 1.5,
      random() * 3 - 1.5,
    ];
    const base = points.length / 3;
    points.push(x, y, z, x + 0.004, y, z, x, y + 0.004, z);
    corners.push(base, base + 1, base + 2);
  }
  // Fins: a third face on edges that have two.
  for (let s = 0; s < 200; s++) {
    const base = points.length / 3;
    const [a, b] = [corners[30 * s], corners[30 * s + 1]];
    points.push(
      1.02 * points[3 * a],
      1.02 * points[3 * a + 1],
      1.02 * points[3 * a + 2],
    );
    corners.push(a, b, base);
  }
  return meshFromTriangles(
    new Float32Array(points),
    new Uint32Array([...corners, ...doubled]),
  );
}

/** A mesh that many times as large about the origin. */
export const scaled = (mesh: Mesh, by: number): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((x) => by * x),
});
