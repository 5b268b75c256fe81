import { triangleArea } from "../space/sample";
import { faceComponents } from "./components";
import { LookedAt } from "./looked-at";
import type { Mesh } from "./mesh";
import { faceCount, withFaces } from "./mesh";

/**
 * The borders as loops of corners, each corner's edge running along the hole with the face on its left. Borders
 * that do not come back to where they began (between faces wound against each other) are left out.
 */
export function borderLoops(look: LookedAt): number[][] {
  const { edges, next, mesh } = look;
  const taken = new Uint8Array(mesh.corners.length);
  const loops: number[][] = [];
  for (let e = 0; e < edges.count; e++) {
    const start = edges.first[e];
    if (edges.uses[e] !== 1 || taken[start]) continue;
    const loop: number[] = [];
    for (let c = start; ;) {
      taken[c] = 1;
      loop.push(c);
      let h = next[c];
      for (let turns = 0; turns < 4096; turns++) {
        const d = look.across(h);
        if (d < 0 || mesh.corners[d] === mesh.corners[h]) break;
        h = next[d];
      }
      if (h === start) {
        loops.push(loop);
        break;
      }
      if (taken[h] || edges.uses[edges.ofCorner[h]] !== 1) break;
      c = h;
    }
  }
  return loops;
}

/** Loops up to this length are filled by the triangulation of least area, longer ones by clipping sharp corners. */
const LONGEST_EXACT = 90;

/**
 * Fills every hole: flat ones with one n-gon, others with the triangles of least area (Barequet and Sharir 1995,
 * "Filling gaps in the boundary of a polyhedron", section 4). The outline of a sheet is no hole.
 * @returns the mesh and how many holes were filled
 */
export function fillHoles(mesh: Mesh): { mesh: Mesh; holes: number } {
  const look = new LookedAt(mesh, 0);
  const loops = withoutOutlines(look, borderLoops(look));
  if (!loops.length) return { mesh, holes: 0 };
  const corners = [...mesh.corners];
  const oldCorner = corners.map((_, c) => c);
  const starts = [...mesh.faceStarts];
  const oldFace = Array.from({ length: faceCount(mesh) }, (_, f) => f);
  for (const loop of loops) {
    // The hole's own faces run against the border.
    const ring = loop.map((c) => look.next[c]).reverse();
    const like = look.face[loop[0]];
    const put = (...of: number[]) => {
      for (const c of of) {
        corners.push(mesh.corners[c]);
        oldCorner.push(c);
      }
      starts.push(corners.length);
      oldFace.push(like);
    };
    if (ring.length === 3 || (ring.length <= 64 && isFlat(mesh, ring)))
      put(...ring);
    else
      for (const [a, b, c] of ring.length <= LONGEST_EXACT
        ? leastArea(mesh, ring)
        : clipSharpest(mesh, ring))
        put(a, b, c);
  }
  const filled = withFaces(
    mesh,
    Uint32Array.from(starts),
    Uint32Array.from(oldCorner),
    Uint32Array.from(oldFace),
    Uint32Array.from(corners),
  );
  const from = mesh.corners.length;
  for (const marks of [filled.seams, filled.hard, filled.creases, filled.cuts])
    marks?.fill(0, from);
  if (filled.normals) flatNormals(filled, faceCount(mesh));
  return { mesh: filled, holes: loops.length };
}

/** Leaves out loops that close off as much area as the surface they bound has: outlines of sheets. */
function withoutOutlines(look: LookedAt, loops: number[][]): number[][] {
  const { mesh, face, next } = look;
  const { count, ofFace } = faceComponents(mesh);
  const area = new Float64Array(count);
  const { vertices, faces } = look.split;
  for (let t = 0; t < faces.length; t++)
    area[ofFace[faces[t]]] += triangleArea(mesh.positions, vertices, t);
  return loops.filter((loop) => {
    const closed = ringNormal(
      mesh,
      loop.map((c) => next[c]),
    );
    return Math.hypot(...closed) / 2 < 0.8 * area[ofFace[face[loop[0]]]];
  });
}

/** Whether a ring lies in one plane and turns the same way all round, so that one face can fill it. */
function isFlat(mesh: Mesh, ring: readonly number[]): boolean {
  const p = mesh.positions;
  const at = (i: number) => 3 * mesh.corners[ring[i % ring.length]];
  const normal = ringNormal(mesh, ring);
  const length = Math.hypot(...normal);
  if (!length) return false;
  const o = at(0);
  let around = 0;
  for (let i = 0; i < ring.length; i++) around += distance(p, at(i), at(i + 1));
  for (let i = 0; i < ring.length; i++) {
    const v = at(i);
    const off =
      (p[v] - p[o]) * normal[0] +
      (p[v + 1] - p[o + 1]) * normal[1] +
      (p[v + 2] - p[o + 2]) * normal[2];
    if (Math.abs(off) / length > 1e-4 * around) return false;
    const turn = crossOf(p, at(i), at(i + 1), at(i + 2));
    if (
      turn[0] * normal[0] + turn[1] * normal[1] + turn[2] * normal[2] <
      -1e-9 * length * length
    )
      return false;
  }
  return true;
}

function ringNormal(mesh: Mesh, ring: readonly number[]): number[] {
  const p = mesh.positions;
  const sum = [0, 0, 0];
  const o = 3 * mesh.corners[ring[0]];
  for (let i = 1; i + 1 < ring.length; i++) {
    const n = crossOf(
      p,
      o,
      3 * mesh.corners[ring[i]],
      3 * mesh.corners[ring[i + 1]],
    );
    for (let k = 0; k < 3; k++) sum[k] += n[k];
  }
  return sum;
}

function crossOf(p: Float32Array, a: number, b: number, c: number) {
  const ux = p[b] - p[a];
  const uy = p[b + 1] - p[a + 1];
  const uz = p[b + 2] - p[a + 2];
  const vx = p[c] - p[a];
  const vy = p[c + 1] - p[a + 1];
  const vz = p[c + 2] - p[a + 2];
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
}

const distance = (p: Float32Array, a: number, b: number) =>
  Math.hypot(p[a] - p[b], p[a + 1] - p[b + 1], p[a + 2] - p[b + 2]);

/** Dynamic programming over all spans of the ring. */
function leastArea(
  mesh: Mesh,
  ring: readonly number[],
): [number, number, number][] {
  const n = ring.length;
  const p = mesh.positions;
  const at = ring.map((c) => 3 * mesh.corners[c]);
  const cost = new Float64Array(n * n);
  const cut = new Int32Array(n * n).fill(-1);
  for (let span = 2; span < n; span++)
    for (let i = 0; i + span < n; i++) {
      const j = i + span;
      let best = Infinity;
      for (let k = i + 1; k < j; k++) {
        const area =
          cost[i * n + k] +
          cost[k * n + j] +
          Math.hypot(...crossOf(p, at[i], at[k], at[j]));
        if (area < best) {
          best = area;
          cut[i * n + j] = k;
        }
      }
      cost[i * n + j] = best;
    }
  const found: [number, number, number][] = [];
  const waiting: [number, number][] = [[0, n - 1]];
  while (waiting.length) {
    const [i, j] = waiting.pop()!;
    const k = cut[i * n + j];
    if (k < 0) continue;
    found.push([ring[i], ring[k], ring[j]]);
    waiting.push([i, k], [k, j]);
  }
  return found;
}

/** Takes the corner with the shortest cut off again and again: even triangles on long rings. */
function clipSharpest(
  mesh: Mesh,
  ring: readonly number[],
): [number, number, number][] {
  const p = mesh.positions;
  const left = [...ring];
  const found: [number, number, number][] = [];
  const at = (i: number) =>
    3 * mesh.corners[left[(i + left.length) % left.length]];
  while (left.length > 3) {
    let best = 0;
    let least = Infinity;
    for (let i = 0; i < left.length; i++) {
      const d = distance(p, at(i - 1), at(i + 1));
      if (d < least) {
        least = d;
        best = i;
      }
    }
    found.push([
      left[(best + left.length - 1) % left.length],
      left[best],
      left[(best + 1) % left.length],
    ]);
    left.splice(best, 1);
  }
  found.push([left[0], left[1], left[2]]);
  return found;
}

/** Gives the faces from `first` on the normal of their plane. */
function flatNormals(mesh: Mesh, first: number): void {
  for (let f = first; f < faceCount(mesh); f++) {
    const ring = Array.from(
      { length: mesh.faceStarts[f + 1] - mesh.faceStarts[f] },
      (_, k) => mesh.faceStarts[f] + k,
    );
    const normal = ringNormal(mesh, ring);
    const length = Math.hypot(...normal) || 1;
    for (const c of ring)
      for (let k = 0; k < 3; k++) mesh.normals![3 * c + k] = normal[k] / length;
  }
}
