import type { Mesh } from "../mesh/mesh";
import { buildEdges } from "../mesh/edges";
import { nextCorners } from "../mesh/normals";
import { triangulate } from "../mesh/triangulate";
import { rasterizeTriangle } from "../space/raster";

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
  /** Texels per metre: least and most of any triangle, 5th to 95th percentile by area. */
  densityMin: number;
  densityMax: number;
  /** Standard deviation of the log of texels per metre, area-weighted. */
  densitySpread: number;
  /** Texels per metre over all. */
  density: number;
  tiles: number;
}

/** Measures the UVs of meshes that share one sheet of `size` × `size` px; meshes without UVs are left out. */
export function measureUnwrap(
  meshes: readonly Mesh[],
  size: number,
): UnwrapFigures {
  const cover = new Uint8Array(size * size);
  const logs: { area: number; log: number }[] = [];
  let islands = 0;
  let flipped = 0;
  let area = 0;
  let flat = 0;
  let l2 = 0;
  const tiles = new Set<string>();
  for (const mesh of meshes) {
    const { uvs } = mesh;
    if (!uvs) continue;
    islands += countIslands(mesh);
    const { corners, vertices } = triangulate(mesh);
    for (let t = 0; t < corners.length; t += 3) {
      const shape = shapeOf(mesh.positions, uvs, vertices, corners, t);
      const [u0, v0, u1, v1, u2, v2] = [0, 1, 2].flatMap((k) => [
        uvs[2 * corners[t + k]],
        uvs[2 * corners[t + k] + 1],
      ]);
      if (shape.det < -1e-9 * shape.norm) flipped++;
      tiles.add(
        `${Math.floor((u0 + u1 + u2) / 3)} ${Math.floor((v0 + v1 + v2) / 3)}`,
      );
      rasterizeTriangle(
        u0 * size,
        v0 * size,
        u1 * size,
        v1 * size,
        u2 * size,
        v2 * size,
        size,
        size,
        (row, from, to) => {
          for (let x = row * size + from; x < row * size + to; x++)
            if (cover[x] < 2) cover[x]++;
        },
      );
      if (!(shape.area > 0) || !(shape.det > 0)) continue;
      area += shape.area;
      flat += shape.area * shape.det;
      l2 += (shape.area * shape.norm) / (2 * shape.det * shape.det);
      logs.push({
        area: shape.area,
        log: Math.log(shape.det) / 2 + Math.log(size),
      });
    }
  }
  let covered = 0;
  let twice = 0;
  for (const c of cover) {
    if (c > 0) covered++;
    if (c > 1) twice++;
  }
  const mean =
    logs.reduce((sum, each) => sum + each.area * each.log, 0) / (area || 1);
  const squares =
    logs.reduce((sum, each) => sum + each.area * (each.log - mean) ** 2, 0) /
    (area || 1);
  logs.sort((a, b) => a.log - b.log);
  return {
    islands,
    fill: covered / (size * size),
    stretch: area > 0 ? Math.sqrt((l2 / area) * (flat / area)) : 1,
    overlap: twice / (size * size),
    flipped,
    densityMin: percentile(logs, area, 0.05),
    densityMax: percentile(logs, area, 0.95),
    densitySpread: Math.sqrt(squares),
    density: area > 0 ? Math.sqrt(flat / area) * size : 0,
    tiles: Math.max(1, tiles.size),
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
  if (!(double > 0)) return { area: 0, det: 0, norm: 1 };
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

/** Faces that share an edge with equal UVs at both its ends belong to one island. */
export function countIslands(mesh: Mesh): number {
  const { count } = islandsOf(mesh);
  return count;
}

/** The island of every face. */
export function islandsOf(mesh: Mesh): { count: number; ofFace: Uint32Array } {
  const faces = mesh.faceStarts.length - 1;
  const uvs = mesh.uvs!;
  const parent = new Uint32Array(faces).map((_, f) => f);
  const find = (f: number) => {
    while (parent[f] !== f) {
      parent[f] = parent[parent[f]];
      f = parent[f];
    }
    return f;
  };
  const edges = buildEdges(mesh);
  const next = nextCorners(mesh.faceStarts, mesh.corners.length);
  const face = new Uint32Array(mesh.corners.length);
  for (let f = 0; f < faces; f++)
    face.fill(f, mesh.faceStarts[f], mesh.faceStarts[f + 1]);
  for (let e = 0; e < edges.count; e++) {
    const c = edges.first[e];
    const d = edges.second[e];
    if (d < 0) continue;
    const straight = mesh.corners[c] === mesh.corners[d];
    const same = (a: number, b: number) =>
      uvs[2 * a] === uvs[2 * b] && uvs[2 * a + 1] === uvs[2 * b + 1];
    if (
      same(c, straight ? d : next[d]) &&
      same(next[c], straight ? next[d] : d)
    )
      parent[find(face[c])] = find(face[d]);
  }
  const names = new Int32Array(faces).fill(-1);
  const ofFace = new Uint32Array(faces);
  let count = 0;
  for (let f = 0; f < faces; f++) {
    const root = find(f);
    if (names[root] < 0) names[root] = count++;
    ofFace[f] = names[root];
  }
  return { count, ofFace };
}
