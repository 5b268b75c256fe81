import type { Edges } from "./edges";
import { buildEdges } from "./edges";
import type { Mesh } from "./mesh";
import { faceOfCorners } from "./mesh";
import { nextCorners } from "./normals";
import type { Triangulation } from "./triangulate";
import { triangulate } from "./triangulate";
import { coincident } from "./weld";
import type { Bounds } from "../space/bounds";
import { boundsOf, diagonalOf } from "../space/bounds";

/** A mesh with all that several findings are read from, each made when it is first asked for. */
export class MeshAnalysis {
  readonly bounds: Bounds;
  readonly diagonal: number;
  private madeNext: Uint32Array | null = null;
  private madeFace: Uint32Array | null = null;
  private madeTarget: Uint32Array | null = null;
  private madeSplit: Triangulation | null = null;

  /**
   * @param tolerance metres within which vertices count as one
   * @param madeEdges the mesh's edges, where they are known
   */
  constructor(
    readonly mesh: Mesh,
    readonly tolerance: number,
    private madeEdges: Edges | null = null,
  ) {
    this.bounds = boundsOf(mesh.positions);
    this.diagonal = diagonalOf(this.bounds);
  }

  get edges(): Edges {
    return (this.madeEdges ??= buildEdges(this.mesh));
  }
  get next(): Uint32Array {
    return (this.madeNext ??= nextCorners(
      this.mesh.faceStarts,
      this.mesh.corners.length,
    ));
  }
  get face(): Uint32Array {
    return (this.madeFace ??= faceOfCorners(this.mesh));
  }
  /** For every vertex the first one within the tolerance. */
  get target(): Uint32Array {
    return (this.madeTarget ??= coincident(
      this.mesh.positions,
      this.tolerance,
    ));
  }
  get split(): Triangulation {
    return (this.madeSplit ??= triangulate(this.mesh));
  }

  /** The corner across an edge of exactly two faces, or −1. */
  across(corner: number): number {
    const { edges } = this;
    const e = edges.ofCorner[corner];
    if (edges.uses[e] !== 2) return -1;
    return edges.first[e] === corner ? edges.second[e] : edges.first[e];
  }
}
