import type { FitState } from "./fit-state";
import { THINNEST } from "../mesh/triangle-shape";

/** What a sample off along the surface counts against one off along the normal. */
const TANGENTIAL = 0.03;
/** The same where vertices should keep their distances. */
const STIFF = 0.2;
/** How strongly a vertex stays where it is, in samples. */
const HOLD = 0.25;
/** Triangles may not turn by more than this cosine. */
const TURN = 0.3;

/** One sweep: every vertex goes where its samples want it, its neighbours held. */
export function moveVertices(fit: FitState, free: boolean): void {
  const { p, triangles, vertexStarts, vertexCorners, held } = fit;
  const { sampleStarts, sampleOrder, points, normals, u, v, weight } = fit;
  const tangential = free ? TANGENTIAL : STIFF;
  const vertices = vertexStarts.length - 1;
  for (let x = 0; x < vertices; x++) {
    if (held[x] === 2 || vertexStarts[x] === vertexStarts[x + 1]) continue;
    // Normal equations of the step: sum of b² (n nᵀ + tangential) and of b × residual.
    let xx = 0;
    let xy = 0;
    let xz = 0;
    let yy = 0;
    let yz = 0;
    let zz = 0;
    let gx = 0;
    let gy = 0;
    let gz = 0;
    for (let at = vertexStarts[x]; at < vertexStarts[x + 1]; at++) {
      const c = vertexCorners[at];
      const t = (c / 3) | 0;
      const k = c - 3 * t;
      const i0 = 3 * triangles[3 * t];
      const i1 = 3 * triangles[3 * t + 1];
      const i2 = 3 * triangles[3 * t + 2];
      for (let s = sampleStarts[t]; s < sampleStarts[t + 1]; s++) {
        const i = sampleOrder[s];
        const bu = u[i];
        const bv = v[i];
        const bw = 1 - bu - bv;
        const b = k === 0 ? bw : k === 1 ? bu : bv;
        if (b < 1e-4) continue;
        const rx = points[3 * i] - bw * p[i0] - bu * p[i1] - bv * p[i2];
        const ry =
          points[3 * i + 1] - bw * p[i0 + 1] - bu * p[i1 + 1] - bv * p[i2 + 1];
        const rz =
          points[3 * i + 2] - bw * p[i0 + 2] - bu * p[i1 + 2] - bv * p[i2 + 2];
        const nx = normals[3 * i];
        const ny = normals[3 * i + 1];
        const nz = normals[3 * i + 2];
        const m = weight[i] * b;
        const mb = m * b;
        const rn = (1 - tangential) * m * (rx * nx + ry * ny + rz * nz);
        gx += rn * nx + tangential * m * rx;
        gy += rn * ny + tangential * m * ry;
        gz += rn * nz + tangential * m * rz;
        const mn = (1 - tangential) * mb;
        xx += mn * nx * nx + tangential * mb;
        yy += mn * ny * ny + tangential * mb;
        zz += mn * nz * nz + tangential * mb;
        xy += mn * nx * ny;
        xz += mn * nx * nz;
        yz += mn * ny * nz;
      }
    }
    xx += HOLD;
    yy += HOLD;
    zz += HOLD;
    const c00 = yy * zz - yz * yz;
    const c01 = xz * yz - xy * zz;
    const c02 = xy * yz - xz * yy;
    const inverse = 1 / (xx * c00 + xy * c01 + xz * c02);
    let sx = (c00 * gx + c01 * gy + c02 * gz) * inverse;
    let sy =
      (c01 * gx + (xx * zz - xz * xz) * gy + (xy * xz - xx * yz) * gz) *
      inverse;
    let sz =
      (c02 * gx + (xy * xz - xx * yz) * gy + (xx * yy - xy * xy) * gz) *
      inverse;
    if (held[x] === 1) {
      const n = fit.vertexNormal(x);
      const along = sx * n[0] + sy * n[1] + sz * n[2];
      sx = along * n[0];
      sy = along * n[1];
      sz = along * n[2];
    }
    tryMove(fit, x, sx, sy, sz);
  }
}

/** Moves a vertex by the step, or by half or a quarter of it, as far as its triangles stay sound. */
function tryMove(
  fit: FitState,
  x: number,
  sx: number,
  sy: number,
  sz: number,
): void {
  const { p } = fit;
  const ox = p[3 * x];
  const oy = p[3 * x + 1];
  const oz = p[3 * x + 2];
  for (let step = 1; step > 0.2; step /= 2) {
    if (staysSound(fit, x, ox + step * sx, oy + step * sy, oz + step * sz)) {
      p[3 * x] = ox + step * sx;
      p[3 * x + 1] = oy + step * sy;
      p[3 * x + 2] = oz + step * sz;
      fit.moved = true;
      return;
    }
  }
}

function staysSound(
  fit: FitState,
  x: number,
  nx: number,
  ny: number,
  nz: number,
): boolean {
  const { p, triangles, vertexStarts, vertexCorners } = fit;
  for (let at = vertexStarts[x]; at < vertexStarts[x + 1]; at++) {
    const c = vertexCorners[at];
    const t = 3 * ((c / 3) | 0);
    const k = c - t;
    const i = 3 * triangles[t + (k === 2 ? 0 : k + 1)];
    const j = 3 * triangles[t + (k === 0 ? 2 : k - 1)];
    const ex = p[j] - p[i];
    const ey = p[j + 1] - p[i + 1];
    const ez = p[j + 2] - p[i + 2];
    const ux = p[3 * x] - p[i];
    const uy = p[3 * x + 1] - p[i + 1];
    const uz = p[3 * x + 2] - p[i + 2];
    const wx = nx - p[i];
    const wy = ny - p[i + 1];
    const wz = nz - p[i + 2];
    const ax = ey * uz - ez * uy;
    const ay = ez * ux - ex * uz;
    const az = ex * uy - ey * ux;
    const bx = ey * wz - ez * wy;
    const by = ez * wx - ex * wz;
    const bz = ex * wy - ey * wx;
    const old2 = ax * ax + ay * ay + az * az;
    const new2 = bx * bx + by * by + bz * bz;
    if (ax * bx + ay * by + az * bz <= TURN * Math.sqrt(old2 * new2))
      return false;
    const edge = ex * ex + ey * ey + ez * ez;
    const sides =
      edge +
      wx * wx +
      wy * wy +
      wz * wz +
      (wx - ex) ** 2 +
      (wy - ey) ** 2 +
      (wz - ez) ** 2;
    const quality = (3.4641 * Math.sqrt(new2)) / sides;
    if (quality < THINNEST) {
      const was =
        edge +
        ux * ux +
        uy * uy +
        uz * uz +
        (ux - ex) ** 2 +
        (uy - ey) ** 2 +
        (uz - ez) ** 2;
      if (quality < (3.4641 * Math.sqrt(old2)) / was) return false;
    }
  }
  return true;
}
