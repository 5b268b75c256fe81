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
  /** cornerCount: 1 where the edge from this corner to the next one of its face is a seam. */
  readonly seams: Uint8Array | null;
  /** cornerCount: 1 where the edge from this corner to the next one of its face is hard. */
  readonly hard: Uint8Array | null;
  /** faceCount: index into `materials`, or null where all faces have the first one. */
  readonly faceMaterials: Uint16Array | null;
  readonly materials: readonly string[];
}

export const vertexCount = (mesh: Mesh) => mesh.positions.length / 3;
export const faceCount = (mesh: Mesh) => mesh.faceStarts.length - 1;

/** Triangles that the faces make: an n-gon counts n − 2. */
export const triangleCount = (mesh: Mesh) =>
  mesh.corners.length - 2 * faceCount(mesh);

/** What a new mesh needs at least; the rest is empty. */
export function createMesh(
  parts: Pick<Mesh, "positions" | "faceStarts" | "corners"> & Partial<Mesh>,
): Mesh {
  return {
    uvs: null,
    normals: null,
    seams: null,
    hard: null,
    faceMaterials: null,
    materials: ["surface"],
    ...parts,
  };
}

/** A mesh of triangles only. `triangles`: 3 × triangleCount vertex indices. */
export function meshFromTriangles(
  positions: Float32Array,
  triangles: Uint32Array,
  rest: Partial<Mesh> = {},
): Mesh {
  const faceStarts = new Uint32Array(triangles.length / 3 + 1);
  for (let f = 0; f < faceStarts.length; f++) faceStarts[f] = 3 * f;
  return createMesh({ positions, faceStarts, corners: triangles, ...rest });
}

/**
 * Keeps the faces for which `keep` is not 0, with all that hangs on their corners, and drops the vertices
 * that nothing uses any more.
 */
export function keepFaces(mesh: Mesh, keep: Uint8Array): Mesh {
  const faces = faceCount(mesh);
  let keptFaces = 0;
  let keptCorners = 0;
  for (let f = 0; f < faces; f++) {
    if (!keep[f]) continue;
    keptFaces++;
    keptCorners += mesh.faceStarts[f + 1] - mesh.faceStarts[f];
  }
  const faceStarts = new Uint32Array(keptFaces + 1);
  const oldCorner = new Uint32Array(keptCorners);
  const faceMaterials = mesh.faceMaterials ? new Uint16Array(keptFaces) : null;
  let at = 0;
  let face = 0;
  for (let f = 0; f < faces; f++) {
    if (!keep[f]) continue;
    if (faceMaterials) faceMaterials[face] = mesh.faceMaterials![f];
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
      oldCorner[at++] = c;
    faceStarts[++face] = at;
  }
  const corners = new Uint32Array(keptCorners);
  for (let c = 0; c < keptCorners; c++) corners[c] = mesh.corners[oldCorner[c]];
  return compactVertices({
    ...mesh,
    faceStarts,
    corners,
    faceMaterials,
    uvs: pick(mesh.uvs, oldCorner, 2, Float32Array),
    normals: pick(mesh.normals, oldCorner, 3, Float32Array),
    seams: pick(mesh.seams, oldCorner, 1, Uint8Array),
    hard: pick(mesh.hard, oldCorner, 1, Uint8Array),
  });
}

function pick<T extends Float32Array | Uint8Array>(
  values: T | null,
  from: Uint32Array,
  width: number,
  Kind: new (length: number) => T,
): T | null {
  if (!values) return null;
  const picked = new Kind(from.length * width);
  for (let i = 0; i < from.length; i++)
    for (let k = 0; k < width; k++)
      picked[i * width + k] = values[from[i] * width + k];
  return picked;
}

/** Drops the vertices that no corner uses; keeps the order of the rest. */
export function compactVertices(mesh: Mesh): Mesh {
  const count = vertexCount(mesh);
  const renamed = new Int32Array(count).fill(-1);
  for (let c = 0; c < mesh.corners.length; c++) renamed[mesh.corners[c]] = 0;
  let used = 0;
  for (let v = 0; v < count; v++) if (renamed[v] === 0) renamed[v] = used++;
  if (used === count) return mesh;
  const positions = new Float32Array(used * 3);
  for (let v = 0; v < count; v++) {
    const to = renamed[v];
    if (to >= 0)
      positions.set(mesh.positions.subarray(3 * v, 3 * v + 3), 3 * to);
  }
  const corners = mesh.corners.map((v) => renamed[v]);
  return { ...mesh, positions, corners };
}

/** The face of every corner. */
export function faceOfCorners(mesh: Mesh): Uint32Array {
  const face = new Uint32Array(mesh.corners.length);
  for (let f = 0; f < faceCount(mesh); f++)
    face.fill(f, mesh.faceStarts[f], mesh.faceStarts[f + 1]);
  return face;
}
