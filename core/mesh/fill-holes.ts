import { boundsOf } from "../space/bounds";
import { triangleArea } from "../space/sample";
import { unit } from "../space/vector";
import { faceComponents } from "./components";
import { patchRing } from "./hole-patch";
import { isFlatRing, ringNormalOf } from "./hole-ring";
import { MeshAnalysis } from "./mesh-analysis";
import { withMoreFaces } from "./more-faces";
import type { Mesh } from "./mesh";
import { faceCount } from "./mesh";

/**
 * The borders as loops of corners, each corner's edge running along the hole with the face on its left. Borders
 * that do not come back to where they began (between faces wound against each other) are left out.
 */
export function borderLoops(look: MeshAnalysis): number[][] {
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

/** A hole, or the outline of a sheet. */
export interface Hole {
  /** Corners along it, each one's edge with the surface on its left. */
  loop: readonly number[];
  /** Area that it closes off, against that of the surface it is in. */
  share: number;
  /** Longest distance between two of its vertices along an axis, metres. */
  width: number;
}

/** A loop that closes off as much as this of the surface's area is the outline of a sheet. */
const OUTLINE = 0.8;

/** A hole of few edges is a face or two that are missing, however wide. */
const FEW_EDGES = 24;

/** Whether a hole may be meant, as a mouth or an open bottom: wider than half the longest side, and of many edges. */
export function mayBeMeant(mesh: Mesh, { width, loop }: Hole): boolean {
  const { min, max } = boundsOf(mesh.positions);
  const longest = Math.max(...max.map((high, k) => high - min[k]));
  return loop.length > FEW_EDGES && width > longest / 2;
}

export interface HoleRules {
  /** Whether patches go on the way the surface bends, with vertices of their own. */
  smooth?: boolean;
  /** Which holes are filled; all where left out. */
  wanted?(hole: Hole): boolean;
}

/** Flat rings up to this length are filled with one face. */
const LONGEST_FACE = 64;

/**
 * Fills holes: flat ones with one n-gon, others with the triangles of least area or, where it is asked for, a
 * patch that follows the curvature round them. No edge that is there already is made again, so that a manifold
 * surface stays manifold. The outline of a sheet is no hole.
 * @returns the mesh, how many holes were filled, and those that were not wanted
 */
export function fillHoles(
  mesh: Mesh,
  { smooth = false, wanted = () => true }: HoleRules = {},
): { mesh: Mesh; holes: number; left: Hole[] } {
  const look = new MeshAnalysis(mesh, 0);
  const holes = holesOf(look);
  const chosen = holes.filter((hole) => wanted(hole));
  const left = holes.filter((hole) => !chosen.includes(hole));
  if (!chosen.length) return { mesh, holes: 0, left };
  const filling = new Filling(look, chosen);
  for (const hole of chosen) filling.fill(hole, smooth);
  return { mesh: filling.finish(), holes: chosen.length, left };
}

/** Every hole; loops that close off as much area as the surface they bound has are outlines of sheets. */
export function holesOf(look: MeshAnalysis): Hole[] {
  const loops = borderLoops(look);
  if (!loops.length) return [];
  const { mesh, face, next } = look;
  const { count, ofFace } = faceComponents(mesh);
  const area = new Float64Array(count);
  const { vertices, faces } = look.split;
  for (let t = 0; t < faces.length; t++)
    area[ofFace[faces[t]]] += triangleArea(mesh.positions, vertices, t);
  return loops
    .map((loop) => {
      const points = pointsOf(
        mesh,
        loop.map((c) => next[c]),
      );
      const { min, max } = boundsOf(points);
      return {
        loop,
        share:
          Math.hypot(...ringNormalOf(points)) /
          2 /
          (area[ofFace[face[loop[0]]]] || 1e-300),
        width: Math.max(...max.map((high, k) => high - min[k])),
      };
    })
    .filter(({ share }) => share < OUTLINE);
}

const pointsOf = (mesh: Mesh, ring: readonly number[]): Float64Array =>
  Float64Array.from(
    ring.flatMap((c) => [
      ...mesh.positions.subarray(3 * mesh.corners[c], 3 * mesh.corners[c] + 3),
    ]),
  );

/** A mesh to which faces that close holes are added. */
class Filling {
  private readonly corners: number[] = [];
  private readonly oldCorner: number[] = [];
  private readonly starts: number[] = [];
  private readonly oldFace: number[] = [];
  private readonly points: number[] = [];
  /** For each vertex at a hole those that it shares an edge with. */
  private readonly near = new Map<number, Set<number>>();
  /** Vertices that were there before. */
  private readonly count: number;

  constructor(
    private readonly look: MeshAnalysis,
    holes: readonly Hole[],
  ) {
    const { mesh, next } = look;
    this.count = mesh.positions.length / 3;
    for (const { loop } of holes)
      for (const c of loop) this.near.set(mesh.corners[c], new Set());
    for (let c = 0; c < mesh.corners.length; c++)
      this.join(mesh.corners[c], mesh.corners[next[c]]);
  }

  private join(v: number, w: number): void {
    this.near.get(v)?.add(w);
    this.near.get(w)?.add(v);
  }

  fill({ loop }: Hole, smooth: boolean): void {
    const { mesh, next, face } = this.look;
    // The hole's own faces run against the border.
    const ring = loop.map((c) => next[c]).reverse();
    const like = face[loop[0]];
    const points = pointsOf(mesh, ring);
    const named = ring.map((c) => mesh.corners[c]);
    const on = new Map(named.map((v, i) => [v, i]));
    const patch =
      ring.length === 3
        ? { triangles: [0, 1, 2], inner: [] }
        : patchRing(
            {
              points,
              joined: (i, j) => this.near.get(named[i])!.has(named[j]),
              around: named.map((v) =>
                [...this.near.get(v)!].flatMap((w) =>
                  on.has(w) || w >= this.count
                    ? []
                    : [...mesh.positions.subarray(3 * w, 3 * w + 3)],
                ),
              ),
            },
            smooth,
          );
    if (
      !patch.inner.length &&
      ring.length <= LONGEST_FACE &&
      isFlatRing(points)
    ) {
      this.put(ring, named, like);
      return;
    }
    const base = this.count + this.points.length / 3;
    this.points.push(...patch.inner);
    const nearest = this.nearestOf(points, patch.inner);
    const corner = (i: number) =>
      ring[i < ring.length ? i : nearest[i - ring.length]];
    const vertex = (i: number) =>
      i < ring.length ? named[i] : base + i - ring.length;
    for (let t = 0; t < patch.triangles.length; t += 3) {
      const three = patch.triangles.slice(t, t + 3);
      this.put(three.map(corner), three.map(vertex), like);
    }
  }

  /** For each inner vertex of a patch the ring's nearest one. */
  private nearestOf(ring: Float64Array, inner: readonly number[]): number[] {
    return Array.from({ length: inner.length / 3 }, (_, v) => {
      let best = 0;
      let least = Infinity;
      for (let i = 0; i < ring.length / 3; i++) {
        const d =
          (ring[3 * i] - inner[3 * v]) ** 2 +
          (ring[3 * i + 1] - inner[3 * v + 1]) ** 2 +
          (ring[3 * i + 2] - inner[3 * v + 2]) ** 2;
        if (d < least) {
          least = d;
          best = i;
        }
      }
      return best;
    });
  }

  private put(
    from: readonly number[],
    vertices: readonly number[],
    like: number,
  ): void {
    vertices.forEach((v, k) => {
      this.oldCorner.push(from[k]);
      this.corners.push(v);
      this.join(v, vertices[(k + 1) % vertices.length]);
    });
    this.starts.push(this.corners.length);
    this.oldFace.push(like);
  }

  finish(): Mesh {
    const { mesh } = this.look;
    const filled = withMoreFaces(mesh, {
      points: this.points,
      corners: this.corners,
      ends: this.starts,
      oldCorner: this.oldCorner,
      oldFace: this.oldFace,
    });
    if (filled.normals) patchNormals(filled, faceCount(mesh), this.count);
    return filled;
  }
}

/**
 * Gives the faces from `first` on the normal of their plane. New vertices, from `fresh` on, get the mean of theirs,
 * and the ring round them keeps the surface's.
 */
function patchNormals(mesh: Mesh, first: number, fresh: number): void {
  const normals = mesh.normals!;
  const means = new Map<number, number[]>();
  const faces: { corners: number[]; normal: number[] }[] = [];
  for (let f = first; f < faceCount(mesh); f++) {
    const s = mesh.faceStarts[f];
    const corners = Array.from(
      { length: mesh.faceStarts[f + 1] - s },
      (_, k) => s + k,
    );
    const normal = ringNormalOf(pointsOf(mesh, corners));
    faces.push({ corners, normal });
    for (const c of corners) {
      const v = mesh.corners[c];
      if (v < fresh) continue;
      const mean = means.get(v) ?? [0, 0, 0];
      means.set(
        v,
        mean.map((x, k) => x + normal[k]),
      );
    }
  }
  for (const { corners, normal } of faces) {
    const bends = corners.some((c) => means.has(mesh.corners[c]));
    for (const c of corners) {
      const own = means.get(mesh.corners[c]);
      if (own ?? !bends) normals.set(unit(own ?? normal), 3 * c);
    }
  }
}
