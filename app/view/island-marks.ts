import type { Mesh } from "../../core/mesh/mesh";
import { islandsOf } from "../../core/unwrap/methods/connected-islands";
import { splitOf } from "./split";

const known = new WeakMap<Mesh, { count: number; ofFace: Uint32Array }>();

/** The island of every face of a mesh with UVs, made once. */
export function islandsIn(mesh: Mesh): { count: number; ofFace: Uint32Array } {
  let islands = known.get(mesh);
  if (!islands) known.set(mesh, (islands = islandsOf(mesh)));
  return islands;
}

/** Marks of all faces of a face's island; of the face alone where there are no UVs. */
export function islandMarks(mesh: Mesh, face: number): Uint8Array {
  if (!mesh.uvs) {
    const marks = new Uint8Array(mesh.faceStarts.length - 1);
    marks[face] = 1;
    return marks;
  }
  const { ofFace } = islandsIn(mesh);
  return Uint8Array.from(ofFace, (island) => (island === ofFace[face] ? 1 : 0));
}

/** The face whose UVs cover a place, the last one drawn first; −1 where there is none. */
export function faceAtUv(mesh: Mesh, u: number, v: number): number {
  const { uvs } = mesh;
  if (!uvs) return -1;
  const { corners, faces } = splitOf(mesh);
  for (let t = faces.length - 1; t >= 0; t--) {
    const [a, b, c] = [
      2 * corners[3 * t],
      2 * corners[3 * t + 1],
      2 * corners[3 * t + 2],
    ];
    const side = (i: number, j: number) =>
      (uvs[j] - uvs[i]) * (v - uvs[i + 1]) -
      (uvs[j + 1] - uvs[i + 1]) * (u - uvs[i]);
    const [p, q, r] = [side(a, b), side(b, c), side(c, a)];
    if ((p >= 0 && q >= 0 && r >= 0) || (p <= 0 && q <= 0 && r <= 0))
      return faces[t];
  }
  return -1;
}
