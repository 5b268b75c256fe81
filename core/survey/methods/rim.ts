import { faceComponents } from "../../mesh/components";
import { MeshAnalysis } from "../../mesh/mesh-analysis";
import type { Mesh } from "../../mesh/mesh";
import { faceOfCorners } from "../../mesh/mesh";
import { onlyFaces } from "../../mesh/change-faces";

/** Regions of more faces than this are left to a new skin. */
export const LARGEST = 20_000;

/** A piece that touches no rim of its region and is smaller than this many faces is a crumb. */
const CRUMB = 4;

/** The border of a region: where the rest of the mesh goes on, or was open before. */
export class Rim {
  private readonly edges = new Set<number>();
  readonly vertices = new Set<number>();
  /** Vertices of pieces that reach the rim. */
  private readonly held = new Set<number>();
  private readonly nonManifold: number;

  constructor(mesh: Mesh) {
    const { edges } = new MeshAnalysis(mesh, 0);
    let several = 0;
    for (let e = 0; e < edges.count; e++) {
      if (edges.uses[e] > 2) several++;
      if (edges.uses[e] !== 1) continue;
      const [a, b] = edges.vertices.subarray(2 * e, 2 * e + 2);
      this.edges.add(keyOf(a, b));
      this.vertices.add(a).add(b);
    }
    this.nonManifold = several;
    const pieces = this.piecesOf(mesh);
    mesh.corners.forEach((v, c) => {
      if (pieces.held[pieces.ofCorner[c]]) this.held.add(v);
    });
  }

  /** Pieces, whether each reaches the rim, and how many corners it has. */
  private piecesOf(mesh: Mesh) {
    const { count, ofFace } = faceComponents(mesh);
    const face = faceOfCorners(mesh);
    const held = new Uint8Array(count);
    const size = new Uint32Array(count);
    const ofCorner = Uint32Array.from(face, (f) => ofFace[f]);
    mesh.corners.forEach((v, c) => {
      size[ofCorner[c]]++;
      if (this.vertices.has(v)) held[ofCorner[c]] = 1;
    });
    return { ofFace, ofCorner, held, size };
  }

  /** Leaves out what cutting took off from what reaches the rim, and pieces of hardly any faces. */
  withoutCrumbs(mesh: Mesh): Mesh {
    const { ofFace, ofCorner, held, size } = this.piecesOf(mesh);
    let largest = 0;
    size.forEach((corners, piece) => {
      if (held[piece] && corners > largest) largest = corners;
    });
    const off = new Uint8Array(size.length);
    mesh.corners.forEach((v, c) => {
      const piece = ofCorner[c];
      if (!held[piece] && this.held.has(v) && size[piece] < largest)
        off[piece] = 1;
    });
    const keep = Uint8Array.from(ofFace, (piece) =>
      off[piece] || (!held[piece] && size[piece] < 3 * CRUMB) ? 0 : 1,
    );
    return keep.includes(0) && keep.includes(1) ? onlyFaces(mesh, keep) : mesh;
  }

  /** Leaves out what is still open besides the rim, where most is not: sheets that cutting made. */
  withoutSheets(mesh: Mesh): Mesh {
    const { edges, face } = new MeshAnalysis(mesh, 0);
    const { ofFace } = faceComponents(mesh);
    const open = new Set<number>();
    for (let e = 0; e < edges.count; e++)
      if (
        edges.uses[e] === 1 &&
        !this.edges.has(keyOf(edges.vertices[2 * e], edges.vertices[2 * e + 1]))
      )
        open.add(ofFace[face[edges.first[e]]]);
    if (!open.size) return mesh;
    const keep = Uint8Array.from(ofFace, (piece) => (open.has(piece) ? 0 : 1));
    const kept = keep.reduce((sum, k) => sum + k, 0);
    return 2 * kept > keep.length ? onlyFaces(mesh, keep) : mesh;
  }

  /** Whether a loop of corners runs along it somewhere. */
  meets(mesh: Mesh, loop: readonly number[]): boolean {
    return loop.some((c, k) =>
      this.edges.has(
        keyOf(mesh.corners[c], mesh.corners[loop[(k + 1) % loop.length]]),
      ),
    );
  }

  /** Whether nothing but the rim is open, all of it is there, and no more edges have several faces than before. */
  isSound(mesh: Mesh): boolean {
    const { edges } = new MeshAnalysis(mesh, 0);
    let several = 0;
    let open = 0;
    for (let e = 0; e < edges.count; e++) {
      if (edges.uses[e] > 2) several++;
      if (edges.uses[e] !== 1) continue;
      open++;
      if (
        !this.edges.has(keyOf(edges.vertices[2 * e], edges.vertices[2 * e + 1]))
      )
        return false;
    }
    return open === this.edges.size && several <= this.nonManifold;
  }
}

/** A name for an edge between two vertices, whichever way it runs. */
export const keyOf = (a: number, b: number) =>
  Math.min(a, b) * 2 ** 26 + Math.max(a, b);
