import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { meshFromTriangles } from "../mesh/change-faces";
import { settledOf } from "../settle/settled-of";
import { triangulate } from "../mesh/triangulate";
import type { Vector } from "../space/vector";

/** What an edge of a soup is marked as, by bits. */
export const HARD = 1;
export const UV_SEAM = 2;

/** Triangles of several meshes in one set of arrays, so that one queue can deal a budget out over all. */
export interface Soup {
  /** 3 × vertexCount, metres, about the middle of everything. */
  positions: Float64Array;
  /** 3 × triangleCount */
  triangles: Uint32Array;
  /** triangleCount: the mesh each came from. */
  owner: Uint16Array;
  /** triangleCount: the face of that mesh, as it was before it was settled. */
  face: Uint32Array;
  /** triangleCount: the material within that mesh. */
  material: Uint16Array;
  /** triangleCount: what parts regions beside the material: the ID painted on the face. */
  id: Uint16Array;
  /** 3 × triangleCount: HARD and UV_SEAM of the edge from this corner. */
  marks: Uint8Array;
  centre: [number, number, number];
}

/** A place on a mesh of a soup. */
export interface SoupPlace {
  /** The mesh's place among them, see `Soup.owner`. */
  mesh: number;
  /** Metres, about the origin of the meshes. */
  at: Vector;
}

/** A point of a soup, metres about its centre, as a place. */
export const placeIn = (
  { centre }: Soup,
  mesh: number,
  [x, y, z]: readonly number[],
): SoupPlace => ({ mesh, at: [x + centre[0], y + centre[1], z + centre[2]] });

/** Settles meshes, triangulates them and leaves out triangles that are for the source only. */
export function gatherSoup(sources: readonly Mesh[], check?: () => void): Soup {
  const settled = sources.map((mesh) => settledOf(mesh, check));
  const meshes = settled.map(({ mesh }) => mesh);
  const split = meshes.map((mesh) => triangulate(mesh));
  const vertexTotal = meshes.reduce(
    (sum, mesh) => sum + mesh.positions.length,
    0,
  );
  const total = split.reduce((sum, each) => sum + each.faces.length, 0);
  const positions = new Float64Array(vertexTotal);
  const triangles = new Uint32Array(3 * total);
  const owner = new Uint16Array(total);
  const face = new Uint32Array(total);
  const material = new Uint16Array(total);
  const id = new Uint16Array(total);
  const marks = new Uint8Array(3 * total);
  const centre = middleOf(meshes);
  let base = 0;
  let at = 0;
  meshes.forEach((mesh, m) => {
    const p = mesh.positions;
    const faceOf = settled[m].faces;
    for (let i = 0; i < p.length; i += 3) {
      positions[3 * base + i] = p[i] - centre[0];
      positions[3 * base + i + 1] = p[i + 1] - centre[1];
      positions[3 * base + i + 2] = p[i + 2] - centre[2];
    }
    const { vertices, corners, faces } = split[m];
    const begin = at;
    const cornerOf = mesh.uvs && new Uint32Array(corners.length);
    for (let t = 0; t < faces.length; t++) {
      const a = vertices[3 * t];
      const b = vertices[3 * t + 1];
      const c = vertices[3 * t + 2];
      if (a === b || b === c || c === a) continue;
      if (mesh.sourceOnly?.[faces[t]]) continue;
      triangles[3 * at] = base + a;
      triangles[3 * at + 1] = base + b;
      triangles[3 * at + 2] = base + c;
      if (cornerOf)
        for (let k = 0; k < 3; k++)
          cornerOf[3 * (at - begin) + k] = corners[3 * t + k];
      owner[at] = m;
      face[at] = faceOf ? faceOf[faces[t]] : faces[t];
      material[at] = mesh.faceMaterials ? mesh.faceMaterials[faces[t]] : 0;
      id[at] = mesh.ids ? mesh.ids[faces[t]] : 0;
      if (mesh.hard)
        for (let k = 0; k < 3; k++) {
          const from = corners[3 * t + k];
          const to = corners[3 * t + ((k + 1) % 3)];
          const follows = to === from + 1 || to === mesh.faceStarts[faces[t]];
          if (follows && mesh.hard[from]) marks[3 * at + k] = HARD;
        }
      at++;
    }
    if (mesh.uvs) markUvSeams(mesh.uvs, cornerOf!, triangles, marks, begin, at);
    base += p.length / 3;
  });
  return {
    positions,
    triangles: triangles.slice(0, 3 * at),
    owner: owner.slice(0, at),
    face: face.slice(0, at),
    material: material.slice(0, at),
    id: id.slice(0, at),
    marks: marks.slice(0, 3 * at),
    centre,
  };
}

/**
 * Marks the edges at which the UVs of a mesh part.
 * @param cornerOf the mesh's corner at each corner of the soup's triangles from `begin` to `end`
 */
function markUvSeams(
  uvs: Float32Array,
  cornerOf: Uint32Array,
  triangles: Uint32Array,
  marks: Uint8Array,
  begin: number,
  end: number,
): void {
  const corners = triangles.subarray(3 * begin, 3 * end);
  const faceStarts = new Uint32Array(end - begin + 1).map((_, t) => 3 * t);
  const { first, second, count } = buildEdges({ corners, faceStarts });
  const next = (c: number) => (c % 3 === 2 ? c - 2 : c + 1);
  const apart = (c: number, d: number) =>
    uvs[2 * cornerOf[c]] !== uvs[2 * cornerOf[d]] ||
    uvs[2 * cornerOf[c] + 1] !== uvs[2 * cornerOf[d] + 1];
  for (let e = 0; e < count; e++) {
    const c = first[e];
    const d = second[e];
    if (d < 0) continue;
    const opposite = corners[c] !== corners[d];
    if (
      apart(c, opposite ? next(d) : d) ||
      apart(next(c), opposite ? d : next(d))
    ) {
      marks[3 * begin + c] |= UV_SEAM;
      marks[3 * begin + d] |= UV_SEAM;
    }
  }
}

function middleOf(meshes: readonly Mesh[]): [number, number, number] {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const mesh of meshes)
    for (let k = 0; k < 3; k++)
      for (let i = k; i < mesh.positions.length; i += 3) {
        const x = mesh.positions[i];
        if (x < low[k]) low[k] = x;
        if (x > high[k]) high[k] = x;
      }
  const middle = (k: number) =>
    low[k] <= high[k] ? (low[k] + high[k]) / 2 : 0;
  return [middle(0), middle(1), middle(2)];
}

/** Triangles of a soup, or of a state of it, with what the meshes made of them need. */
export type Triangles = Pick<
  Soup,
  "triangles" | "owner" | "material" | "id"
> & {
  /** 3 × vertexCount, about `centre`. */
  positions: Float64Array | Float32Array;
  centre: readonly number[];
};

/** The triangles of each mesh; null for a mesh of which nothing is left. */
export function scatterSoup(
  soup: Triangles,
  materials: readonly (readonly string[])[],
): (Mesh | null)[] {
  const total = soup.owner.length;
  const counts = new Uint32Array(materials.length);
  const withIds = new Uint8Array(materials.length);
  for (let t = 0; t < total; t++) {
    counts[soup.owner[t]]++;
    if (soup.id[t]) withIds[soup.owner[t]] = 1;
  }
  const name = new Int32Array(soup.positions.length / 3).fill(-1);
  return materials.map((names, m) => {
    const count = counts[m];
    if (!count) return null;
    const corners = new Uint32Array(3 * count);
    const faceMaterials = new Uint16Array(count);
    const ids = new Uint16Array(count);
    const used: number[] = [];
    let at = 0;
    for (let t = 0; t < total; t++) {
      if (soup.owner[t] !== m) continue;
      for (let k = 0; k < 3; k++) {
        const v = soup.triangles[3 * t + k];
        if (name[v] < 0) {
          name[v] = used.length;
          used.push(v);
        }
        corners[3 * at + k] = name[v];
      }
      faceMaterials[at] = soup.material[t];
      ids[at] = soup.id[t];
      at++;
    }
    const positions = new Float32Array(3 * used.length);
    used.forEach((v, i) => {
      for (let k = 0; k < 3; k++)
        positions[3 * i + k] = soup.positions[3 * v + k] + soup.centre[k];
    });
    return meshFromTriangles(positions, corners, {
      materials: names,
      faceMaterials: names.length > 1 ? faceMaterials : null,
      ids: withIds[m] ? ids : null,
    });
  });
}

/** Triangles of each of so many meshes. */
export function trianglesOf(soup: Soup, meshes: number): Uint32Array {
  const counts = new Uint32Array(meshes);
  for (const m of soup.owner) counts[m]++;
  return counts;
}

/** Keeps the triangles that are marked, in order. @param kept triangleCount: 1 for those */
export function keepTriangles(soup: Soup, kept: Uint8Array): void {
  const { triangles, owner, face, material, id } = soup;
  let at = 0;
  for (let t = 0; t < kept.length; t++) {
    if (!kept[t]) continue;
    if (at !== t) {
      triangles[3 * at] = triangles[3 * t];
      triangles[3 * at + 1] = triangles[3 * t + 1];
      triangles[3 * at + 2] = triangles[3 * t + 2];
      owner[at] = owner[t];
      face[at] = face[t];
      material[at] = material[t];
      id[at] = id[t];
    }
    at++;
  }
  soup.triangles = triangles.subarray(0, 3 * at);
  soup.owner = owner.subarray(0, at);
  soup.face = face.subarray(0, at);
  soup.material = material.subarray(0, at);
  soup.id = id.subarray(0, at);
}
