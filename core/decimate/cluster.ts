import { hashPair } from "../base/pair-set";
import type { Mesh } from "../mesh/mesh";
import { createMesh, withFaces } from "../mesh/change-faces";
import { boundsOf } from "../space/bounds";

/**
 * A light look-alike: vertices in the same cell of a grid become their mean, triangles that keep three different
 * ones stay (Rossignac and Borrel 1993), with UVs, colours and materials. Rough, but one pass over the mesh, whatever its size.
 * @param most triangles wanted at most, about
 */
export function clusterMesh(mesh: Mesh, most: number): Mesh {
  const { min, max } = boundsOf(mesh.positions);
  const longest = Math.max(...min.map((low, k) => max[k] - low), 1e-9);
  let cells = 400;
  let made = clusterOnce(mesh, min, longest / cells);
  for (let round = 0; round < 8; round++) {
    const count = made.corners.length / 3;
    if (count <= most) break;
    // Triangles go with the square of the cells along an axis.
    cells *= 0.95 * Math.sqrt(most / count);
    made = clusterOnce(mesh, min, longest / cells);
  }
  return made;
}

function clusterOnce(mesh: Mesh, min: readonly number[], cell: number): Mesh {
  const p = mesh.positions;
  const count = p.length / 3;
  const size = 1 << Math.max(8, Math.ceil(Math.log2(count + 1)));
  const table = new Int32Array(size).fill(-1);
  const cluster = new Uint32Array(count);
  // Cells are told apart by two hashes; meeting twice would only join two far vertices of a picture.
  const keys: number[] = [];
  const sums: number[] = [];
  const members: number[] = [];
  for (let v = 0; v < count; v++) {
    const x = Math.floor((p[3 * v] - min[0]) / cell);
    const y = Math.floor((p[3 * v + 1] - min[1]) / cell);
    const z = Math.floor((p[3 * v + 2] - min[2]) / cell);
    const key = (x * 4096 + y) * 4096 + z;
    let slot = hashPair(x * 8192 + y, z) & (size - 1);
    while (table[slot] >= 0 && keys[table[slot]] !== key)
      slot = (slot + 1) & (size - 1);
    let c = table[slot];
    if (c < 0) {
      c = table[slot] = keys.length;
      keys.push(key);
      sums.push(0, 0, 0);
      members.push(0);
    }
    members[c]++;
    for (let k = 0; k < 3; k++) sums[3 * c + k] += p[3 * v + k];
    cluster[v] = c;
  }
  const triangles: number[] = [];
  const oldCorner: number[] = [];
  const oldFace: number[] = [];
  const seen = new Set<number>();
  for (let f = 0; f + 1 < mesh.faceStarts.length; f++)
    for (let c = mesh.faceStarts[f] + 1; c + 1 < mesh.faceStarts[f + 1]; c++) {
      const i = cluster[mesh.corners[mesh.faceStarts[f]]];
      const j = cluster[mesh.corners[c]];
      const k = cluster[mesh.corners[c + 1]];
      if (i === j || j === k || k === i) continue;
      const low = Math.min(i, j, k);
      const high = Math.max(i, j, k);
      const key = (low * 2097152 + (i + j + k - low - high)) * 2097152 + high;
      if (seen.has(key)) continue;
      seen.add(key);
      triangles.push(i, j, k);
      oldCorner.push(mesh.faceStarts[f], c, c + 1);
      oldFace.push(f);
    }
  const { uvs, colours, faceMaterials, materials } = mesh;
  return withFaces(
    createMesh({
      positions: Float32Array.from(
        sums,
        (sum, i) => sum / members[Math.floor(i / 3)],
      ),
      faceStarts: mesh.faceStarts,
      corners: mesh.corners,
      uvs,
      colours,
      faceMaterials,
      materials,
    }),
    new Uint32Array(oldFace.length + 1).map((_, f) => 3 * f),
    Uint32Array.from(oldCorner),
    Uint32Array.from(oldFace),
    Uint32Array.from(triangles),
  );
}
