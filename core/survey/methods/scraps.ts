import { faceComponents } from "../../mesh/components";
import { MeshAnalysis } from "../../mesh/mesh-analysis";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { keepFaces } from "../../mesh/change-faces";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { triangleArea } from "../../space/sample";
import type { MeshPlace } from "../../mesh/places";
import { placesOf } from "../../mesh/places";

/** A scrap has at most this share of the faces and of the area of the closed piece that it lies at. */
const FACES = 0.005;
const AREA = 0.005;
/** So few faces may be a scrap of a small piece too, with at most this share of the largest closed piece's area. */
const FEW = 2;
const AREA_OF_FEW = 5e-4;
/** No vertex of it is farther from that piece than so many mean edges of its. */
const NEAR = 5;

export interface Scraps {
  mesh: Mesh;
  /** Pieces and faces that went, and where they were. */
  pieces: number;
  faces: number;
  places: MeshPlace[];
}

/**
 * Drops scraps: tiny open pieces that lie at a closed one of the same material. They bound nothing, so they can't
 * be closed, and merging scans leaves them.
 * In one piece: what is a scrap is told by figures that one walk gathers.
 */
export function dropScraps(mesh: Mesh): Scraps {
  const none = { mesh, pieces: 0, faces: 0, places: [] };
  const look = new MeshAnalysis(mesh, 0);
  const { edges, face, split } = look;
  if (edges.uses.every((uses) => uses > 1)) return none;
  const { ofFace, count } = faceComponents(mesh);
  const open = new Uint8Array(count);
  const faces = new Uint32Array(count);
  const area = new Float64Array(count);
  const length = new Float64Array(count);
  const sides = new Uint32Array(count);
  for (let f = 0; f < ofFace.length; f++) faces[ofFace[f]]++;
  for (let t = 0; t < split.faces.length; t++)
    area[ofFace[split.faces[t]]] += triangleArea(
      mesh.positions,
      split.vertices,
      t,
    );
  const p = mesh.positions;
  for (let e = 0; e < edges.count; e++) {
    const piece = ofFace[face[edges.first[e]]];
    const [a, b] = [3 * edges.vertices[2 * e], 3 * edges.vertices[2 * e + 1]];
    if (edges.uses[e] === 1) open[piece] = 1;
    sides[piece]++;
    length[piece] += Math.hypot(
      p[a] - p[b],
      p[a + 1] - p[b + 1],
      p[a + 2] - p[b + 2],
    );
  }
  const solid = split.faces.map((f) => 1 - open[ofFace[f]]);
  if (!solid.includes(1)) return none;
  const faceAt = split.faces.filter((_, t) => solid[t]);
  const closest = new ClosestPoint(
    buildBvh(
      p,
      split.vertices.filter((_, i) => solid[(i / 3) | 0]),
    ),
  );
  const corners = new Map<number, number[]>();
  const mostFaces = Math.max(
    FEW,
    FACES * faces.reduce((most, n) => Math.max(most, n), 0),
  );
  const mostOfFew =
    AREA_OF_FEW *
    area.reduce((most, a, i) => (open[i] ? most : Math.max(most, a)), 0);
  face.forEach((f, c) => {
    const piece = ofFace[f];
    if (!open[piece] || faces[piece] > mostFaces) return;
    const list = corners.get(piece);
    if (list) list.push(c);
    else corners.set(piece, [c]);
  });
  const materialOf = (f: number) => mesh.faceMaterials?.[f] ?? 0;
  const keep = new Uint8Array(faceCount(mesh)).fill(1);
  const gone: number[][] = [];
  for (const [piece, list] of corners) {
    const lies = list.every((c) => {
      const v = 3 * mesh.corners[c];
      const hit = faceAt[closest.find(p[v], p[v + 1], p[v + 2])];
      const on = ofFace[hit];
      return (
        (faces[piece] <= FEW
          ? area[piece] <= mostOfFew
          : faces[piece] <= FACES * faces[on] &&
            area[piece] <= AREA * area[on]) &&
        Math.sqrt(closest.distance2) <= (NEAR * length[on]) / sides[on] &&
        materialOf(hit) === materialOf(face[c])
      );
    });
    if (!lies) continue;
    gone.push(list.map((c) => mesh.corners[c]));
    for (const c of list) keep[face[c]] = 0;
  }
  if (!gone.length) return none;
  return {
    mesh: keepFaces(mesh, keep),
    pieces: gone.length,
    faces: keep.reduce((sum, kept) => sum + 1 - kept, 0),
    places: placesOf(p, gone, look.diagonal),
  };
}
