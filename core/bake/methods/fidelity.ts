import type { Asset } from "../../asset/asset";
import type { BakedMap } from "../../base/pictures";
import { cornerNormals } from "../../mesh/normals";
import { tangentsOf } from "../../mesh/tangents";
import { triangulate } from "../../mesh/triangulate";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { buildBvh } from "../../space/bvh";
import { RayScene, widen } from "../../space/ray-scene";
import { sampleSurface } from "../../space/sample";
import { sourceNormals } from "./scene";

export interface Fidelity {
  /** Degrees between the normal that game mesh and map give and the source's. */
  mean: number;
  p95: number;
  /** Share of points whose ray meets no source. */
  unmet: number;
}

/**
 * How true a normal map is: at area-weighted points of the game surface, the angle between the shaded normal
 * (MikkTSpace, bilinear map) and the source's normal where a ray along the shading normal first meets it,
 * from up to 2 % of the source's diagonal outside to as far inside.
 * In one piece: a loop over points that allocates nothing and shares its scratch.
 */
export function measureFidelity(
  asset: Asset,
  map: BakedMap,
  greenUp: boolean,
  count = 20000,
): Fidelity {
  const sources = asset.parts.flatMap((part) =>
    part.source ? [part.source] : [],
  );
  const games = asset.parts.flatMap((part) =>
    part.game?.uvs ? [part.game] : [],
  );
  const positions: number[][] = [];
  const corners: Float32Array[] = [];
  for (const mesh of sources) {
    const split = triangulate(mesh);
    const normals = sourceNormals(mesh);
    positions.push(
      Array.from(split.vertices, (v) => v).flatMap((v) => [
        mesh.positions[3 * v],
        mesh.positions[3 * v + 1],
        mesh.positions[3 * v + 2],
      ]),
    );
    corners.push(
      Float32Array.from(
        Array.from(split.corners, (c) => c).flatMap((c) => [
          normals[3 * c],
          normals[3 * c + 1],
          normals[3 * c + 2],
        ]),
      ),
    );
  }
  const flat = new Float32Array(
    positions.reduce((sum, list) => sum + list.length, 0),
  );
  const shading = new Float32Array(flat.length);
  let at = 0;
  positions.forEach((list, i) => {
    flat.set(list, at);
    shading.set(corners[i], at);
    at += list.length;
  });
  const rays = new RayScene([
    widen(
      buildBvh(
        flat,
        new Uint32Array(flat.length / 3).map((_, i) => i),
      ),
    ),
  ]);
  const reach = 0.02 * diagonalOf(boundsOf(flat));
  const splits = games.map((mesh) => triangulate(mesh));
  const areas = games.map(
    (mesh, g) => sampleSurface(mesh.positions, splits[g].vertices, 1).area,
  );
  const total = areas.reduce((sum, area) => sum + area, 0);
  const angles: number[] = [];
  let unmet = 0;
  games.forEach((mesh, g) => {
    const split = splits[g];
    const normals = mesh.normals ?? cornerNormals(mesh);
    const tangents = tangentsOf(mesh, normals, split);
    const { points, triangles } = sampleSurface(
      mesh.positions,
      split.vertices,
      Math.max(1, Math.round((count * areas[g]) / total)),
      11,
    );
    for (let i = 0; i < triangles.length; i++) {
      const t = triangles[i];
      const p = points.subarray(3 * i, 3 * i + 3);
      const [a, b, c] = weightsAt(mesh.positions, split.vertices, t, p);
      const n = blend(
        normals,
        [0, 1, 2].map((k) => 3 * split.corners[3 * t + k]),
        a,
        b,
        c,
      );
      const tangent = blend(
        tangents,
        [0, 1, 2].map((k) => 4 * (3 * t + k)),
        a,
        b,
        c,
      );
      const uv = [0, 1].map(
        (k) =>
          a * mesh.uvs![2 * split.corners[3 * t] + k] +
          b * mesh.uvs![2 * split.corners[3 * t + 1] + k] +
          c * mesh.uvs![2 * split.corners[3 * t + 2] + k],
      );
      const d = unit(n);
      const hit = rays.first(
        0,
        p[0] + d[0] * reach,
        p[1] + d[1] * reach,
        p[2] + d[2] * reach,
        -d[0],
        -d[1],
        -d[2],
        0,
        2 * reach,
      );
      if (hit < 0) {
        unmet++;
        continue;
      }
      const truth = unit(
        blend(
          shading,
          [9 * hit, 9 * hit + 3, 9 * hit + 6],
          1 - rays.u - rays.v,
          rays.u,
          rays.v,
        ),
      );
      const x = sampleMap(map, uv[0], uv[1]);
      if (!greenUp) x[1] = -x[1];
      const sign = tangents[12 * t + 3];
      const bitangent = [
        n[1] * tangent[2] - n[2] * tangent[1],
        n[2] * tangent[0] - n[0] * tangent[2],
        n[0] * tangent[1] - n[1] * tangent[0],
      ];
      const shown = unit(
        [0, 1, 2].map(
          (k) => x[0] * tangent[k] + sign * x[1] * bitangent[k] + x[2] * n[k],
        ),
      );
      const dot =
        shown[0] * truth[0] + shown[1] * truth[1] + shown[2] * truth[2];
      angles.push((Math.acos(Math.max(-1, Math.min(1, dot))) * 180) / Math.PI);
    }
  });
  angles.sort((a, b) => a - b);
  return {
    mean: angles.reduce((sum, angle) => sum + angle, 0) / (angles.length || 1),
    p95: angles[Math.floor(0.95 * angles.length)] ?? 0,
    unmet: unmet / (unmet + angles.length || 1),
  };
}

function weightsAt(
  p: Float32Array,
  v: Uint32Array,
  t: number,
  q: ArrayLike<number>,
): [number, number, number] {
  const [i, j, k] = [0, 1, 2].map((n) => 3 * v[3 * t + n]);
  const e = [0, 1, 2].map((n) => p[j + n] - p[i + n]);
  const f = [0, 1, 2].map((n) => p[k + n] - p[i + n]);
  const w = [0, 1, 2].map((n) => q[n] - p[i + n]);
  const dot = (x: number[], y: number[]) =>
    x[0] * y[0] + x[1] * y[1] + x[2] * y[2];
  const det = dot(e, e) * dot(f, f) - dot(e, f) ** 2 || 1;
  const b = (dot(f, f) * dot(w, e) - dot(e, f) * dot(w, f)) / det;
  const c = (dot(e, e) * dot(w, f) - dot(e, f) * dot(w, e)) / det;
  return [1 - b - c, b, c];
}

const blend = (
  values: Float32Array,
  at: number[],
  a: number,
  b: number,
  c: number,
) =>
  [0, 1, 2].map(
    (k) =>
      a * values[at[0] + k] + b * values[at[1] + k] + c * values[at[2] + k],
  );

function unit(v: number[]): number[] {
  const length = Math.hypot(v[0], v[1], v[2]) || 1;
  return v.map((x) => x / length);
}

/** Bilinear, −1 … 1. */
function sampleMap(map: BakedMap, u: number, v: number): number[] {
  const top = map.depth === 16 ? 65535 : 255;
  const x = u * map.width - 0.5;
  const y = (1 - v) * map.height - 0.5;
  const x0 = Math.floor(x);
  const y0 = Math.floor(y);
  const value = [0, 0, 0];
  for (let dy = 0; dy < 2; dy++)
    for (let dx = 0; dx < 2; dx++) {
      const px = Math.max(0, Math.min(map.width - 1, x0 + dx));
      const py = Math.max(0, Math.min(map.height - 1, y0 + dy));
      const w = (dx ? x - x0 : 1 - x + x0) * (dy ? y - y0 : 1 - y + y0);
      for (let k = 0; k < 3; k++)
        value[k] +=
          w * ((map.pixels[3 * (py * map.width + px) + k] / top) * 2 - 1);
    }
  return value;
}
