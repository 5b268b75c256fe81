import { buildEdges } from "../../mesh/edges";
import { hardAbove, hardFromNormals } from "../../mesh/hard-angle";
import type { Mesh } from "../../mesh/mesh";
import { faceCount, faceOfCorners } from "../../mesh/mesh";
import { cornerNormals, faceNormals, nextCorners } from "../../mesh/normals";
import { NEVER_ROUND, roundRadius } from "../../mesh/rounds";
import type { Triangulation } from "../../mesh/triangulate";

/** Without marks and normals of its own a mesh is edged where its faces turn by more than this, degrees. */
const EDGED = 40;
/** Faces that turn by less have no edge to round: cosine of 3°. */
const FLAT = Math.cos((3 * Math.PI) / 180);
/** How far from a very sharp edge its bevel reaches at most, radii. */
const FARTHEST = 3;
/** Numbers of a side of an edge: its ends, the normals beyond it at both, its radius, reach, and 1 convex or −1 hollow. */
export const SIDE = 15;

/** The edges of a mesh that are baked round, by the triangles that lie near them. Metres. */
export interface RoundedEdges {
  /** 9 × triangleCount: normals at the corners as the mesh is shaped, its edges sharp. */
  normals: Float32Array;
  /** triangleCount + 1: where the sides near each triangle begin in `near`. */
  starts: Uint32Array;
  near: Uint32Array;
  /** `SIDE` numbers each. */
  sides: Float32Array;
}

/** The edges at which a mesh is sharp: as it is marked, as its normals say, or as its faces turn. @returns cornerCount */
const sharpEdges = (mesh: Mesh): Uint8Array =>
  mesh.hard?.some((mark) => mark)
    ? mesh.hard
    : (hardFromNormals(mesh) ?? hardAbove(mesh, EDGED).hard);

/** A mesh as it is shaped, without what softens its shading: what is baked where it is its own source. */
export function sharpened(mesh: Mesh): Mesh {
  const edged = sharpEdges(mesh);
  const { rounds } = mesh;
  return {
    ...mesh,
    hard: rounds
      ? edged.map((is, c) => (roundRadius(rounds[c]) > 0 ? 1 : is))
      : edged,
    normals: null,
    ownNormals: null,
  };
}

/**
 * Finds which edges are round, and which triangles see it: those round the edge that one reaches without crossing
 * another round one.
 * @param split which of the mesh's triangles are baked; @param radius of all sharp edges without a radius of their own,
 *   metres, 0 for none
 * @returns null where no edge is round
 */
export function roundedEdges(
  mesh: Mesh,
  split: Triangulation,
  radius: number,
): RoundedEdges | null {
  const own = mesh.rounds?.some((value) => roundRadius(value) > 0);
  if (!(radius > 0) && !own) return null;
  const edged = sharpened(mesh);
  const shading = cornerNormals(edged);
  const edges = buildEdges(mesh);
  const radiusAt = (c: number) => {
    const wanted = mesh.rounds?.[c] ?? 0;
    if (wanted === NEVER_ROUND) return 0;
    return wanted ? roundRadius(wanted) : edged.hard![c] ? radius : 0;
  };
  const sides: number[] = [];
  const near: number[][] = Array.from({ length: faceCount(mesh) }, () => []);
  const flood = new Flood(mesh, edges, (c) => radiusAt(c) > 0);
  const facing = faceNormals(mesh);
  const face = faceOfCorners(mesh);
  const next = nextCorners(mesh.faceStarts, mesh.corners.length);
  const p = mesh.positions;
  for (let e = 0; e < edges.count; e++) {
    const [c, d] = [edges.first[e], edges.second[e]];
    const r = radiusAt(c);
    // Where both faces run the same way round nobody can tell outside from inside.
    if (!(r > 0) || edges.uses[e] !== 2 || mesh.corners[c] === mesh.corners[d])
      continue;
    const [f, g] = [3 * face[c], 3 * face[d]];
    const dot =
      facing[f] * facing[g] +
      facing[f + 1] * facing[g + 1] +
      facing[f + 2] * facing[g + 2];
    if (dot > FLAT) continue;
    const [a, b] = [3 * mesh.corners[c], 3 * mesh.corners[d]];
    const way = isConvex(mesh, face[d], a, facing, f) ? 1 : -1;
    const reach =
      r * Math.min(FARTHEST, Math.sqrt((1 - dot) / Math.max(1e-9, 1 + dot)));
    for (const [mine, other] of [
      [c, d],
      [d, c],
    ]) {
      const [from, to] = mine === c ? [a, b] : [b, a];
      const [atFrom, atTo] = [3 * next[other], 3 * other];
      const side = sides.length / SIDE;
      sides.push(
        ...p.subarray(from, from + 3),
        ...p.subarray(to, to + 3),
        ...shading.subarray(atFrom, atFrom + 3),
        ...shading.subarray(atTo, atTo + 3),
        r,
        reach,
        way,
      );
      for (const each of flood.from(face[mine], from, to, reach))
        near[each].push(side);
    }
  }
  if (!sides.length) return null;
  const count = split.faces.length;
  const starts = new Uint32Array(count + 1);
  for (let t = 0; t < count; t++)
    starts[t + 1] = starts[t] + near[split.faces[t]].length;
  const list = new Uint32Array(starts[count]);
  const normals = new Float32Array(9 * count);
  for (let t = 0; t < count; t++) {
    list.set(near[split.faces[t]], starts[t]);
    for (let k = 0; k < 9; k++)
      normals[9 * t + k] =
        shading[3 * split.corners[3 * t + ((k / 3) | 0)] + (k % 3)];
  }
  return { normals, starts, near: list, sides: Float32Array.from(sides) };
}

/** Whether a face lies behind the plane through a point with another face's normal. */
function isConvex(
  { positions: p, faceStarts, corners }: Mesh,
  face: number,
  at: number,
  facing: Float32Array,
  f: number,
): boolean {
  let sum = 0;
  for (let c = faceStarts[face]; c < faceStarts[face + 1]; c++)
    for (let k = 0; k < 3; k++)
      sum += (p[3 * corners[c] + k] - p[at + k]) * facing[f + k];
  return sum < 0;
}

/** Finds the faces about an edge, as far as one comes without crossing a round one. */
class Flood {
  private readonly seen: Int32Array;
  private turn = 0;
  private readonly face: Uint32Array;
  /** 6 × faceCount */
  private readonly boxes: Float32Array;

  constructor(
    private readonly mesh: Mesh,
    private readonly edges: ReturnType<typeof buildEdges>,
    private readonly isRound: (corner: number) => boolean,
  ) {
    const count = faceCount(mesh);
    this.seen = new Int32Array(count);
    this.face = faceOfCorners(mesh);
    this.boxes = new Float32Array(6 * count);
    for (let f = 0; f < count; f++)
      for (let k = 0; k < 3; k++) {
        let [low, high] = [Infinity, -Infinity];
        for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
          const x = mesh.positions[3 * mesh.corners[c] + k];
          low = Math.min(low, x);
          high = Math.max(high, x);
        }
        this.boxes[6 * f + k] = low;
        this.boxes[6 * f + 3 + k] = high;
      }
  }

  /** @param a,b where the edge's ends begin in the positions; @param reach metres */
  from(start: number, a: number, b: number, reach: number): number[] {
    const { mesh, edges, face } = this;
    this.turn++;
    this.seen[start] = this.turn;
    const found = [start];
    for (let i = 0; i < found.length; i++)
      for (
        let c = mesh.faceStarts[found[i]];
        c < mesh.faceStarts[found[i] + 1];
        c++
      ) {
        const e = edges.ofCorner[c];
        if (edges.uses[e] !== 2 || this.isRound(c)) continue;
        const other =
          face[edges.first[e] === c ? edges.second[e] : edges.first[e]];
        if (this.seen[other] === this.turn || !this.reaches(other, a, b, reach))
          continue;
        this.seen[other] = this.turn;
        found.push(other);
      }
    return found;
  }

  /** Whether the boxes of a face and of an edge come as near as that. */
  private reaches(f: number, a: number, b: number, reach: number): boolean {
    const p = this.mesh.positions;
    let gap2 = 0;
    for (let k = 0; k < 3; k++) {
      const low = Math.min(p[a + k], p[b + k]);
      const high = Math.max(p[a + k], p[b + k]);
      const gap = Math.max(
        0,
        this.boxes[6 * f + k] - high,
        low - this.boxes[6 * f + 3 + k],
      );
      gap2 += gap * gap;
    }
    return gap2 <= reach * reach;
  }
}
