import { countIslands } from "./connected-islands";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { texelWeight } from "../../mesh/texel-weights";
import { rasterizeTriangle } from "../../space/raster";
import type { Sheet } from "./sheet";
import { tileAt, tileOf, udimOf } from "../../mesh/tiles";
import type { SheetIsland } from "./sheet-islands";

/** The figures of an unwrapped asset (docs/measuring.md). */
export interface UnwrapFigures {
  islands: number;
  /** Share of texel centres covered. */
  fill: number;
  /** Area-weighted L2 stretch, 1 for none. */
  stretch: number;
  /** Share of texel centres covered twice or more. */
  overlap: number;
  /** Triangles laid mirrored. */
  flipped: number;
  /** Texels per metre, weights taken out: 5th and 95th percentile by area. */
  densityMin: number;
  densityMax: number;
  /** Standard deviation of the log of texels per metre, area-weighted. */
  densitySpread: number;
  /** Texels per metre over all. */
  density: number;
  tiles: number;
  /** Share of the surface that lies on texels of something else. */
  shared: number;
  /** Triangles that lie on no tile. */
  outside: number;
  /** Tiles by UDIM number, and the share of each that is covered. */
  perTile: { tile: number; fill: number }[];
}

/**
 * Measures the UVs of meshes that share sheets of `width` × `height` px; meshes without UVs are left out, and what
 * shares the texels of something else counts neither for the fill nor as overlap.
 * In one piece: one walk over the triangles gathers all figures.
 */
export function measureUnwrap(
  meshes: readonly Mesh[],
  { width, height }: Pick<Sheet, "width" | "height">,
): UnwrapFigures {
  const covers = new Map<number, Uint8Array>();
  const logs: { area: number; log: number }[] = [];
  let islands = 0;
  let flipped = 0;
  let shared = 0;
  let outside = 0;
  let area = 0;
  let flat = 0;
  let l2 = 0;
  for (const mesh of meshes) {
    const { uvs } = mesh;
    if (!uvs) continue;
    islands += countIslands(mesh);
    // Stretch is told in pixels: a sheet that is not square stretches UVs, not texels.
    const pixels = uvs.map((x, i) => x * (i % 2 ? height : width));
    const { corners, vertices, faces } = triangulate(mesh);
    for (let t = 0; t < corners.length; t += 3) {
      const shape = shapeOf(mesh.positions, pixels, vertices, corners, t);
      const [x0, y0, x1, y1, x2, y2] = [0, 1, 2].flatMap((k) => [
        pixels[2 * corners[t + k]],
        pixels[2 * corners[t + k] + 1],
      ]);
      const face = faces[t / 3];
      const tile = tileOf(
        (x0 + x1 + x2) / 3 / width,
        (y0 + y1 + y2) / 3 / height,
      );
      if (mesh.copies?.[face]) shared += shape.area;
      else {
        if (shape.det < -1e-9 * shape.norm) flipped++;
        if (tile < 0) outside++;
        else {
          let cover = covers.get(tile);
          if (!cover)
            covers.set(tile, (cover = new Uint8Array(width * height)));
          const own = cover;
          const [dx, dy] = tileAt(tile);
          rasterizeTriangle(
            x0 - dx * width,
            y0 - dy * height,
            x1 - dx * width,
            y1 - dy * height,
            x2 - dx * width,
            y2 - dy * height,
            width,
            height,
            (row, from, to) => {
              for (let x = row * width + from; x < row * width + to; x++)
                if (own[x] < 2) own[x]++;
            },
          );
        }
      }
      const det = Math.abs(shape.det);
      if (!(shape.area > 0) || !(det > 0)) continue;
      if (shape.det < 0 && !mesh.copies?.[face]) continue;
      const weight = texelWeight(mesh.texelWeights?.[face] ?? 0);
      const even = det / (weight * weight);
      area += shape.area;
      flat += shape.area * even;
      l2 += (shape.area * shape.norm * weight * weight) / (2 * det * det);
      logs.push({ area: shape.area, log: Math.log(even) / 2 });
    }
  }
  let covered = 0;
  let twice = 0;
  for (const cover of covers.values())
    for (const c of cover) {
      if (c > 0) covered++;
      if (c > 1) twice++;
    }
  const texels = Math.max(1, covers.size) * width * height;
  const mean =
    logs.reduce((sum, each) => sum + each.area * each.log, 0) / (area || 1);
  const squares =
    logs.reduce((sum, each) => sum + each.area * (each.log - mean) ** 2, 0) /
    (area || 1);
  logs.sort((a, b) => a.log - b.log);
  return {
    islands,
    fill: covered / texels,
    stretch: area > 0 ? Math.sqrt((l2 / area) * (flat / area)) : 1,
    overlap: twice / texels,
    flipped,
    densityMin: percentile(logs, area, 0.05),
    densityMax: percentile(logs, area, 0.95),
    densitySpread: Math.sqrt(squares),
    density: area > 0 ? Math.sqrt(flat / area) : 0,
    tiles: Math.max(1, covers.size),
    shared: area > 0 ? shared / area : 0,
    outside,
    perTile: [...covers]
      .sort(([a], [b]) => a - b)
      .map(([tile, cover]) => ({
        tile: udimOf(tile),
        fill: cover.reduce((sum, c) => sum + (c ? 1 : 0), 0) / (width * height),
      })),
  };
}

function percentile(
  logs: { area: number; log: number }[],
  area: number,
  share: number,
): number {
  let sum = 0;
  for (const each of logs) {
    sum += each.area;
    if (sum >= share * area) return Math.exp(each.log);
  }
  return 0;
}

/** Below this share of its squared edges a triangle has no area. */
const NO_AREA = 1e-7;

/** Area in space, and determinant and squared norm of the map from the triangle's plane to UV. */
function shapeOf(
  p: Float32Array,
  uvs: Float32Array,
  vertices: Uint32Array,
  corners: Uint32Array,
  t: number,
) {
  const [a, b, c] = [0, 1, 2].map((k) => 3 * vertices[t + k]);
  const ux = p[b] - p[a];
  const uy = p[b + 1] - p[a + 1];
  const uz = p[b + 2] - p[a + 2];
  const vx = p[c] - p[a];
  const vy = p[c + 1] - p[a + 1];
  const vz = p[c + 2] - p[a + 2];
  const double = Math.hypot(
    uy * vz - uz * vy,
    uz * vx - ux * vz,
    ux * vy - uy * vx,
  );
  const x1 = Math.hypot(ux, uy, uz);
  const x2 = x1 > 0 ? (ux * vx + uy * vy + uz * vz) / x1 : 0;
  const y2 = x1 > 0 ? double / x1 : 0;
  const [i, j, k] = [0, 1, 2].map((n) => 2 * corners[t + n]);
  const s1 = uvs[j] - uvs[i];
  const t1 = uvs[j + 1] - uvs[i + 1];
  const s2 = uvs[k] - uvs[i];
  const t2 = uvs[k + 1] - uvs[i + 1];
  // Without area of its own a triangle must have none on the sheet either: half a pixel is laid mirrored.
  if (!(double > NO_AREA * (x1 * x1 + vx * vx + vy * vy + vz * vz))) {
    const double2 = s1 * t2 - s2 * t1;
    return { area: 0, det: double2 < -1 ? -1 : 0, norm: 1 };
  }
  const ja = s1 / x1;
  const jc = t1 / x1;
  const jb = (s2 - ja * x2) / y2;
  const jd = (t2 - jc * x2) / y2;
  return {
    area: double / 2,
    det: ja * jd - jb * jc,
    norm: ja * ja + jb * jb + jc * jc + jd * jd,
  };
}

/** L2 stretch of each island, 1 for none. */
export function stretchOf(
  meshes: readonly Mesh[],
  islands: readonly SheetIsland[],
  { width, height }: Pick<Sheet, "width" | "height">,
): number[] {
  const area = new Float64Array(islands.length);
  const flat = new Float64Array(islands.length);
  const l2 = new Float64Array(islands.length);
  meshes.forEach((mesh, m) => {
    if (!mesh.uvs) return;
    const of = new Int32Array(mesh.faceStarts.length - 1).fill(-1);
    islands.forEach((island, i) => {
      if (island.mesh === m) for (const f of island.faces) of[f] = i;
    });
    const pixels = mesh.uvs.map((x, i) => x * (i % 2 ? height : width));
    const { corners, vertices, faces } = triangulate(mesh);
    for (let t = 0; t < faces.length; t++) {
      const i = of[faces[t]];
      if (i < 0) continue;
      const shape = shapeOf(mesh.positions, pixels, vertices, corners, 3 * t);
      const det = Math.abs(shape.det);
      if (!(shape.area > 0) || !(det > 0)) continue;
      area[i] += shape.area;
      flat[i] += shape.area * det;
      l2[i] += (shape.area * shape.norm) / (2 * det * det);
    }
  });
  return islands.map((_, i) =>
    area[i] > 0 ? Math.sqrt((l2[i] / area[i]) * (flat[i] / area[i])) : 1,
  );
}
