import type { Mesh } from "../../../mesh/mesh";
import { faceNormals } from "../../../mesh/normals";
import { triangulate } from "../../../mesh/triangulate";
import { boundsOf, diagonalOf } from "../../../space/bounds";
import { buildBvh } from "../../../space/bvh";
import { RayScene, widen } from "../../../space/ray-scene";
import { eyeDirections } from "../seams/exposure";
import type { SheetIsland } from "../sheet-islands";

/** Directions looked from, and faces of an island looked at. */
const EYES = 96;
const FACES = 24;
/** An island is seen from a direction where so much of it is. */
const SEEN = 0.04;

/** From which of many directions all round each island can be seen, hidden by everything there is. */
export class Visibility {
  private readonly rows: Uint8Array[];

  constructor(
    meshes: readonly Mesh[],
    islands: readonly SheetIsland[],
    check: () => void,
  ) {
    const splits = meshes.map((mesh) => triangulate(mesh));
    const total = splits.reduce(
      (sum, { vertices }) => sum + vertices.length,
      0,
    );
    const positions = new Float32Array(3 * total);
    let at = 0;
    splits.forEach(({ vertices }, m) => {
      for (const v of vertices) {
        positions.set(meshes[m].positions.subarray(3 * v, 3 * v + 3), at);
        at += 3;
      }
    });
    const scene = new RayScene([
      widen(
        buildBvh(
          positions,
          new Uint32Array(total).map((_, i) => i),
        ),
      ),
    ]);
    const size = diagonalOf(boundsOf(positions)) || 1;
    const eyes = eyeDirections("all round", EYES);
    const normals = meshes.map((mesh) => faceNormals(mesh));
    this.rows = islands.map(({ mesh, faces }) => {
      check();
      const { positions: p, corners, faceStarts } = meshes[mesh];
      const step = Math.max(1, Math.floor(faces.length / FACES));
      const seen = new Uint16Array(EYES);
      let looked = 0;
      for (let i = 0; i < faces.length; i += step) {
        const f = faces[i];
        const n = normals[mesh].subarray(3 * f, 3 * f + 3);
        const middle = [0, 0, 0];
        const sides = faceStarts[f + 1] - faceStarts[f];
        for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++)
          for (let k = 0; k < 3; k++)
            middle[k] += p[3 * corners[c] + k] / sides;
        looked++;
        eyes.forEach((eye, e) => {
          if (n[0] * eye[0] + n[1] * eye[1] + n[2] * eye[2] < 0.05) return;
          const [x, y, z] = middle.map((m, k) => m + 1e-5 * size * n[k]);
          if (!scene.any(0, x, y, z, eye[0], eye[1], eye[2], 0, 2 * size))
            seen[e]++;
        });
      }
      return Uint8Array.from(seen, (n) => (n > SEEN * looked ? 1 : 0));
    });
  }

  /** Share of all directions from which both islands are seen. */
  together(a: number, b: number): number {
    let both = 0;
    for (let e = 0; e < EYES; e++) both += this.rows[a][e] & this.rows[b][e];
    return both / EYES;
  }
}
