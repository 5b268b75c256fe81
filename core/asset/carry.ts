import { carrySeams } from "../mesh/carry-seams";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { joinMeshes } from "../mesh/change-faces";
import { triangulate } from "../mesh/triangulate";
import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import type { Asset } from "./asset";
import { mapParts } from "./parts";

/**
 * Gives a mesh what an artist had marked on another one of the same shape: wanted and forbidden seams, the seams of
 * its islands, density weights, radii of round edges, and normals that had been taken from elsewhere. What the mesh has itself stays.
 */
export function carryMarks(from: Mesh, to: Mesh): Mesh {
  const next: Record<string, unknown> = {};
  if (from.seamOverrides && !to.seamOverrides)
    next.seamOverrides = filled(carrySeams(from, from.seamOverrides, to));
  if (from.rounds && !to.rounds) next.rounds = carriedRounds(from, to);
  if (from.seams && !to.seams && !to.uvs)
    next.seams = filled(carrySeams(from, from.seams, to));
  const wantsNormals = from.ownNormals && from.normals && !to.ownNormals;
  if ((from.texelWeights && !to.texelWeights) || wantsNormals) {
    const near = nearestFaces(from, to);
    if (from.texelWeights && !to.texelWeights)
      next.texelWeights = filled(
        Uint8Array.from(near, (f) => (f < 0 ? 0 : from.texelWeights![f])),
      );
    if (wantsNormals && to.normals) {
      next.ownNormals = filled(
        Uint8Array.from(near, (f) => (f < 0 ? 0 : from.ownNormals![f])),
      );
      next.normals = normalsFrom(from, to, near);
    }
  }
  return { ...to, ...next };
}

/** Radii of edges, by their few values. */
function carriedRounds(
  { rounds, ...from }: Mesh,
  to: Mesh,
): Uint16Array | null {
  const values = [...new Set(rounds)]
    .filter((value) => value > 0)
    .slice(0, 255);
  const marks = Uint8Array.from(rounds!, (value) => 1 + values.indexOf(value));
  const carried = filled(carrySeams({ ...from, rounds }, marks, to));
  return carried && Uint16Array.from(carried, (mark) => values[mark - 1] ?? 0);
}

const filled = (marks: Uint8Array) =>
  marks.some((mark) => mark) ? marks : null;

/** faceCount: the face of another mesh that lies nearest to the middle of each face, or −1 where that has none. */
function nearestFaces(from: Mesh, to: Mesh): Int32Array {
  const split = triangulate(from);
  const closest = new ClosestPoint(buildBvh(from.positions, split.vertices));
  const faces = new Int32Array(faceCount(to));
  for (let f = 0; f < faces.length; f++) {
    const [s, e] = [to.faceStarts[f], to.faceStarts[f + 1]];
    const at = [0, 0, 0];
    for (let c = s; c < e; c++)
      for (let k = 0; k < 3; k++)
        at[k] += to.positions[3 * to.corners[c] + k] / (e - s);
    const t = closest.find(at[0], at[1], at[2]);
    faces[f] = t < 0 ? -1 : split.faces[t];
  }
  return faces;
}

/** A mesh laid anew over others with their materials and IDs, each face with those of what lies nearest to it. */
export function withRegionsOf(to: Mesh, sources: readonly Mesh[]): Mesh {
  const from = joinMeshes(sources);
  const { ids, faceMaterials, materials } = from;
  if (!ids && !faceMaterials) return { ...to, materials };
  const near = nearestFaces(from, to);
  const of = (values: Uint16Array | null) =>
    values && Uint16Array.from(near, (f) => (f < 0 ? 0 : values[f]));
  return { ...to, materials, faceMaterials: of(faceMaterials), ids: of(ids) };
}

/** Normals of the nearest place of another mesh, for corners of faces that had taken theirs. */
function normalsFrom(from: Mesh, to: Mesh, near: Int32Array): Float32Array {
  const split = triangulate(from);
  const closest = new ClosestPoint(buildBvh(from.positions, split.vertices));
  const normals = to.normals!.slice();
  for (let f = 0; f < near.length; f++) {
    if (near[f] < 0 || !from.ownNormals![near[f]]) continue;
    for (let c = to.faceStarts[f]; c < to.faceStarts[f + 1]; c++) {
      const v = 3 * to.corners[c];
      const t = closest.find(
        to.positions[v],
        to.positions[v + 1],
        to.positions[v + 2],
      );
      if (t < 0) continue;
      const weights = [1 - closest.u - closest.v, closest.u, closest.v];
      const n = [0, 1, 2].map((k) =>
        weights.reduce(
          (sum, w, i) =>
            sum + w * from.normals![3 * split.corners[3 * t + i] + k],
          0,
        ),
      );
      const size = Math.hypot(...n) || 1;
      for (let k = 0; k < 3; k++) normals[3 * c + k] = n[k] / size;
    }
  }
  return normals;
}

/**
 * Lets marks survive a change of game meshes: parts whose game mesh was exchanged for one without them get those of
 * the mesh before, and remember that one as laid out until they are unwrapped again.
 */
export function keepMarks(asset: Asset, before: Asset): Asset {
  const old = new Map(before.parts.map((part) => [part.name, part]));
  return mapParts(asset, (part) => {
    const was = old.get(part.name);
    if (!was || part.repeat || part.game === was.game) return part;
    // What was only moved has its marks still, and so has what was laid out before.
    if (part.game && was.game && onlyMoved(part.game, was.game)) return part;
    const laid =
      was.game?.uvs ||
      was.game?.seamOverrides ||
      was.game?.texelWeights ||
      was.game?.rounds ||
      was.game?.ownNormals
        ? was.game
        : was.previousUnwrap;
    if (!part.game || !laid)
      return laid === part.previousUnwrap
        ? part
        : { ...part, previousUnwrap: laid };
    const sameShape =
      part.game.positions === was.game?.positions &&
      part.game.corners === was.game.corners;
    if (sameShape) return part;
    return {
      ...part,
      game: carryMarks(laid, part.game),
      previousUnwrap: part.game.uvs ? part.previousUnwrap : laid,
    };
  });
}

const onlyMoved = (mesh: Mesh, was: Mesh): boolean =>
  mesh.corners === was.corners &&
  mesh.uvs === was.uvs &&
  mesh.seamOverrides === was.seamOverrides &&
  mesh.texelWeights === was.texelWeights &&
  mesh.rounds === was.rounds &&
  mesh.ownNormals === was.ownNormals;
