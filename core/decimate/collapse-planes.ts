import type { Quadrics } from "./quadrics";
import type { Soup } from "./soup";
import { HARD, UV_SEAM } from "./soup";

/** How much the measure minds each thing beside distance; 0 leaves it out. */
export interface CollapseWeights {
  /** Open borders, against the faces beside them. */
  border: number;
  /** Hard edges and edges where more than two faces meet. */
  crease: number;
  /** Edges between materials and between IDs. */
  region: number;
  /** Edges at which UVs part. */
  seam: number;
  /** Turning normals: the squared change of direction over this share of the diagonal. */
  normals: number;
  /** Even triangles, 0 for none to 1 for all alike. */
  evenness: number;
}

export const DEFAULT_WEIGHTS: CollapseWeights = {
  border: 4,
  crease: 1,
  region: 1,
  seam: 1,
  normals: 0,
  evenness: 0,
};

/**
 * Area-weighted planes of all faces; a face's weight by `faceWeight` scales how dear its shape is.
 * @param faceWeight triangleCount, 1 for as it is; null for 1 everywhere
 */
export function addFacePlanes(
  soup: Soup,
  quadrics: Quadrics,
  faceWeight: Float32Array | null,
): void {
  const { triangles, positions: p } = soup;
  for (let t = 0; t < soup.owner.length; t++) {
    const a = 3 * triangles[3 * t];
    const b = 3 * triangles[3 * t + 1];
    const c = 3 * triangles[3 * t + 2];
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const vx = p[c] - p[a];
    const vy = p[c + 1] - p[a + 1];
    const vz = p[c + 2] - p[a + 2];
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    const double = Math.sqrt(nx * nx + ny * ny + nz * nz);
    if (!(double > 0)) continue;
    const d = -(nx * p[a] + ny * p[a + 1] + nz * p[a + 2]);
    // The normal is left as long as it is: dividing the weight by its square costs one division.
    const weight = (faceWeight ? faceWeight[t] : 1) / (6 * double);
    quadrics.addFace(triangles, 3 * t, nx, ny, nz, d, weight);
  }
}

/** Faces round a vertex as linked lists through the corners. */
export interface CornerLists {
  firstCorner: Int32Array;
  nextCorner: Int32Array;
}

/**
 * Planes upright on open borders, marked edges and edges between regions hold those lines in place.
 * @param border vertexCount: set to 1 on open borders
 * @param faceWeight triangleCount, as for faces
 */
export function addEdgePlanes(
  soup: Soup,
  quadrics: Quadrics,
  lists: CornerLists,
  weights: CollapseWeights,
  border: Uint8Array,
  faceWeight: Float32Array | null,
): void {
  const { triangles, material, id, marks } = soup;
  const { firstCorner, nextCorner } = lists;
  for (let t = 0; t < soup.owner.length; t++)
    for (let k = 0; k < 3; k++) {
      const a = triangles[3 * t + k];
      const b = triangles[3 * t + (k === 2 ? 0 : k + 1)];
      const mark = marks[3 * t + k];
      const worth = faceWeight ? faceWeight[t] : 1;
      let uses = 0;
      let parted = false;
      for (let c = firstCorner[a]; c >= 0; c = nextCorner[c]) {
        const other = (c / 3) | 0;
        const i = 3 * other;
        if (
          triangles[i] !== b &&
          triangles[i + 1] !== b &&
          triangles[i + 2] !== b
        )
          continue;
        uses++;
        if (material[other] !== material[t] || id[other] !== id[t])
          parted = true;
      }
      if (uses === 1) {
        border[a] = border[b] = 1;
        addUpright(soup, quadrics, t, a, b, worth * weights.border);
        continue;
      }
      let weight = uses > 2 || mark & HARD ? weights.crease : 0;
      if (parted) weight = Math.max(weight, weights.region);
      if (mark & UV_SEAM) weight = Math.max(weight, weights.seam);
      if (weight > 0) addUpright(soup, quadrics, t, a, b, worth * weight);
    }
}

function addUpright(
  soup: Soup,
  quadrics: Quadrics,
  t: number,
  a: number,
  b: number,
  weight: number,
): void {
  const { triangles, positions: p } = soup;
  const c =
    triangles[3 * t] + triangles[3 * t + 1] + triangles[3 * t + 2] - a - b;
  const ex = p[3 * b] - p[3 * a];
  const ey = p[3 * b + 1] - p[3 * a + 1];
  const ez = p[3 * b + 2] - p[3 * a + 2];
  const sx = p[3 * c] - p[3 * a];
  const sy = p[3 * c + 1] - p[3 * a + 1];
  const sz = p[3 * c + 2] - p[3 * a + 2];
  const length2 = ex * ex + ey * ey + ez * ez;
  if (!(length2 > 0)) return;
  // The part of the side that is square to the edge is the plane's normal.
  const along = (sx * ex + sy * ey + sz * ez) / length2;
  const nx = sx - along * ex;
  const ny = sy - along * ey;
  const nz = sz - along * ez;
  const size = Math.sqrt(nx * nx + ny * ny + nz * nz);
  if (!(size > 0)) return;
  const x = nx / size;
  const y = ny / size;
  const z = nz / size;
  const d = -(x * p[3 * a] + y * p[3 * a + 1] + z * p[3 * a + 2]);
  quadrics.addPlane(a, x, y, z, d, (weight * length2) / 2);
  quadrics.addPlane(b, x, y, z, d, (weight * length2) / 2);
}
