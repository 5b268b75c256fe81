import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { createMesh } from "../../mesh/change-faces";

/**
 * Brings single triangles of a quad mesh together: a triangle wanders through quads, each of which is cut anew
 * with it, until it meets another one and both become a quad. Nearest pairs go first.
 * In one piece: the walks share the queue and the faces they change.
 * @param reach most quads a triangle wanders through
 * @param leave how many single triangles may stay
 */
export function mergeSingles(mesh: Mesh, reach: number, leave: number): Mesh {
  const faces: number[][] = [];
  for (let f = 0; f < faceCount(mesh); f++)
    faces.push(
      Array.from(
        mesh.corners.subarray(mesh.faceStarts[f], mesh.faceStarts[f + 1]),
      ),
    );
  const p = mesh.positions;
  const count = p.length / 3;
  const atEdge = new Map<number, number>();
  const key = (a: number, b: number) => a * count + b;
  const note = (f: number) =>
    faces[f].forEach((v, i) =>
      atEdge.set(key(v, faces[f][(i + 1) % faces[f].length]), f),
    );
  const forget = (f: number) =>
    faces[f].forEach((v, i) =>
      atEdge.delete(key(v, faces[f][(i + 1) % faces[f].length])),
    );
  faces.forEach((_, f) => note(f));
  let singles = faces.reduce(
    (sum, face) => sum + (face.length === 3 ? 1 : 0),
    0,
  );
  for (
    let limit = 1;
    limit <= reach && singles > leave;
    limit = Math.max(limit + 1, Math.floor(limit * 1.5))
  )
    for (let f = 0; f < faces.length && singles > leave; f++) {
      if (faces[f].length !== 3) continue;
      const path = nearestSingle(f, limit);
      if (!path) continue;
      if (walk(path)) singles -= 2;
    }
  return pack(mesh, faces);

  /** Faces from f to the nearest other triangle, f first. */
  function nearestSingle(f: number, limit: number): number[] | null {
    const from = new Map<number, number>([[f, -1]]);
    let front = [f];
    for (let step = 0; step <= limit && front.length; step++) {
      const next: number[] = [];
      for (const at of front)
        for (let i = 0; i < faces[at].length; i++) {
          const other = atEdge.get(
            key(faces[at][(i + 1) % faces[at].length], faces[at][i]),
          );
          if (other === undefined || from.has(other)) continue;
          from.set(other, at);
          if (faces[other].length === 3) {
            const path = [other];
            for (let back = at; back >= 0; back = from.get(back)!)
              path.push(back);
            return path.reverse();
          }
          if (faces[other].length === 4) next.push(other);
        }
      front = next;
    }
    return null;
  }

  /** Moves the triangle along the path; false, with the way so far kept, where an edge would be met twice. */
  function walk(path: number[]): boolean {
    for (let i = 0; i + 2 < path.length; i++) {
      const [single, quad, after] = [path[i], path[i + 1], path[i + 2]];
      const ring = union(faces[single], faces[quad]);
      const gate = faces[quad].findIndex((v, k) => {
        const w = faces[quad][(k + 1) % 4];
        return atEdge.get(key(w, v)) === after;
      });
      if (!ring || gate < 0) return false;
      const u = faces[quad][gate];
      const v = faces[quad][(gate + 1) % 4];
      const at = ring.indexOf(u);
      if (ring[(at + 1) % 5] !== v) return false;
      const r = (k: number) => ring[(at + k + 5) % 5];
      const cuts = [
        { triangle: [u, v, r(2)], quad: [u, r(2), r(3), r(4)] },
        { triangle: [r(-1), u, v], quad: [r(-1), v, r(2), r(3)] },
      ].filter(
        ({ quad: q }) =>
          !atEdge.has(key(q[0], q[1])) && !atEdge.has(key(q[1], q[0])),
      );
      if (!cuts.length) return false;
      const best = cuts.reduce((a, b) =>
        badness(a.quad) <= badness(b.quad) ? a : b,
      );
      forget(single);
      forget(quad);
      // The triangle goes on in the place of the quad, so that the path stays true.
      faces[single] = best.quad;
      faces[quad] = best.triangle;
      note(single);
      note(quad);
    }
    const [one, other] = path.slice(-2);
    const ring = union(faces[one], faces[other]);
    if (!ring || ring.length !== 4) return false;
    forget(one);
    forget(other);
    faces[one] = ring;
    faces[other] = [];
    note(one);
    return true;
  }

  /** The outline of two faces that share just one edge. */
  function union(a: number[], b: number[]): number[] | null {
    for (let i = 0; i < a.length; i++) {
      const [u, v] = [a[i], a[(i + 1) % a.length]];
      const j = b.indexOf(v);
      if (j < 0 || b[(j + 1) % b.length] !== u) continue;
      const rest = [];
      for (let k = 2; k < b.length; k++) rest.push(b[(j + k) % b.length]);
      const ring = [...a.slice(i + 1), ...a.slice(0, i + 1), ...rest];
      return new Set(ring).size === ring.length ? ring : null;
    }
    return null;
  }

  /** How far the corners of a quad are from right angles at worst. */
  function badness(quad: number[]): number {
    let worst = 0;
    for (let k = 0; k < 4; k++) {
      const [o, a, b] = [quad[k], quad[(k + 1) % 4], quad[(k + 3) % 4]];
      let uv = 0;
      let uu = 0;
      let vv = 0;
      for (let i = 0; i < 3; i++) {
        const x = p[3 * a + i] - p[3 * o + i];
        const y = p[3 * b + i] - p[3 * o + i];
        uv += x * y;
        uu += x * x;
        vv += y * y;
      }
      worst = Math.max(worst, Math.abs(uv) / Math.sqrt(uu * vv || 1e-300));
    }
    return worst;
  }
}

function pack(mesh: Mesh, faces: number[][]): Mesh {
  const kept = faces.filter((face) => face.length);
  const faceStarts = new Uint32Array(kept.length + 1);
  kept.forEach((face, f) => (faceStarts[f + 1] = faceStarts[f] + face.length));
  return createMesh({
    positions: mesh.positions,
    corners: Uint32Array.from(kept.flat()),
    faceStarts,
  });
}
