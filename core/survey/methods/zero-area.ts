import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { compactVertices, withFaces } from "../../mesh/change-faces";
import type { Named } from "./finding";
import { MeshAnalysis } from "../../mesh/mesh-analysis";

/** A face this thin, as its height over its longest edge, has no area to speak of. */
const THIN = 1e-6;

/** Faces without area: all their corners in one line or one place. */
export function findZeroArea({ mesh }: MeshAnalysis): Named {
  const faces: number[] = [];
  for (let f = 0; f < faceCount(mesh); f++)
    if (isThin(mesh, mesh.corners, mesh.faceStarts[f], mesh.faceStarts[f + 1]))
      faces.push(f);
  return { count: faces.length, faces };
}

function isThin(
  mesh: Mesh,
  corners: ArrayLike<number>,
  start: number,
  end: number,
): boolean {
  const p = mesh.positions;
  const o = 3 * corners[start];
  let x = 0;
  let y = 0;
  let z = 0;
  let longest = 0;
  for (let c = start; c < end; c++) {
    const a = 3 * corners[c];
    const b = 3 * corners[c + 1 < end ? c + 1 : start];
    const ex = p[b] - p[a];
    const ey = p[b + 1] - p[a + 1];
    const ez = p[b + 2] - p[a + 2];
    const length2 = ex * ex + ey * ey + ez * ez;
    if (length2 > longest) longest = length2;
    const ux = p[a] - p[o];
    const uy = p[a + 1] - p[o + 1];
    const uz = p[a + 2] - p[o + 2];
    x += uy * ez - uz * ey;
    y += uz * ex - ux * ez;
    z += ux * ey - uy * ex;
  }
  return !(x * x + y * y + z * z > (THIN * longest) ** 2);
}

/**
 * Takes faces without area out so that no gap is left: their longest edge goes, and the face beyond it takes
 * their other corners in. Where nothing lies beyond, the face simply goes.
 */
export function dissolveZeroArea(mesh: Mesh): { mesh: Mesh; gone: number } {
  let look = new MeshAnalysis(mesh, 0);
  let thin = findZeroArea(look).faces!;
  const before = thin.length;
  let stuck = 0;
  for (let round = 0; round < 12 && thin.length && stuck < 2; round++) {
    const { length } = thin;
    look = new MeshAnalysis(dissolveOnce(look, thin), 0);
    thin = findZeroArea(look).faces!;
    stuck = thin.length < length ? 0 : stuck + 1;
  }
  return { mesh: look.mesh, gone: before - thin.length };
}

function dissolveOnce(look: MeshAnalysis, thin: readonly number[]): Mesh {
  const { mesh, next } = look;
  /** Faces that change: their new corners, or none. */
  const changed = new Map<number, number[]>();
  for (const f of thin) {
    if (changed.has(f)) continue;
    const longest = longestEdge(mesh, next, f);
    const d = look.across(longest);
    const g = d < 0 ? -1 : look.face[d];
    if (g < 0) changed.set(f, []);
    if (g < 0 || g === f || changed.has(g)) continue;
    const ring: number[] = [];
    for (let c = mesh.faceStarts[g]; c < mesh.faceStarts[g + 1]; c++) {
      ring.push(c);
      if (c !== d) continue;
      // Between d and its next corner come the corners of the thin face that are not on the shared edge.
      const others: number[] = [];
      for (let h = next[next[longest]]; h !== longest; h = next[h])
        others.push(h);
      if (mesh.corners[d] === mesh.corners[longest]) others.reverse();
      ring.push(...others);
    }
    const seen = new Set<number>();
    changed.set(
      g,
      ring.filter((c) => {
        const v = mesh.corners[c];
        return !seen.has(v) && seen.add(v);
      }),
    );
    changed.set(f, []);
  }
  let count = mesh.corners.length;
  let faces = faceCount(mesh);
  for (const [f, ring] of changed) {
    count += ring.length - (mesh.faceStarts[f + 1] - mesh.faceStarts[f]);
    if (!ring.length) faces--;
  }
  const starts = new Uint32Array(faces + 1);
  const corners = new Uint32Array(count);
  const from = new Uint32Array(faces);
  let at = 0;
  let face = 0;
  for (let f = 0; f < faceCount(mesh); f++) {
    const ring = changed.get(f);
    if (ring?.length === 0) continue;
    if (ring) for (const c of ring) corners[at++] = c;
    else
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
        corners[at++] = c;
    from[face++] = f;
    starts[face] = at;
  }
  return compactVertices(withFaces(mesh, starts, corners, from));
}

function longestEdge(mesh: Mesh, next: Uint32Array, f: number): number {
  const p = mesh.positions;
  let best = mesh.faceStarts[f];
  let most = -1;
  for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
    const a = 3 * mesh.corners[c];
    const b = 3 * mesh.corners[next[c]];
    const length =
      (p[a] - p[b]) ** 2 +
      (p[a + 1] - p[b + 1]) ** 2 +
      (p[a + 2] - p[b + 2]) ** 2;
    if (length > most) {
      most = length;
      best = c;
    }
  }
  return best;
}
