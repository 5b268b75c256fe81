import type { MeshArray, StreamName } from "./streams";
import {
  arrayLike,
  mapStreams,
  ON_EDGES,
  ON_FACES,
  pickRows,
  STREAM_NAMES,
  STREAMS,
} from "./streams";
import type { Mesh } from "./mesh";
import { faceCount, vertexCount } from "./mesh";

/** What a new mesh needs at least; the rest is empty. */
export function createMesh(
  parts: Pick<Mesh, "positions" | "faceStarts" | "corners"> & Partial<Mesh>,
): Mesh {
  return {
    ...withoutStreams(STREAM_NAMES),
    materials: ["surface"],
    ...parts,
  };
}

const withoutStreams = <K extends StreamName>(names: readonly K[]) =>
  Object.fromEntries(names.map((name) => [name, null])) as Record<K, null>;

/** A mesh of triangles only. `positions`: 3 × vertexCount, metres; `triangles`: 3 × triangleCount vertex indices. */
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
  corners: Uint32Array = pickRows(mesh.corners, oldCorner, 1),
): Mesh {
  return {
    ...mesh,
    faceStarts,
    corners,
    ...mapStreams(mesh, STREAM_NAMES, (values, width, name) =>
      pickRows(
        values,
        STREAMS[name].on === "faces" ? oldFace : oldCorner,
        width,
      ),
    ),
  };
}

/** A mesh with what hangs on the faces of another one. @param from for each face the other's */
export function takeFaces(mesh: Mesh, other: Mesh, from: Uint32Array): Mesh {
  return {
    ...mesh,
    ...withoutStreams(ON_FACES),
    ...mapStreams(other, ON_FACES, (values) => pickRows(values, from, 1)),
    materials: other.materials,
  };
}

/**
 * Keeps the faces for which `keep` is not 0, and drops the vertices that nothing uses any more.
 * @param keep faceCount
 */
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
  const joined: Partial<Record<StreamName, MeshArray>> = {};
  for (const name of STREAM_NAMES) {
    // Materials are numbered anew.
    if (name === "faceMaterials") continue;
    const { on, width, joined: how } = STREAMS[name];
    const like = meshes.find((mesh) => mesh[name])?.[name];
    if (like && (how === "zero" || meshes.every((mesh) => mesh[name])))
      joined[name] = arrayLike<MeshArray>(
        like,
        width * (on === "faces" ? faces : corners.length),
      );
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
    for (const [name, into] of Object.entries(joined)) {
      const { on, width } = STREAMS[name as StreamName];
      const values = mesh[name as StreamName];
      if (values) into.set(values, width * (on === "faces" ? face : corner));
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
  return {
    ...withFaces(mesh, mesh.faceStarts, from, faces),
    ...mapStreams(mesh, ON_EDGES, (values) => pickRows(values, edgeFrom, 1)),
  };
}
