import type { Asset } from "./asset";
import { faceComponents } from "../mesh/components";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { triangulate } from "../mesh/triangulate";
import { coincident } from "../mesh/weld";
import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";

/** A joined piece of a part's source: what floats, gaps and repeats are about. */
export interface Piece {
  part: string;
  /** Number within the part. */
  index: number;
  mesh: Mesh;
  /** Rising. */
  faces: number[];
  /** Rising. */
  vertices: number[];
  min: [number, number, number];
  max: [number, number, number];
  diagonal: number;
  triangles: number;
}

/** The pieces of all sources, repeats left out; vertices at equal places join. */
export function piecesOf(asset: Asset): Piece[] {
  return asset.parts.flatMap((part) =>
    part.source && !part.repeat ? piecesIn(part.name, part.source) : [],
  );
}

/** The connected pieces of a mesh, joined also where vertices lie at one place. */
export function piecesIn(part: string, mesh: Mesh): Piece[] {
  const target = coincident(mesh.positions, 0);
  const { count, ofFace } = faceComponents({
    ...mesh,
    corners: mesh.corners.map((v) => target[v]),
  });
  const pieces = Array.from({ length: count }, (_, index): Piece => ({
    part,
    index,
    mesh,
    faces: [],
    vertices: [],
    min: [Infinity, Infinity, Infinity],
    max: [-Infinity, -Infinity, -Infinity],
    diagonal: 0,
    triangles: 0,
  }));
  const ofVertex = new Int32Array(mesh.positions.length / 3).fill(-1);
  for (let f = 0; f < faceCount(mesh); f++) {
    const piece = pieces[ofFace[f]];
    piece.faces.push(f);
    piece.triangles += mesh.faceStarts[f + 1] - mesh.faceStarts[f] - 2;
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
      ofVertex[mesh.corners[c]] = ofFace[f];
  }
  for (let v = 0; v < ofVertex.length; v++) {
    if (ofVertex[v] < 0) continue;
    const piece = pieces[ofVertex[v]];
    piece.vertices.push(v);
    for (let k = 0; k < 3; k++) {
      const x = mesh.positions[3 * v + k];
      if (x < piece.min[k]) piece.min[k] = x;
      if (x > piece.max[k]) piece.max[k] = x;
    }
  }
  for (const piece of pieces)
    piece.diagonal = Math.hypot(
      ...piece.min.map((low, k) => piece.max[k] - low),
    );
  return pieces;
}

/** Closest points on all pieces but one's own. */
export class PieceDistances {
  readonly closest: ClosestPoint;
  /** The piece of every triangle. */
  readonly owner: Uint32Array;
  private readonly positions: Float32Array;
  private readonly triangles: Uint32Array;
  /** Inverse lookup of a found triangle's own normal. */
  readonly normal: [number, number, number] = [0, 0, 0];

  constructor(pieces: readonly Piece[]) {
    const meshes = [...new Set(pieces.map((piece) => piece.mesh))];
    const splits = meshes.map((mesh) => triangulate(mesh));
    const vertexTotal = meshes.reduce(
      (n, mesh) => n + mesh.positions.length,
      0,
    );
    const total = splits.reduce((n, split) => n + split.faces.length, 0);
    this.positions = new Float32Array(vertexTotal);
    this.triangles = new Uint32Array(3 * total);
    this.owner = new Uint32Array(total);
    let vertex = 0;
    let at = 0;
    meshes.forEach((mesh, m) => {
      const ofFace = new Uint32Array(faceCount(mesh));
      pieces.forEach((piece, i) => {
        if (piece.mesh === mesh) for (const f of piece.faces) ofFace[f] = i;
      });
      this.positions.set(mesh.positions, 3 * vertex);
      const { vertices, faces } = splits[m];
      for (let t = 0; t < faces.length; t++) {
        this.owner[at] = ofFace[faces[t]];
        for (let k = 0; k < 3; k++)
          this.triangles[3 * at + k] = vertex + vertices[3 * t + k];
        at++;
      }
      vertex += mesh.positions.length / 3;
    });
    this.closest = new ClosestPoint(
      buildBvh(this.positions, this.triangles),
      this.owner,
    );
  }

  /**
   * The nearest point of any other piece within a distance. What was found is in `closest` and `normal`.
   * @returns distance, negative behind the surface found, or Infinity
   */
  signed(
    piece: number,
    x: number,
    y: number,
    z: number,
    within: number,
  ): number {
    const { closest } = this;
    const t = closest.find(x, y, z, within * within, piece);
    if (t < 0) return Infinity;
    this.found = this.owner[t];
    const p = this.positions;
    const [a, b, c] = [0, 1, 2].map((k) => 3 * this.triangles[3 * t + k]);
    const u = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const v = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
    const n = [
      u[1] * v[2] - u[2] * v[1],
      u[2] * v[0] - u[0] * v[2],
      u[0] * v[1] - u[1] * v[0],
    ];
    const length = Math.hypot(...n) || 1;
    for (let k = 0; k < 3; k++) this.normal[k] = n[k] / length;
    const distance = Math.sqrt(closest.distance2);
    const side =
      (x - closest.x) * this.normal[0] +
      (y - closest.y) * this.normal[1] +
      (z - closest.z) * this.normal[2];
    return side < 0 ? -distance : distance;
  }

  /** The piece that `signed` met last. */
  found = -1;
}

/** Up to `most` of a piece's vertices, spread evenly over their order. */
export function someVertices(piece: Piece, most: number): number[] {
  const { vertices } = piece;
  if (vertices.length <= most) return vertices;
  return Array.from(
    { length: most },
    (_, i) => vertices[Math.floor((i * vertices.length) / most)],
  );
}
