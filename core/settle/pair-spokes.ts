import { cross, dot, unit } from "../space/vector";
import { MeshAnalysis } from "../mesh/mesh-analysis";

/** Faces of one solid that lie in the same plane at an edge, radians. */
const ALIKE = 1e-5;

/**
 * Pairs the faces round each edge of more than two. Where as many run along the edge as against it, a face that
 * runs against it goes with the next one, turning about the edge, that runs along it: between them lies the
 * inside. Elsewhere those go together that go on from each other straightest.
 */
export function pairByAngle(look: MeshAnalysis, twins: Int32Array): void {
  const { mesh, edges } = look;
  const p = mesh.positions;
  const round = new Map<number, number[]>();
  for (let c = 0; c < mesh.corners.length; c++) {
    const e = edges.ofCorner[c];
    if (edges.uses[e] <= 2) continue;
    const list = round.get(e);
    if (list) list.push(c);
    else round.set(e, [c]);
  }
  for (const [e, corners] of round) {
    const a = 3 * edges.vertices[2 * e];
    const b = 3 * edges.vertices[2 * e + 1];
    const axis = unit([p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]]);
    const helper = Math.abs(axis[0]) < 0.7 ? [1, 0, 0] : [0, 1, 0];
    const side = unit(cross(axis, helper));
    const up = cross(axis, side);
    const fan = corners.map((c) => {
      const along = 3 * mesh.corners[c] === a;
      const into = inPlane(look, c, axis, along);
      return { c, along, angle: Math.atan2(dot(into, up), dot(into, side)) };
    });
    const pair = (one: Spoke, other: Spoke) => {
      twins[one.c] = other.c;
      twins[other.c] = one.c;
    };
    const along = fan.filter((spoke) => spoke.along).length;
    if (2 * along === fan.length) pairRound(fan, pair);
    else pairStraight(fan, pair);
  }
}

interface Spoke {
  c: number;
  along: boolean;
  /** Which way the face lies about the edge, radians. */
  angle: number;
}

function pairRound(
  fan: Spoke[],
  pair: (one: Spoke, other: Spoke) => void,
): void {
  // Both sides of a sheet lie in one plane: the one that runs along comes first, and goes with what comes before.
  fan.sort((x, y) =>
    Math.abs(x.angle - y.angle) > ALIKE
      ? x.angle - y.angle
      : Number(y.along) - Number(x.along) || x.c - y.c,
  );
  const free = new Set(fan.map((_, i) => i));
  for (let round = 0; round < fan.length && free.size; round++) {
    const left = [...free];
    left.forEach((i, at) => {
      const j = left[(at + 1) % left.length];
      if (fan[i].along || !fan[j].along || !free.has(i) || !free.has(j)) return;
      pair(fan[i], fan[j]);
      free.delete(i);
      free.delete(j);
    });
  }
}

function pairStraight(
  fan: readonly Spoke[],
  pair: (one: Spoke, other: Spoke) => void,
): void {
  const bend = (one: Spoke, other: Spoke) =>
    Math.abs(Math.PI - Math.abs(one.angle - other.angle));
  const options = fan
    .filter((spoke) => spoke.along)
    .flatMap((one) =>
      fan
        .filter((spoke) => !spoke.along)
        .map((other) => ({ one, other, bend: bend(one, other) })),
    )
    .sort((x, y) => x.bend - y.bend || x.one.c - y.one.c);
  const used = new Set<Spoke>();
  for (const { one, other } of options) {
    if (used.has(one) || used.has(other)) continue;
    used.add(one);
    used.add(other);
    pair(one, other);
  }
}

/** The direction from an edge into the face of a corner, at right angles to the edge. */
function inPlane(
  look: MeshAnalysis,
  corner: number,
  axis: readonly number[],
  along: boolean,
): number[] {
  const { mesh, face } = look;
  const p = mesh.positions;
  const f = face[corner];
  const normal = [0, 0, 0];
  const s = mesh.faceStarts[f];
  const o = 3 * mesh.corners[s];
  for (let c = s + 1; c + 1 < mesh.faceStarts[f + 1]; c++) {
    const a = 3 * mesh.corners[c];
    const b = 3 * mesh.corners[c + 1];
    const n = cross(
      [p[a] - p[o], p[a + 1] - p[o + 1], p[a + 2] - p[o + 2]],
      [p[b] - p[o], p[b + 1] - p[o + 1], p[b + 2] - p[o + 2]],
    );
    for (let k = 0; k < 3; k++) normal[k] += n[k];
  }
  const into = cross(normal, axis);
  return unit(along ? into : into.map((x) => -x));
}
