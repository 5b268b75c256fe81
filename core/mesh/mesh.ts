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
  /** cornerCount: crease of the edge from this corner to the next one, tenths of a sharpness; 100 and more never smooths. */
  readonly creases: Uint8Array | null;
  /** cornerCount: what an artist wants of the edge from this corner: 1 a seam, 2 no seam, 0 as it comes. */
  readonly cuts: Uint8Array | null;
  /** faceCount: index into `materials`, or null where all faces have the first one. */
  readonly faceMaterials: Uint16Array | null;
  /** faceCount: 0 for none, otherwise 1 + index into the asset's palette. */
  readonly ids: Uint16Array | null;
  /** faceCount: 1 where a face bakes but never reaches the game mesh. */
  readonly sourceOnly: Uint8Array | null;
  /** faceCount: how much of the outside sees a face, 0 … 255, or null where nobody has looked. */
  readonly seen: Uint8Array | null;
  /** faceCount: how dense the game mesh is wanted here, as core/mesh/density.ts reads it; null for as it comes. */
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
    colours: null,
    seams: null,
    hard: null,
    creases: null,
    cuts: null,
    faceMaterials: null,
    ids: null,
    sourceOnly: null,
    seen: null,
    density: null,
    texelWeights: null,
    held: null,
    copies: null,
    ownNormals: null,
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

/** What hangs on corners, with its width; and what hangs on faces. */
const CORNER_WIDTHS = {
  uvs: 2,
  normals: 3,
  colours: 3,
  seams: 1,
  hard: 1,
  creases: 1,
  cuts: 1,
} as const;
export const ON_CORNERS = Object.keys(
  CORNER_WIDTHS,
) as (keyof typeof CORNER_WIDTHS)[];
const ON_FACES = [
  "faceMaterials",
  "ids",
  "sourceOnly",
  "seen",
  "density",
  "texelWeights",
  "held",
  "copies",
  "ownNormals",
] as const;

/**
 * A mesh of other faces over the same vertices, with all that hangs on corners and faces taken along.
 * @param oldCorner for each new corner the corner it takes its UV, normal, colour and marks from
 * @param oldFace for each new face the face it takes its material, ID and marks from
 * @param corners vertices of the new corners; those of `oldCorner` where left out
 */
export function withFaces(
  mesh: Mesh,
  faceStarts: Uint32Array,
  oldCorner: Uint32Array,
  oldFace: Uint32Array,
  corners: Uint32Array = pick(mesh.corners, oldCorner, 1),
): Mesh {
  const next: Record<string, unknown> = { ...mesh, faceStarts, corners };
  for (const [name, width] of Object.entries(CORNER_WIDTHS)) {
    const values = mesh[name as keyof typeof CORNER_WIDTHS];
    if (values) next[name] = pick<MeshArray>(values, oldCorner, width);
  }
  for (const name of ON_FACES) {
    const values = mesh[name];
    if (values) next[name] = pick<MeshArray>(values, oldFace, 1);
  }
  return next as unknown as Mesh;
}

/** A mesh with what hangs on the faces of another one. @param from for each face the other's */
export function takeFaces(mesh: Mesh, other: Mesh, from: Uint32Array): Mesh {
  const next: Record<string, unknown> = {
    ...mesh,
    materials: other.materials,
  };
  for (const name of ON_FACES)
    next[name] = other[name] && pick<MeshArray>(other[name], from, 1);
  return next as unknown as Mesh;
}

/** Keeps the faces for which `keep` is not 0, and drops the vertices that nothing uses any more. */
export const keepFaces = (mesh: Mesh, keep: Uint8Array): Mesh =>
  compactVertices(onlyFaces(mesh, keep));

/** Keeps the faces for which `keep` is not 0; vertices keep their numbers. */
export function onlyFaces(mesh: Mesh, keep: ArrayLike<number>): Mesh {
  const faces: number[] = [];
  let count = 0;
  for (let f = 0; f < faceCount(mesh); f++)
    if (keep[f]) {
      faces.push(f);
      count += mesh.faceStarts[f + 1] - mesh.faceStarts[f];
    }
  const oldFace = Uint32Array.from(faces);
  const faceStarts = new Uint32Array(faces.length + 1);
  const oldCorner = new Uint32Array(count);
  let at = 0;
  oldFace.forEach((f, i) => {
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
      oldCorner[at++] = c;
    faceStarts[i + 1] = at;
  });
  return withFaces(mesh, faceStarts, oldCorner, oldFace);
}

/**
 * One mesh of several. Materials of the same name become one; what only some of them have (UVs, normals, marks)
 * is 0 on the others, except normals, which are left out unless all have them.
 */
export function joinMeshes(meshes: readonly Mesh[]): Mesh {
  if (meshes.length === 1) return meshes[0];
  const sum = (of: (mesh: Mesh) => number) =>
    meshes.reduce((total, mesh) => total + of(mesh), 0);
  const corners = new Uint32Array(sum((mesh) => mesh.corners.length));
  const faces = sum(faceCount);
  const faceStarts = new Uint32Array(faces + 1);
  const positions = new Float32Array(sum((mesh) => mesh.positions.length));
  const faceMaterials = new Uint16Array(faces);
  const materials: string[] = [];
  const joined: Record<string, unknown> = {};
  for (const [name, width] of Object.entries(CORNER_WIDTHS)) {
    const key = name as keyof typeof CORNER_WIDTHS;
    const like = meshes.find((mesh) => mesh[key])?.[key];
    if (!like || (key === "normals" && meshes.some((mesh) => !mesh.normals)))
      continue;
    joined[name] = new (kindOf(like))(width * corners.length);
  }
  for (const name of ON_FACES.slice(1)) {
    const like = meshes.find((mesh) => mesh[name])?.[name];
    if (like) joined[name] = new (kindOf(like))(faces);
  }
  let vertex = 0;
  let corner = 0;
  let face = 0;
  for (const mesh of meshes) {
    positions.set(mesh.positions, 3 * vertex);
    for (let c = 0; c < mesh.corners.length; c++)
      corners[corner + c] = vertex + mesh.corners[c];
    const names = mesh.materials.map((name) => {
      const at = materials.indexOf(name);
      return at < 0 ? materials.push(name) - 1 : at;
    });
    for (let f = 0; f < faceCount(mesh); f++) {
      faceStarts[face + f + 1] = corner + mesh.faceStarts[f + 1];
      faceMaterials[face + f] = names[mesh.faceMaterials?.[f] ?? 0] ?? 0;
    }
    for (const [name, width] of Object.entries(CORNER_WIDTHS)) {
      const values = mesh[name as keyof typeof CORNER_WIDTHS];
      if (values)
        (joined[name] as MeshArray | undefined)?.set(values, width * corner);
    }
    for (const name of ON_FACES.slice(1)) {
      const values = mesh[name];
      if (values) (joined[name] as MeshArray).set(values, face);
    }
    vertex += vertexCount(mesh);
    corner += mesh.corners.length;
    face += faceCount(mesh);
  }
  return createMesh({
    ...(joined as Partial<Mesh>),
    positions,
    faceStarts,
    corners,
    faceMaterials: materials.length > 1 ? faceMaterials : null,
    materials: materials.length ? materials : ["surface"],
  });
}

type MeshArray = Float32Array | Uint32Array | Uint16Array | Uint8Array;

const kindOf = (values: MeshArray) =>
  values.constructor as new (length: number) => MeshArray;

function pick<T extends MeshArray>(
  values: T,
  from: Uint32Array,
  width: number,
): T {
  const picked = new (kindOf(values))(from.length * width);
  for (let i = 0; i < from.length; i++)
    for (let k = 0; k < width; k++)
      picked[i * width + k] = values[from[i] * width + k];
  return picked as T;
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

/**
 * Turns the faces for which `which` is not 0 over: their corners run the other way round. Normals stay as they
 * are; whoever turns decides about them.
 */
export function reverseFaces(mesh: Mesh, which: ArrayLike<number>): Mesh {
  const corners = mesh.corners.length;
  const from = new Uint32Array(corners);
  // The mark of an edge sits at the corner it leaves from, which is another one after turning.
  const edgeFrom = new Uint32Array(corners);
  for (let f = 0; f < faceCount(mesh); f++) {
    const s = mesh.faceStarts[f];
    const n = mesh.faceStarts[f + 1] - s;
    for (let k = 0; k < n; k++) {
      from[s + k] = which[f] ? s + n - 1 - k : s + k;
      edgeFrom[s + k] = which[f] ? s + ((2 * n - 2 - k) % n) : s + k;
    }
  }
  const faces = new Uint32Array(faceCount(mesh)).map((_, f) => f);
  const turned = withFaces(mesh, mesh.faceStarts, from, faces);
  return {
    ...turned,
    seams: mesh.seams && pick(mesh.seams, edgeFrom, 1),
    hard: mesh.hard && pick(mesh.hard, edgeFrom, 1),
    creases: mesh.creases && pick(mesh.creases, edgeFrom, 1),
    cuts: mesh.cuts && pick(mesh.cuts, edgeFrom, 1),
  };
}

/** The face of every corner. */
export function faceOfCorners(mesh: Mesh): Uint32Array {
  const face = new Uint32Array(mesh.corners.length);
  const { faceStarts } = mesh;
  for (let f = 0; f + 1 < faceStarts.length; f++)
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++) face[c] = f;
  return face;
}
