import type { Mesh } from "../../mesh/mesh";
import type { Edges } from "../../mesh/edges";
import type { Triangulation } from "../../mesh/triangulate";

/** What unwrapping needs to know of a mesh, made once. */
export interface UnwrapMesh {
  mesh: Mesh;
  edges: Edges;
  next: Uint32Array;
  faceOfCorner: Uint32Array;
  split: Triangulation;
  /** faceCount + 1: the triangles of face f are triangleStarts[f] … triangleStarts[f + 1] − 1. */
  triangleStarts: Uint32Array;
  /** 3 × faceCount, and area of each face in m². */
  normals: Float32Array;
  areas: Float64Array;
  /** edgeCount: 1 where two faces meet properly and softly, so that UVs may run across. */
  joins: Uint8Array;
  /** edgeCount: what a seam along an edge costs, metres. */
  costs: Float64Array;
  /** cornerCount, for `buildChart` to write in: where in the chart it makes each of its corners is. */
  placeInChart: Int32Array;
}
