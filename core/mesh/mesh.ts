/**
 * A polygon mesh in flat arrays. Faces keep their number of corners: quads and n-gons stay what they are.
 * Immutable by convention: operations return new arrays and share those that did not change.
 */
export interface Mesh {
  /** 3 × vertexCount, metres, y up. */
  readonly positions: Float32Array;
  /** faceCount + 1: the corners of face f are faceStarts[f] … faceStarts[f + 1] − 1. */
  readonly faceStarts: Uint32Array;
  /** cornerCount: the vertex of each corner, counter-clockwise seen from outside. */
  readonly corners: Uint32Array;
  /** 2 × cornerCount, v up, or null where the mesh is not unwrapped. */
  readonly uvs: Float32Array | null;
  /** 3 × cornerCount, unit length, or null where nobody set normals. */
  readonly normals: Float32Array | null;
  /** 3 × cornerCount: red, green and blue (sRGB) that a file gave its vertices, or null where it gave none. */
  readonly colours: Uint8Array | null;
  /** cornerCount: 1 where the edge from this corner to the next one of its face is a seam. */
  readonly seams: Uint8Array | null;
  /** cornerCount: 1 where the edge from this corner to the next one of its face is hard. */
  readonly hard: Uint8Array | null;
  /** cornerCount: radius that the bake gives the edge from this corner, as core/mesh/rounds.ts reads it; 0 as all hard ones. */
  readonly rounds: Uint16Array | null;
  /** 3 × cornerCount, metres: ways to where the rays of a bake begin; 0 where that is found, null where all of it is. */
  readonly cage: Float32Array | null;
  /** cornerCount: crease of the edge from this corner to the next one, tenths of a sharpness; 100 and more never smooths. */
  readonly creases: Uint8Array | null;
  /** cornerCount: what an artist wants of the edge from this corner: 1 a seam, 2 no seam, 0 as it comes. */
  readonly seamOverrides: Uint8Array | null;
  /** faceCount: index into `materials`, or null where all faces have the first one. */
  readonly faceMaterials: Uint16Array | null;
  /** faceCount: 0 for none, otherwise 1 + index into the asset's palette. */
  readonly ids: Uint16Array | null;
  /** faceCount: 1 where a face bakes but never reaches the game mesh. */
  readonly sourceOnly: Uint8Array | null;
  /** faceCount: how much of the outside sees a face, 0 … 255, or null where nobody has looked. */
  readonly visibility: Uint8Array | null;
  /** faceCount: how dense the game mesh is wanted here, as core/decimate/density.ts reads it; null for as it comes. */
  readonly density: Uint8Array | null;
  /** faceCount: texels wanted against the rest, as core/mesh/texel-weights.ts reads it; null for equal ones. */
  readonly texelWeights: Uint8Array | null;
  /** faceCount: 1 where an island was placed by hand and stays where it is, or null. */
  readonly held: Uint8Array | null;
  /** faceCount: 1 where a face shares the texels of another one and is left out of the bake, or null. */
  readonly copies: Uint8Array | null;
  /** faceCount: 1 where normals were taken from elsewhere and stay as they are, or null. */
  readonly ownNormals: Uint8Array | null;
  readonly materials: readonly string[];
}

/** How many vertices a mesh has, used or not. */
export const vertexCount = (mesh: Mesh) => mesh.positions.length / 3;

/** How many faces a mesh has, of any number of corners. */
export const faceCount = (mesh: Mesh) => mesh.faceStarts.length - 1;

/** Triangles that the faces make: an n-gon counts n − 2. */
export const triangleCount = (mesh: Mesh) =>
  mesh.corners.length - 2 * faceCount(mesh);

/**
 * The face of every corner.
 * @returns cornerCount
 */
export function faceOfCorners(mesh: Mesh): Uint32Array {
  const face = new Uint32Array(mesh.corners.length);
  const { faceStarts } = mesh;
  for (let f = 0; f + 1 < faceStarts.length; f++)
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++) face[c] = f;
  return face;
}
