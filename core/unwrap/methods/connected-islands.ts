import type { Mesh } from "../../mesh/mesh";
import { buildEdges } from "../../mesh/edges";
import { nextCorners } from "../../mesh/normals";
import { UnionFind } from "../../base/union-find";

/** Faces that share an edge with equal UVs at both its ends belong to one island. */
export function countIslands(mesh: Mesh): number {
  const { count } = islandsOf(mesh);
  return count;
}

/**
 * The island of every face.
 * @returns how many islands there are, and faceCount numbers of them
 */
export function islandsOf(mesh: Mesh): { count: number; ofFace: Uint32Array } {
  const faces = mesh.faceStarts.length - 1;
  const uvs = mesh.uvs!;
  const joined = new UnionFind(faces);
  const edges = buildEdges(mesh);
  const next = nextCorners(mesh.faceStarts, mesh.corners.length);
  const face = new Uint32Array(mesh.corners.length);
  for (let f = 0; f < faces; f++)
    face.fill(f, mesh.faceStarts[f], mesh.faceStarts[f + 1]);
  for (let e = 0; e < edges.count; e++) {
    const c = edges.first[e];
    const d = edges.second[e];
    if (d < 0) continue;
    const straight = mesh.corners[c] === mesh.corners[d];
    const same = (a: number, b: number) =>
      uvs[2 * a] === uvs[2 * b] && uvs[2 * a + 1] === uvs[2 * b + 1];
    if (
      same(c, straight ? d : next[d]) &&
      same(next[c], straight ? next[d] : d)
    )
      joined.join(face[c], face[d]);
  }
  const names = new Int32Array(faces).fill(-1);
  const ofFace = new Uint32Array(faces);
  let count = 0;
  for (let f = 0; f < faces; f++) {
    const root = joined.find(f);
    if (names[root] < 0) names[root] = count++;
    ofFace[f] = names[root];
  }
  return { count, ofFace };
}
