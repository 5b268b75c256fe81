import type { Mesh } from "./mesh";
import type { Triangulation } from "./triangulate";
import { hashPair } from "../base/pair-set";

const NOTHING = 1.1754943508222875e-38;

/**
 * Tangents after Mikkelsen 2008 ("MikkTSpace"), for a triangulated mesh: triangles round a vertex that share
 * position, normal, UV and winding of UV form a group through their common edges; a group's tangent is the
 * angle-weighted mean of its triangles' UV directions, laid into the plane of the normal.
 * @param normals 3 × cornerCount of the mesh
 * @returns 4 × (3 × triangleCount): unit tangent, and the sign of the bitangent sign · (n × t)
 * @throws RangeError where the mesh has no UVs
 */
export function tangentsOf(
  mesh: Mesh,
  normals: Float32Array,
  split: Triangulation,
): Float32Array {
  const { uvs, positions } = mesh;
  if (!uvs) throw new RangeError("tangents need UVs");
  const { corners, vertices } = split;
  const count = corners.length / 3;
  const point = weldCorners(mesh, normals, split);
  const basis = triangleBases(positions, uvs, split);
  const neighbours = neighbourTriangles(point, basis.degenerate);
  const group = new Int32Array(3 * count).fill(-1);
  const members: number[][] = [];
  const preserving = basis.preserving;
  const stack: number[] = [];
  for (let t = 0; t < count; t++) {
    if (basis.degenerate[t] || basis.any[t]) continue;
    for (let k = 0; k < 3; k++) {
      if (group[3 * t + k] >= 0) continue;
      const own = members.length;
      members.push([]);
      const vertex = point[3 * t + k];
      stack.push(t);
      while (stack.length) {
        const at = stack.pop()!;
        const i =
          point[3 * at] === vertex ? 0 : point[3 * at + 1] === vertex ? 1 : 2;
        const c = 3 * at + i;
        if (point[c] !== vertex || group[c] >= 0) continue;
        if (
          basis.any[at] &&
          group[3 * at] < 0 &&
          group[3 * at + 1] < 0 &&
          group[3 * at + 2] < 0
        )
          preserving[at] = preserving[t];
        if (preserving[at] !== preserving[t]) continue;
        group[c] = own;
        members[own].push(c);
        const left = neighbours[c];
        const right = neighbours[3 * at + (i === 0 ? 2 : i - 1)];
        if (right >= 0) stack.push(right);
        if (left >= 0) stack.push(left);
      }
    }
  }
  const tangents = new Float32Array(12 * count);
  for (let c = 0; c < 3 * count; c++) tangents[4 * c] = 1;
  for (let c = 0; c < 3 * count; c++)
    tangents[4 * c + 3] = preserving[(c / 3) | 0] ? 1 : -1;
  for (const list of members) {
    const t = groupTangent(list, normals, positions, split, basis);
    for (const c of list) tangents.set(t, 4 * c);
  }
  copyToDegenerate(point, basis.degenerate, group, tangents, vertices);
  return tangents;
}

interface Bases {
  /** 3 × triangleCount: unit direction in which u grows. */
  along: Float64Array;
  preserving: Uint8Array;
  /** No usable UV area: may join any group. */
  any: Uint8Array;
  degenerate: Uint8Array;
}

/** Corners with equal position, normal and UV get the same number. */
function weldCorners(
  mesh: Mesh,
  normals: Float32Array,
  { corners, vertices }: Triangulation,
): Int32Array {
  const bits = new Int32Array(8);
  const floats = new Float32Array(bits.buffer);
  const size = 1 << Math.max(4, Math.ceil(Math.log2(corners.length * 1.6 + 1)));
  const table = new Int32Array(size).fill(-1);
  const keys = new Int32Array(8 * corners.length);
  const point = new Int32Array(corners.length);
  for (let c = 0; c < corners.length; c++) {
    for (let k = 0; k < 3; k++) {
      // Adding 0 makes −0 and 0 the same.
      floats[k] = mesh.positions[3 * vertices[c] + k] + 0;
      floats[3 + k] = normals[3 * corners[c] + k] + 0;
    }
    floats[6] = mesh.uvs![2 * corners[c]] + 0;
    floats[7] = mesh.uvs![2 * corners[c] + 1] + 0;
    let h = 0;
    for (let k = 0; k < 8; k++) h = hashPair(h, bits[k]);
    let slot = h & (size - 1);
    for (;;) {
      const other = table[slot];
      if (other < 0) {
        table[slot] = c;
        keys.set(bits, 8 * c);
        point[c] = c;
        break;
      }
      let same = true;
      for (let k = 0; k < 8 && same; k++)
        same = keys[8 * other + k] === bits[k];
      if (same) {
        point[c] = other;
        break;
      }
      slot = (slot + 1) & (size - 1);
    }
  }
  return point;
}

function triangleBases(
  p: Float32Array,
  uvs: Float32Array,
  { corners, vertices }: Triangulation,
): Bases {
  const count = corners.length / 3;
  const along = new Float64Array(3 * count);
  const preserving = new Uint8Array(count);
  const any = new Uint8Array(count);
  const degenerate = new Uint8Array(count);
  for (let t = 0; t < count; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => 3 * vertices[3 * t + k]);
    const [i, j, k] = [0, 1, 2].map((n) => 2 * corners[3 * t + n]);
    const same = (x: number, y: number) =>
      p[x] === p[y] && p[x + 1] === p[y + 1] && p[x + 2] === p[y + 2];
    if (same(a, b) || same(a, c) || same(b, c)) degenerate[t] = 1;
    const s21 = uvs[j] - uvs[i];
    const t21 = uvs[j + 1] - uvs[i + 1];
    const s31 = uvs[k] - uvs[i];
    const t31 = uvs[k + 1] - uvs[i + 1];
    const area = s21 * t31 - t21 * s31;
    preserving[t] = area > 0 ? 1 : 0;
    any[t] = 1;
    if (!(Math.abs(area) > NOTHING)) continue;
    const os = [0, 1, 2].map(
      (n) => t31 * (p[b + n] - p[a + n]) - t21 * (p[c + n] - p[a + n]),
    );
    const ot = [0, 1, 2].map(
      (n) => -s31 * (p[b + n] - p[a + n]) + s21 * (p[c + n] - p[a + n]),
    );
    const lengthS = Math.hypot(os[0], os[1], os[2]);
    const lengthT = Math.hypot(ot[0], ot[1], ot[2]);
    const sign = area > 0 ? 1 : -1;
    if (lengthS > NOTHING)
      for (let n = 0; n < 3; n++) along[3 * t + n] = (sign * os[n]) / lengthS;
    if (
      lengthS / Math.abs(area) > NOTHING &&
      lengthT / Math.abs(area) > NOTHING
    )
      any[t] = 0;
  }
  return { along, preserving, any, degenerate };
}

/** 3 × triangleCount: the triangle across the edge that leaves a corner, or −1; pairs run in opposite ways. */
function neighbourTriangles(
  point: Int32Array,
  degenerate: Uint8Array,
): Int32Array {
  const neighbours = new Int32Array(point.length).fill(-1);
  const open = new Map<number, number[]>();
  const span = point.length;
  for (let c = 0; c < point.length; c++) {
    const t = (c / 3) | 0;
    if (degenerate[t]) continue;
    const a = point[c];
    const b = point[c % 3 === 2 ? c - 2 : c + 1];
    const waiting = open.get(b * span + a);
    if (waiting?.length) {
      const other = waiting.shift()!;
      neighbours[c] = (other / 3) | 0;
      neighbours[other] = t;
      continue;
    }
    const key = a * span + b;
    const list = open.get(key);
    if (list) list.push(c);
    else open.set(key, [c]);
  }
  return neighbours;
}

function groupTangent(
  list: readonly number[],
  normals: Float32Array,
  p: Float32Array,
  { corners, vertices }: Triangulation,
  basis: Bases,
): [number, number, number] {
  const sum = [0, 0, 0];
  for (const c of list) {
    const t = (c / 3) | 0;
    if (basis.any[t]) continue;
    const i = c - 3 * t;
    const m = 3 * corners[c];
    const n = [normals[m], normals[m + 1], normals[m + 2]];
    const flat = (v: number[]) => {
      const d = n[0] * v[0] + n[1] * v[1] + n[2] * v[2];
      const w = [v[0] - d * n[0], v[1] - d * n[1], v[2] - d * n[2]];
      const length = Math.hypot(w[0], w[1], w[2]);
      return length > NOTHING ? w.map((x) => x / length) : w;
    };
    const os = flat([
      basis.along[3 * t],
      basis.along[3 * t + 1],
      basis.along[3 * t + 2],
    ]);
    const o = 3 * vertices[c];
    const before = 3 * vertices[3 * t + (i === 0 ? 2 : i - 1)];
    const after = 3 * vertices[3 * t + (i === 2 ? 0 : i + 1)];
    const v1 = flat([0, 1, 2].map((k) => p[before + k] - p[o + k]));
    const v2 = flat([0, 1, 2].map((k) => p[after + k] - p[o + k]));
    const cos = v1[0] * v2[0] + v1[1] * v2[1] + v1[2] * v2[2];
    const angle = Math.acos(Math.max(-1, Math.min(1, cos)));
    for (let k = 0; k < 3; k++) sum[k] += angle * os[k];
  }
  const length = Math.hypot(sum[0], sum[1], sum[2]);
  return length > NOTHING
    ? [sum[0] / length, sum[1] / length, sum[2] / length]
    : [1, 0, 0];
}

/** A triangle without extent takes the tangents of sound triangles at the same vertices. */
function copyToDegenerate(
  point: Int32Array,
  degenerate: Uint8Array,
  group: Int32Array,
  tangents: Float32Array,
  vertices: Uint32Array,
): void {
  if (!degenerate.some((mark) => mark !== 0)) return;
  const donor = new Map<number, number>();
  for (let c = 0; c < vertices.length; c++)
    if (!degenerate[(c / 3) | 0] && group[c] >= 0 && !donor.has(point[c]))
      donor.set(point[c], c);
  for (let c = 0; c < vertices.length; c++) {
    const from = degenerate[(c / 3) | 0] ? donor.get(point[c]) : undefined;
    if (from !== undefined)
      tangents.set(tangents.subarray(4 * from, 4 * from + 4), 4 * c);
  }
}
