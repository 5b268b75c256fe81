import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import { RayScene, widen } from "../space/ray-scene";
import type { Surface } from "../space/deviation";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { faceCount, vertexCount } from "../mesh/mesh";
import { cornerNormals, faceNormals } from "../mesh/normals";

export type ClingWay = "nearest" | "normals" | "x" | "y" | "z";

export interface ClingOptions {
  way: ClingWay;
  /** How far off the surface the points come to lie, metres, outwards. */
  offset: number;
  /** Points farther away than this stay where they are, metres; Infinity for all. */
  reach: number;
  /** Rounds in which the points even out along the surface. */
  relax: number;
  /** vertexCount: 1 for points that stay; null for none. */
  held: Uint8Array | null;
}

/** What went wrong with a mesh that clings: points by vertex, folds and stretched faces by face. */
export interface ClingTrouble {
  /** Points that landed where the surface faces away from them, or far from where their neighbours went. */
  wrong: number[];
  /** Faces that turned over against the surface or a neighbour. */
  folded: number[];
  /** Faces with an edge that grew more than STRETCH times as much as its neighbours. */
  stretched: number[];
  /** Points that found nothing within reach. */
  missed: number[];
}

const STRETCH = 3;
/** How far to both sides a ray begins and ends, as a share of the surface's size, where no reach is set. */
const FAR = 2;

/** A surface that points are brought onto: the last place found stays in the fields. */
export class ClingTarget {
  x = 0;
  y = 0;
  z = 0;
  nx = 0;
  ny = 0;
  nz = 0;
  private readonly closest: ClosestPoint;
  private readonly rays: RayScene;
  private readonly normals: Float32Array;
  private readonly size: number;

  constructor({ positions, triangles }: Surface) {
    const bvh = buildBvh(positions, triangles);
    this.closest = new ClosestPoint(bvh);
    this.rays = new RayScene([widen(bvh)]);
    const faceStarts = new Uint32Array(triangles.length / 3 + 1).map(
      (_, t) => 3 * t,
    );
    this.normals = faceNormals({
      positions,
      corners: triangles,
      faceStarts,
    } as Mesh);
    let far = 0;
    for (let i = 0; i < positions.length; i++)
      far = Math.max(far, Math.abs(positions[i]));
    this.size = 2 * far || 1;
  }

  private take(t: number): void {
    this.nx = this.normals[3 * t];
    this.ny = this.normals[3 * t + 1];
    this.nz = this.normals[3 * t + 2];
  }

  /** The nearest place within reach. */
  nearest(x: number, y: number, z: number, reach: number): boolean {
    const t = this.closest.find(x, y, z, reach * reach);
    if (t < 0) return false;
    this.take(t);
    this.x = this.closest.x;
    this.y = this.closest.y;
    this.z = this.closest.z;
    return true;
  }

  /**
   * The nearer place along a line, to and fro; one whose surface faces along (nx, ny, nz) is taken before one
   * that faces away.
   */
  along(
    p: ArrayLike<number>,
    way: ArrayLike<number>,
    normal: ArrayLike<number>,
    reach: number,
  ): boolean {
    const far = reach < Infinity ? reach : FAR * this.size;
    let best = -1;
    let least = Infinity;
    let at = 0;
    for (const sign of [1, -1]) {
      let from = 0;
      // A surface that faces away may hide the right one behind it.
      for (let hit = 0; hit < 4; hit++) {
        const t = this.rays.first(
          0,
          p[0],
          p[1],
          p[2],
          sign * way[0],
          sign * way[1],
          sign * way[2],
          from,
          far,
        );
        if (t < 0) break;
        const { distance } = this.rays;
        const facing =
          this.normals[3 * t] * normal[0] +
          this.normals[3 * t + 1] * normal[1] +
          this.normals[3 * t + 2] * normal[2];
        const cost = distance + (facing > 0 ? 0 : 1e3 * this.size);
        if (cost < least) {
          least = cost;
          best = t;
          at = sign * distance;
        }
        if (facing > 0) break;
        from = distance + 1e-6 * this.size;
      }
    }
    if (best < 0) return false;
    this.take(best);
    this.x = p[0] + at * way[0];
    this.y = p[1] + at * way[1];
    this.z = p[2] + at * way[2];
    return true;
  }
}

const AXES = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] } as const;

/**
 * Moves the points of a mesh onto a surface and evens them out along it. Open borders are evened along themselves
 * only by going with the surface.
 * @returns the moved mesh, how far points moved (mean, metres), and what went wrong
 */
export function cling(
  mesh: Mesh,
  target: ClingTarget,
  options: ClingOptions,
  check: () => void = () => {},
): { mesh: Mesh; moved: number; trouble: ClingTrouble } {
  const normals = vertexNormals(mesh);
  const count = vertexCount(mesh);
  const positions = mesh.positions.slice();
  const missed: number[] = [];
  const off = new Float32Array(3 * count);
  const wrong = new Uint8Array(count);
  const links = linksOf(mesh);
  const p = [0, 0, 0];
  const n = [0, 0, 0];
  const land = (v: number, way: ClingWay, reach: number): boolean => {
    for (let k = 0; k < 3; k++) {
      p[k] = positions[3 * v + k];
      n[k] = normals[3 * v + k];
    }
    const found =
      way === "nearest"
        ? target.nearest(p[0], p[1], p[2], reach)
        : target.along(p, way === "normals" ? n : AXES[way], n, reach);
    if (!found) return false;
    positions[3 * v] = target.x + options.offset * target.nx;
    positions[3 * v + 1] = target.y + options.offset * target.ny;
    positions[3 * v + 2] = target.z + options.offset * target.nz;
    return true;
  };
  for (let v = 0; v < count; v++) {
    if ((v & 1023) === 0) check();
    if (options.held?.[v]) continue;
    const landed = land(v, options.way, options.reach);
    for (let k = 0; k < 3; k++)
      off[3 * v + k] = positions[3 * v + k] - mesh.positions[3 * v + k];
    if (!landed) missed.push(v);
    else if (
      target.nx * n[0] + target.ny * n[1] + target.nz * n[2] < WRONG_FACING &&
      // At a rim the nearest face may be either side's: who was there already is right.
      Math.hypot(off[3 * v], off[3 * v + 1], off[3 * v + 2]) >
        THERE * meanEdge(mesh, links, v)
    )
      wrong[v] = 1;
  }
  markOutliers(mesh, links, off, wrong, options.held);
  const lost = new Uint8Array(count);
  for (const v of missed) lost[v] = 1;
  for (let round = 0; round < options.relax; round++) {
    check();
    evenOut(positions, normals, links, options.held, lost);
    for (let v = 0; v < count; v++)
      if (!options.held?.[v] && !lost[v] && !wrong[v])
        land(v, "nearest", Infinity);
  }
  const moved = { ...mesh, positions, normals: null };
  let sum = 0;
  for (let v = 0; v < count; v++)
    sum += Math.hypot(off[3 * v], off[3 * v + 1], off[3 * v + 2]);
  return {
    mesh: moved,
    moved: sum / (count || 1),
    trouble: {
      missed,
      wrong: [...wrong.keys()].filter((v) => wrong[v]),
      ...facesInTrouble(mesh, moved),
    },
  };
}

/** A landing is wrong where the surface faces this much away from the point's own normal. */
const WRONG_FACING = -0.1;
/** A point that moves by no more than this share of the edges at it was there already. */
const THERE = 0.05;

/**
 * Points that landed wrong brought back between their neighbours: there they stay (`hold`), or look for the surface
 * again, no farther than a reach (`limit`), or along their normals (`normals`).
 * @param marks vertexCount: the points to mend
 */
export function mendCling(
  mesh: Mesh,
  target: ClingTarget,
  marks: Uint8Array,
  how: "hold" | "limit" | "normals",
  options: Pick<ClingOptions, "offset" | "reach">,
): Mesh {
  const links = linksOf(mesh);
  const positions = mesh.positions.slice();
  // A membrane over the marked points, the others held.
  for (let sweep = 0; sweep < 200; sweep++)
    for (let v = 0; v < marks.length; v++) {
      const [from, to] = [links.starts[v], links.starts[v + 1]];
      if (!marks[v] || from === to) continue;
      for (let k = 0; k < 3; k++) {
        let sum = 0;
        for (let i = from; i < to; i++) sum += positions[3 * links.ends[i] + k];
        positions[3 * v + k] = sum / (to - from);
      }
    }
  const between = { ...mesh, positions, normals: null };
  if (how === "hold") return between;
  const held = marks.map((mark) => 1 - mark);
  return cling(between, target, {
    way: how === "normals" ? "normals" : "nearest",
    offset: options.offset,
    reach: options.reach,
    relax: 0,
    held,
  }).mesh;
}

interface Links {
  starts: Uint32Array;
  ends: Uint32Array;
  /** 1 for vertices on an open border. */
  border: Uint8Array;
}

function linksOf(mesh: Mesh): Links {
  const edges = buildEdges(mesh);
  const count = vertexCount(mesh);
  const starts = new Uint32Array(count + 1);
  const border = new Uint8Array(count);
  for (let i = 0; i < 2 * edges.count; i++) {
    starts[edges.vertices[i] + 1]++;
    if (edges.uses[i >> 1] === 1) border[edges.vertices[i]] = 1;
  }
  for (let v = 0; v < count; v++) starts[v + 1] += starts[v];
  const ends = new Uint32Array(2 * edges.count);
  const at = starts.slice(0, count);
  for (let e = 0; e < edges.count; e++) {
    const [a, b] = [edges.vertices[2 * e], edges.vertices[2 * e + 1]];
    ends[at[a]++] = b;
    ends[at[b]++] = a;
  }
  return { starts, ends, border };
}

/** Mean length of the edges at a vertex, metres. */
function meanEdge(mesh: Mesh, { starts, ends }: Links, v: number): number {
  const p = mesh.positions;
  let sum = 0;
  for (let i = starts[v]; i < starts[v + 1]; i++) {
    const w = 3 * ends[i];
    sum += Math.hypot(
      p[w] - p[3 * v],
      p[w + 1] - p[3 * v + 1],
      p[w + 2] - p[3 * v + 2],
    );
  }
  return sum / Math.max(1, starts[v + 1] - starts[v]);
}

function vertexNormals(mesh: Mesh): Float32Array {
  const smooth = cornerNormals({ ...mesh, hard: null, normals: null });
  const normals = new Float32Array(mesh.positions.length);
  for (let c = 0; c < mesh.corners.length; c++)
    for (let k = 0; k < 3; k++)
      normals[3 * mesh.corners[c] + k] += smooth[3 * c + k];
  for (let v = 0; v < normals.length; v += 3) {
    const length = Math.hypot(normals[v], normals[v + 1], normals[v + 2]) || 1;
    for (let k = 0; k < 3; k++) normals[v + k] /= length;
  }
  return normals;
}

/** Half a step of every free point to the middle of its neighbours, along the surface only. */
function evenOut(
  positions: Float32Array,
  normals: Float32Array,
  { starts, ends, border }: Links,
  held: Uint8Array | null,
  lost: Uint8Array,
): void {
  for (let v = 0; v < starts.length - 1; v++) {
    if (held?.[v] || border[v] || lost[v] || starts[v] === starts[v + 1])
      continue;
    const n = 3 * v;
    const d = [0, 0, 0];
    for (let i = starts[v]; i < starts[v + 1]; i++)
      for (let k = 0; k < 3; k++)
        d[k] +=
          (positions[3 * ends[i] + k] - positions[n + k]) /
          (starts[v + 1] - starts[v]);
    const up =
      d[0] * normals[n] + d[1] * normals[n + 1] + d[2] * normals[n + 2];
    for (let k = 0; k < 3; k++)
      positions[n + k] += 0.5 * (d[k] - up * normals[n + k]);
  }
}

/** Points that went somewhere else than the points round them: by more than twice the edges there. */
function markOutliers(
  mesh: Mesh,
  links: Links,
  off: Float32Array,
  wrong: Uint8Array,
  held: Uint8Array | null,
): void {
  const { starts, ends } = links;
  const found: number[] = [];
  for (let v = 0; v < starts.length - 1; v++) {
    if (held?.[v]) continue;
    const n = starts[v + 1] - starts[v];
    if (!n) continue;
    const differ: number[] = [];
    for (let i = starts[v]; i < starts[v + 1]; i++) {
      const w = 3 * ends[i];
      let apart = 0;
      for (let k = 0; k < 3; k++) apart += (off[w + k] - off[3 * v + k]) ** 2;
      differ.push(Math.sqrt(apart));
    }
    differ.sort((a, b) => a - b);
    if (differ[n >> 1] > 2 * meanEdge(mesh, links, v)) found.push(v);
  }
  for (const v of found) wrong[v] = 1;
}

function facesInTrouble(
  before: Mesh,
  after: Mesh,
): Pick<ClingTrouble, "folded" | "stretched"> {
  const edges = buildEdges(before);
  const old = faceNormals(before);
  const now = faceNormals(after);
  const face = new Uint32Array(before.corners.length);
  for (let f = 0; f < faceCount(before); f++)
    face.fill(f, before.faceStarts[f], before.faceStarts[f + 1]);
  const folded = new Set<number>();
  const grown = new Float32Array(edges.count);
  const sorted: number[] = [];
  const cosine = (normals: Float32Array, f: number, g: number) =>
    normals[3 * f] * normals[3 * g] +
    normals[3 * f + 1] * normals[3 * g + 1] +
    normals[3 * f + 2] * normals[3 * g + 2];
  const length = (mesh: Mesh, e: number) => {
    const [a, b] = [3 * edges.vertices[2 * e], 3 * edges.vertices[2 * e + 1]];
    return Math.hypot(
      mesh.positions[a] - mesh.positions[b],
      mesh.positions[a + 1] - mesh.positions[b + 1],
      mesh.positions[a + 2] - mesh.positions[b + 2],
    );
  };
  for (let e = 0; e < edges.count; e++) {
    grown[e] = length(after, e) / (length(before, e) || 1e-12);
    sorted.push(grown[e]);
    if (edges.uses[e] !== 2) continue;
    const [f, g] = [face[edges.first[e]], face[edges.second[e]]];
    if (cosine(now, f, g) < -0.3 && cosine(old, f, g) > -0.2) {
      folded.add(f);
      folded.add(g);
    }
  }
  sorted.sort((a, b) => a - b);
  const usual = sorted[sorted.length >> 1] || 1;
  const stretched = new Set<number>();
  for (let e = 0; e < edges.count; e++) {
    if (grown[e] <= STRETCH * usual) continue;
    stretched.add(face[edges.first[e]]);
    if (edges.uses[e] === 2) stretched.add(face[edges.second[e]]);
  }
  const rising = (set: Set<number>) => [...set].sort((a, b) => a - b);
  return { folded: rising(folded), stretched: rising(stretched) };
}
