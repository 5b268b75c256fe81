import { hashPair } from "../base/pair-set";
import type { Mesh } from "../mesh/mesh";
import { createMesh, withFaces } from "../mesh/change-faces";
import { boundsOf } from "../space/bounds";

/** Cells along the longest side at first, how often fewer are tried, and of how many fewer is aimed at than would do. */
const CELLS = 400;
const ROUNDS = 8;
const SHY = 0.95;

/**
 * A light look-alike: vertices in the same cell of a grid become their mean, triangles that keep three different
 * ones stay (Rossignac and Borrel 1993), with UVs, colours and materials. Rough, but one pass over the mesh, whatever its size.
 * @param most triangles wanted at most, about
 */
export function clusterMesh(mesh: Mesh, most: number): Mesh {
  const { min, max } = boundsOf(mesh.positions);
  const longest = Math.max(...min.map((low, k) => max[k] - low), 1e-9);
  const clusters = new Clusters(mesh, min);
  let cells = CELLS;
  clusters.gather(longest / cells);
  for (
    let round = 0;
    round < ROUNDS && clusters.triangleCount > most;
    round++
  ) {
    // Triangles go with the square of the cells along an axis.
    cells *= SHY * Math.sqrt(most / clusters.triangleCount);
    clusters.gather(longest / cells);
  }
  return clusters.made();
}

/** Slots of a hash table for so many entries, a power of two. */
const slotsFor = (count: number) =>
  1 << Math.max(8, Math.ceil(Math.log2(1.5 * count + 1)));

/** The vertices of a mesh by the cells of a grid, in room that is used again for the next grid. */
class Clusters {
  /** Cluster of each vertex. */
  private readonly of: Uint32Array;
  /** Clusters by the hash of their cell, or of the triangles that are kept; −1 where none is. */
  private readonly slots: Int32Array;
  private readonly triangleSlots: Int32Array;
  /** 3 × vertexCount: cell of each cluster. */
  private readonly cells: Int32Array;
  /** 3 × vertexCount: sum of what is in each cluster, metres. */
  private readonly sums: Float64Array;
  private readonly members: Uint32Array;
  private count = 0;
  /** 3 × as many as there are triangles: clusters of those that are kept, as they turn and from the lowest on. */
  private readonly triangles: Uint32Array;
  private readonly sorted: Uint32Array;
  /** 3 × as many: corners that they are of, and the face of each. */
  private readonly corners: Uint32Array;
  private readonly faces: Uint32Array;
  triangleCount = 0;

  constructor(
    private readonly mesh: Mesh,
    private readonly min: readonly number[],
  ) {
    const count = mesh.positions.length / 3;
    const most = mesh.corners.length - 2 * (mesh.faceStarts.length - 1);
    this.of = new Uint32Array(count);
    this.slots = new Int32Array(slotsFor(count));
    this.triangleSlots = new Int32Array(slotsFor(most));
    this.cells = new Int32Array(3 * count);
    this.sums = new Float64Array(3 * count);
    this.members = new Uint32Array(count);
    this.triangles = new Uint32Array(3 * most);
    this.sorted = new Uint32Array(3 * most);
    this.corners = new Uint32Array(3 * most);
    this.faces = new Uint32Array(most);
  }

  /** @param cell side of a cell, metres */
  gather(cell: number): void {
    this.gatherVertices(cell);
    this.triangleSlots.fill(-1);
    this.triangleCount = 0;
    const { faceStarts } = this.mesh;
    for (let f = 0; f + 1 < faceStarts.length; f++)
      for (let c = faceStarts[f] + 1; c + 1 < faceStarts[f + 1]; c++)
        this.keep(f, faceStarts[f], c);
  }

  private gatherVertices(cell: number): void {
    const p = this.mesh.positions;
    const { of, slots, cells, sums, members, min } = this;
    const mask = slots.length - 1;
    slots.fill(-1);
    sums.fill(0);
    members.fill(0);
    this.count = 0;
    for (let v = 0; v < of.length; v++) {
      const x = Math.floor((p[3 * v] - min[0]) / cell);
      const y = Math.floor((p[3 * v + 1] - min[1]) / cell);
      const z = Math.floor((p[3 * v + 2] - min[2]) / cell);
      let slot = hashPair(x * 8192 + y, z) & mask;
      let c = slots[slot];
      while (
        c >= 0 &&
        (cells[3 * c] !== x || cells[3 * c + 1] !== y || cells[3 * c + 2] !== z)
      ) {
        slot = (slot + 1) & mask;
        c = slots[slot];
      }
      if (c < 0) {
        c = slots[slot] = this.count++;
        cells[3 * c] = x;
        cells[3 * c + 1] = y;
        cells[3 * c + 2] = z;
      }
      members[c]++;
      for (let k = 0; k < 3; k++) sums[3 * c + k] += p[3 * v + k];
      of[v] = c;
    }
  }

  /** Keeps the triangle of a face from its first corner to two others, unless it became flat or is there already. */
  private keep(face: number, first: number, second: number): void {
    const { of, triangles, sorted, triangleSlots } = this;
    const { corners } = this.mesh;
    const i = of[corners[first]];
    const j = of[corners[second]];
    const k = of[corners[second + 1]];
    if (i === j || j === k || k === i) return;
    const low = Math.min(i, j, k);
    const high = Math.max(i, j, k);
    const middle = i + j + k - low - high;
    const mask = triangleSlots.length - 1;
    let slot = hashPair(hashPair(low, middle), high) & mask;
    for (let t = triangleSlots[slot]; t >= 0; t = triangleSlots[slot]) {
      if (
        sorted[3 * t] === low &&
        sorted[3 * t + 1] === middle &&
        sorted[3 * t + 2] === high
      )
        return;
      slot = (slot + 1) & mask;
    }
    const t = this.triangleCount++;
    triangleSlots[slot] = t;
    sorted[3 * t] = low;
    sorted[3 * t + 1] = middle;
    sorted[3 * t + 2] = high;
    triangles[3 * t] = i;
    triangles[3 * t + 1] = j;
    triangles[3 * t + 2] = k;
    this.corners[3 * t] = first;
    this.corners[3 * t + 1] = second;
    this.corners[3 * t + 2] = second + 1;
    this.faces[t] = face;
  }

  /** The mesh of what is kept. */
  made(): Mesh {
    const { count, triangleCount, sums, members } = this;
    const { faceStarts, corners, uvs, colours, faceMaterials, materials } =
      this.mesh;
    const positions = new Float32Array(3 * count);
    for (let i = 0; i < positions.length; i++)
      positions[i] = sums[i] / members[Math.floor(i / 3)];
    return withFaces(
      createMesh({
        ...{ positions, faceStarts, corners },
        ...{ uvs, colours, faceMaterials, materials },
      }),
      new Uint32Array(triangleCount + 1).map((_, f) => 3 * f),
      this.corners.slice(0, 3 * triangleCount),
      this.faces.slice(0, triangleCount),
      this.triangles.slice(0, 3 * triangleCount),
    );
  }
}
