import type { Grid } from "./contour";
import { contour } from "./contour";
import { boundsOf } from "../../space/bounds";
import { buildBvh } from "../../space/bvh";
import { joinMeshes } from "../../mesh/change-faces";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { WindingNumber } from "../../space/winding-number";

/** Free cells round the body, and the most corners a grid may have. */
const MARGIN = 2;
const MOST_CORNERS = 60_000_000;
/** Corners within so many cells of a triangle's plane are asked for their side; the rest follow from them. */
const BAND = 1.8;

/**
 * One closed surface over any number of pieces that may pass through each other: the side of every corner of a
 * grid by how often the pieces wind round it, then a vertex for every sheet in every cell, placed where the
 * planes of the crossings meet, so that sharp edges stay (dual contouring after Ju, Losasso, Schaefer, Warren 2002,
 * with a vertex a sheet as Nielson 2004 has it, so that the result is manifold).
 * @param cells along the longest side
 * @returns quads; closed and manifold
 */
export function skinOver(
  meshes: readonly Mesh[],
  cells: number,
  check: () => void,
  progress: (share: number) => void = () => {},
): Mesh {
  const body = joinMeshes(meshes);
  const { vertices } = triangulate(body);
  const bvh = buildBvh(body.positions, vertices);
  const grid = layGrid(body.positions, cells);
  findInside(
    grid,
    body.positions,
    vertices,
    new WindingNumber(bvh),
    check,
    progress,
  );
  check();
  return contour(grid, bvh, check);
}

function layGrid(positions: Float32Array, cells: number): Grid {
  const { min, max } = boundsOf(positions);
  const span = [0, 1, 2].map((k) => max[k] - min[k]);
  let cell = Math.max(...span) / cells || 1;
  const counts = () =>
    span.map(
      (s) => Math.ceil(s / cell) + 2 * MARGIN + 1,
    ) as unknown as Grid["n"];
  while (counts().reduce((product, n) => product * n, 1) > MOST_CORNERS)
    cell *= 1.05;
  const n = counts();
  // Off the round numbers, so that flat sides of a body do not fall on a plane of corners.
  const low = min.map(
    (x, k) => x - ((n[k] - 1) * cell - span[k]) / 2 + 0.0137 * cell,
  ) as unknown as Grid["low"];
  return { n, low, cell, inside: new Uint8Array(n[0] * n[1] * n[2]) };
}

function findInside(
  grid: Grid,
  p: Float32Array,
  triangles: Uint32Array,
  winding: WindingNumber,
  check: () => void,
  progress: (share: number) => void,
): void {
  const { n, low, cell, inside } = grid;
  const near = new Uint8Array(inside.length);
  const reach = BAND * cell;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [
      3 * triangles[t],
      3 * triangles[t + 1],
      3 * triangles[t + 2],
    ];
    const from = [0, 0, 0];
    const to = [0, 0, 0];
    for (let k = 0; k < 3; k++) {
      const least = Math.min(p[a + k], p[b + k], p[c + k]) - reach - low[k];
      const most = Math.max(p[a + k], p[b + k], p[c + k]) + reach - low[k];
      from[k] = Math.max(0, Math.ceil(least / cell));
      to[k] = Math.min(n[k] - 1, Math.floor(most / cell));
    }
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const vx = p[c] - p[a];
    const vy = p[c + 1] - p[a + 1];
    const vz = p[c + 2] - p[a + 2];
    let nx = uy * vz - uz * vy;
    let ny = uz * vx - ux * vz;
    let nz = ux * vy - uy * vx;
    const size = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1;
    nx /= size;
    ny /= size;
    nz /= size;
    for (let z = from[2]; z <= to[2]; z++)
      for (let y = from[1]; y <= to[1]; y++) {
        const row = (z * n[1] + y) * n[0];
        const part =
          ny * (low[1] + y * cell - p[a + 1]) +
          nz * (low[2] + z * cell - p[a + 2]);
        for (let x = from[0]; x <= to[0]; x++)
          if (Math.abs(nx * (low[0] + x * cell - p[a]) + part) <= reach)
            near[row + x] = 1;
      }
  }
  for (let z = 0, i = 0; z < n[2]; z++) {
    check();
    progress(z / n[2]);
    for (let y = 0; y < n[1]; y++)
      for (let x = 0; x < n[0]; x++, i++) {
        if (near[i])
          inside[i] =
            winding.at(
              low[0] + x * cell,
              low[1] + y * cell,
              low[2] + z * cell,
            ) > 0.5
              ? 1
              : 0;
        // No surface lies between a corner that is far from all of them and the one before it.
        else if (x > 0) inside[i] = inside[i - 1];
      }
  }
}
