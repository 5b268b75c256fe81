import { LARGEST, Rim } from "./rim";
import { faceComponents } from "../../mesh/components";
import { fillHoles } from "../../mesh/fill-holes";
import { MeshAnalysis } from "../../mesh/mesh-analysis";
import type { Mesh } from "../../mesh/mesh";
import { faceCount, faceOfCorners } from "../../mesh/mesh";
import {
  compactVertices,
  joinMeshes,
  onlyFaces,
  withFaces,
} from "../../mesh/change-faces";
import type { MeshPlace } from "../../mesh/places";
import { placesOf } from "../../mesh/places";
import { indicesOf } from "../../base/ranges";
import { grow } from "../../mesh/select";
import { partNonManifold } from "../../settle/sheets";
import { triangulate } from "../../mesh/triangulate";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import type { Crossings } from "./crossings";
import { findCrossings } from "./crossings";
import { relaxed } from "./relax-crossings";
import { UnionFind } from "../../base/union-find";

/** What went with faces that crossed although it was no part of what they did: places where the surface is gone. */
export interface CutOff {
  pieces: number;
  faces: number;
  places: MeshPlace[];
}

/** Faces of the mesh round some crossing ones, cut out to be mended by themselves. */
interface Region {
  /** The faces, with vertices of their own. */
  mesh: Mesh;
  /** For each vertex the whole mesh's. */
  vertices: number[];
}

/** Rings of faces round what crosses that a region takes in, in each round. */
const REACHES = [4, 7, 12, 12, 20];
/** Spikes that a region may lose, and those that are tried each time. */
const SPIKES = 40;
const TRIED = 4;
/** Farther than so many median edges from what is left, a face is missed. */
const NOTICED = 2;

/**
 * Takes faces that pass through others of their piece out and closes the holes, a ring wider each time where that
 * was not enough (after Attene 2010, "A lightweight approach to repairing digitized polygon meshes"). Each place is
 * mended by itself, and only as far as it stays closed and manifold.
 * @returns the mesh, how many crossing faces are mended and left, and what was cut off with them
 */
export function mendCrossings(
  mesh: Mesh,
  check: () => void = () => {},
  progress: (share: number) => void = () => {},
): { mesh: Mesh; mended: number; left: number; cut: CutOff } {
  const cut: CutOff = { pieces: 0, faces: 0, places: [] };
  const { diagonal } = new MeshAnalysis(mesh, 0);
  let at = mesh;
  let found = findCrossings(new MeshAnalysis(mesh, 0), check);
  const before = found.count;
  for (const reach of REACHES) {
    if (!found.count) break;
    const regions = regionsOf(at, found, reach);
    const mended: Region[] = [];
    const gone: number[][] = [];
    const taken: number[][] = [];
    regions.forEach((faces, i) => {
      check();
      progress(i / regions.length);
      const region = cutOut(at, faces);
      const better =
        faces.length <= LARGEST && mendRegion(region, reach - 1, check);
      if (!better) return;
      mended.push({ ...region, mesh: better });
      const lost = lostOf(region.mesh, better);
      if (lost.length) {
        cut.pieces++;
        cut.faces += lost.length;
        gone.push(
          lost.flatMap((f) => [
            ...at.corners.subarray(
              at.faceStarts[faces[f]],
              at.faceStarts[faces[f] + 1],
            ),
          ]),
        );
      }
      taken.push(faces);
    });
    if (!mended.length) continue;
    cut.places.push(...placesOf(at.positions, gone, diagonal));
    // What crosses now was in a region before.
    const { mesh: next, rest } = putBack(at, taken, mended);
    const asked = new Uint8Array(faceCount(next)).fill(1);
    const before = new Uint8Array(faceCount(at));
    for (const f of regions.flat()) before[f] = 1;
    rest.forEach((f, i) => (asked[i] = before[f]));
    at = next;
    found = findCrossings(new MeshAnalysis(at, 0), check, false, asked);
  }
  return {
    mesh: at,
    mended: Math.max(0, before - found.count),
    left: found.count,
    cut,
  };
}

/** Faces of a region that nothing of what came of it lies near: they went with what crossed. */
function lostOf(before: Mesh, after: Mesh): number[] {
  const { edges } = new MeshAnalysis(before, 0);
  const p = before.positions;
  const lengths = Float64Array.from({ length: edges.count }, (_, e) => {
    const [a, b] = [3 * edges.vertices[2 * e], 3 * edges.vertices[2 * e + 1]];
    return Math.hypot(p[a] - p[b], p[a + 1] - p[b + 1], p[a + 2] - p[b + 2]);
  }).sort();
  const far = NOTICED * lengths[lengths.length >> 1];
  const closest = new ClosestPoint(
    buildBvh(after.positions, triangulate(after).vertices),
  );
  const near = new Uint8Array(p.length / 3);
  for (let v = 0; v < near.length; v++)
    near[v] = Number(
      closest.find(p[3 * v], p[3 * v + 1], p[3 * v + 2], far * far) >= 0,
    );
  return Array.from({ length: faceCount(before) }, (_, f) => f).filter((f) =>
    before.corners
      .subarray(before.faceStarts[f], before.faceStarts[f + 1])
      .every((v) => !near[v]),
  );
}

/** Crossing faces with so many rings round them; regions that would overlap are one. */
function regionsOf(mesh: Mesh, found: Crossings, reach: number): number[][] {
  let marks = new Uint8Array(faceCount(mesh));
  for (const f of found.faces) marks[f] = 1;
  for (let ring = 0; ring < reach; ring++)
    marks = grow(mesh, marks) as typeof marks;
  const { ofFace, count } = faceComponents(onlyFaces(mesh, marks));
  const together = new UnionFind(count);
  const piece = new Int32Array(marks.length).fill(-1);
  let at = 0;
  for (let f = 0; f < marks.length; f++) if (marks[f]) piece[f] = ofFace[at++];
  // What crosses is mended together, also where it hangs together nowhere near.
  for (const [f, g] of found.pairs) together.join(piece[f], piece[g]);
  const regions = new Map<number, number[]>();
  for (let f = 0; f < marks.length; f++) {
    if (!marks[f]) continue;
    const root = together.find(piece[f]);
    const list = regions.get(root);
    if (list) list.push(f);
    else regions.set(root, [f]);
  }
  return [...regions.values()];
}

function cutOut(mesh: Mesh, faces: readonly number[]): Region {
  const vertices: number[] = [];
  const names = new Map<number, number>();
  const starts = [0];
  const corners: number[] = [];
  const from: number[] = [];
  for (const f of faces) {
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      const v = mesh.corners[c];
      let name = names.get(v);
      if (name === undefined) {
        name = vertices.push(v) - 1;
        names.set(v, name);
      }
      corners.push(name);
      from.push(c);
    }
    starts.push(corners.length);
  }
  return {
    vertices,
    mesh: {
      ...withFaces(
        mesh,
        Uint32Array.from(starts),
        Uint32Array.from(from),
        Uint32Array.from(faces),
        Uint32Array.from(corners),
      ),
      positions: Float32Array.from(
        vertices.flatMap((v) => [...mesh.positions.subarray(3 * v, 3 * v + 3)]),
      ),
    },
  };
}

/** The region with fewer crossings, its rim as it was, nothing open and nothing non-manifold; null where none is found. */
function mendRegion(
  { mesh }: Region,
  rings: number,
  check: () => void,
): Mesh | null {
  const rim = new Rim(mesh);
  let best: Mesh | null = null;
  let left = crossingsOf(mesh, check).count;
  /** Takes a mesh without some faces, closed again, where it is better. */
  const without = (from: Mesh, keep: Uint8Array): boolean => {
    if (!keep.includes(1)) return false;
    const cut = partNonManifold(rim.withoutCrumbs(onlyFaces(from, keep))).mesh;
    const filled = fillHoles(cut, {
      wanted: ({ loop }) => !rim.meets(cut, loop),
    }).mesh;
    const closed = rim.withoutSheets(filled);
    if (!rim.isSound(closed)) return false;
    const now = crossingsOf(closed, check).count;
    if (now >= left) return false;
    best = closed;
    left = now;
    return true;
  };
  for (let spike = 0; spike < SPIKES && left > 0; spike++) {
    const from: Mesh = best ?? mesh;
    const { piercing } = crossingsOf(from, check);
    const ofCorner = faceOfCorners(from);
    const better = piercing.slice(0, TRIED).some((vertex) => {
      const keep = new Uint8Array(faceCount(from)).fill(1);
      from.corners.forEach((v, c) => {
        if (v === vertex) keep[ofCorner[c]] = 0;
      });
      return without(from, keep);
    });
    if (!better) break;
  }
  for (let ring = 0; ring < rings && left > 0; ring++) {
    const from: Mesh = best ?? mesh;
    let marks = new Uint8Array(faceCount(from));
    for (const f of crossingsOf(from, check).faces) marks[f] = 1;
    for (let k = 0; k < ring; k++) marks = grow(from, marks) as typeof marks;
    without(
      from,
      marks.map((mark) => 1 - mark),
    );
  }
  for (let ring = 0; ring < rings && left > 0; ring++) {
    const from: Mesh = best ?? mesh;
    let marks = new Uint8Array(faceCount(from));
    for (const f of crossingsOf(from, check).faces) marks[f] = 1;
    for (let k = 0; k < ring; k++) marks = grow(from, marks) as typeof marks;
    const smooth = relaxed(from, marks, rim.vertices);
    const now = crossingsOf(smooth, check).count;
    if (now >= left) continue;
    best = smooth;
    left = now;
  }
  return best;
}

const crossingsOf = (mesh: Mesh, check: () => void) =>
  findCrossings(new MeshAnalysis(mesh, 0), check, true);

/** The mesh with mended regions in place of their faces, which come last; `rest` are the faces that stayed. */
function putBack(
  mesh: Mesh,
  taken: readonly (readonly number[])[],
  regions: readonly Region[],
): { mesh: Mesh; rest: number[] } {
  const keep = new Uint8Array(faceCount(mesh)).fill(1);
  for (const faces of taken) for (const f of faces) keep[f] = 0;
  const rest = onlyFaces(mesh, keep);
  const joined = joinMeshes([rest, ...regions.map((region) => region.mesh)]);
  let vertex = rest.positions.length / 3;
  let corner = rest.corners.length;
  const corners = joined.corners.slice();
  const positions = joined.positions.slice();
  for (const region of regions) {
    const own = region.vertices.length;
    region.vertices.forEach((v, k) =>
      positions.set(region.mesh.positions.subarray(3 * k, 3 * k + 3), 3 * v),
    );
    for (
      const end = corner + region.mesh.corners.length;
      corner < end;
      corner++
    ) {
      const v = corners[corner] - vertex;
      if (v < own) corners[corner] = region.vertices[v];
    }
    vertex += region.mesh.positions.length / 3;
  }
  return {
    mesh: compactVertices({ ...joined, positions, corners }),
    rest: indicesOf(keep),
  };
}
