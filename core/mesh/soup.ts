import type { Mesh } from "./mesh";
import { meshFromTriangles } from "./mesh";
import { triangulate } from "./triangulate";
import { coincident } from "./weld";

/** Triangles of several meshes in one set of arrays, so that one queue can deal a budget out over all. */
export interface Soup {
  /** 3 × vertexCount, metres, about the middle of everything. */
  positions: Float64Array;
  /** 3 × triangleCount */
  triangles: Uint32Array;
  /** triangleCount: the mesh each came from. */
  owner: Uint16Array;
  /** triangleCount: the material within that mesh. */
  material: Uint16Array;
  /** 3 × triangleCount: 1 where the edge from this corner is marked hard. */
  hard: Uint8Array;
  centre: [number, number, number];
}

/**
 * Triangulates meshes, joins vertices at equal places within each and leaves out triangles that are for the
 * source only, with no area left, broken coordinates or a twin.
 */
export function gatherSoup(meshes: readonly Mesh[]): Soup {
  const split = meshes.map((mesh) => triangulate(mesh));
  const vertexTotal = meshes.reduce(
    (sum, mesh) => sum + mesh.positions.length,
    0,
  );
  const triangleTotal = split.reduce((sum, each) => sum + each.faces.length, 0);
  const positions = new Float64Array(vertexTotal);
  const triangles = new Uint32Array(3 * triangleTotal);
  const owner = new Uint16Array(triangleTotal);
  const material = new Uint16Array(triangleTotal);
  const hard = new Uint8Array(3 * triangleTotal);
  const centre = middleOf(meshes);
  let base = 0;
  let at = 0;
  meshes.forEach((mesh, m) => {
    const target = coincident(mesh.positions, 0);
    for (let i = 0; i < mesh.positions.length; i++)
      positions[3 * base + i] = mesh.positions[i] - centre[i % 3];
    const { vertices, corners, faces } = split[m];
    for (let t = 0; t < faces.length; t++) {
      const a = target[vertices[3 * t]];
      const b = target[vertices[3 * t + 1]];
      const c = target[vertices[3 * t + 2]];
      if (a === b || b === c || c === a) continue;
      if (mesh.sourceOnly?.[faces[t]]) continue;
      triangles[3 * at] = base + a;
      triangles[3 * at + 1] = base + b;
      triangles[3 * at + 2] = base + c;
      owner[at] = m;
      material[at] = mesh.faceMaterials ? mesh.faceMaterials[faces[t]] : 0;
      if (mesh.hard)
        for (let k = 0; k < 3; k++) {
          const from = corners[3 * t + k];
          const to = corners[3 * t + ((k + 1) % 3)];
          const follows = to === from + 1 || to === mesh.faceStarts[faces[t]];
          hard[3 * at + k] = follows ? mesh.hard[from] : 0;
        }
      at++;
    }
    base += mesh.positions.length / 3;
  });
  return {
    positions,
    triangles: triangles.slice(0, 3 * at),
    owner: owner.slice(0, at),
    material: material.slice(0, at),
    hard: hard.slice(0, 3 * at),
    centre,
  };
}

function middleOf(meshes: readonly Mesh[]): [number, number, number] {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const mesh of meshes)
    for (let i = 0; i < mesh.positions.length; i++) {
      const x = mesh.positions[i];
      if (x < low[i % 3]) low[i % 3] = x;
      if (x > high[i % 3]) high[i % 3] = x;
    }
  const middle = (k: number) =>
    low[k] <= high[k] ? (low[k] + high[k]) / 2 : 0;
  return [middle(0), middle(1), middle(2)];
}

/** The triangles that are left of each mesh; null for a mesh of which nothing is left. */
export function scatterSoup(
  soup: Soup,
  alive: Uint8Array,
  materials: readonly (readonly string[])[],
): (Mesh | null)[] {
  const name = new Int32Array(soup.positions.length / 3).fill(-1);
  return materials.map((names, m) => {
    const points: number[] = [];
    const corners: number[] = [];
    const faceMaterials: number[] = [];
    for (let t = 0; t < alive.length; t++) {
      if (!alive[t] || soup.owner[t] !== m) continue;
      for (let k = 0; k < 3; k++) {
        const v = soup.triangles[3 * t + k];
        if (name[v] < 0) {
          name[v] = points.length / 3;
          for (let i = 0; i < 3; i++)
            points.push(soup.positions[3 * v + i] + soup.centre[i]);
        }
        corners.push(name[v]);
      }
      faceMaterials.push(soup.material[t]);
    }
    if (!corners.length) return null;
    return meshFromTriangles(
      new Float32Array(points),
      new Uint32Array(corners),
      {
        materials: names,
        faceMaterials: names.length > 1 ? new Uint16Array(faceMaterials) : null,
      },
    );
  });
}
