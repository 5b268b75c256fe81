import { lengthAlong } from "./grading";
import type { WorkMesh } from "./work-mesh";
import type { Fields, Level } from "./field-levels";
import { MATCH, match } from "./match-directions";
import { ontoTangent } from "./field-levels";

const NEAR = { x: 0, y: 0, z: 0, ox: 0, oy: 0, oz: 0, du: 0, dv: 0 };

/**
 * Of two lattices the pair of points near the middle between both vertices that lie closest together. The points
 * go to NEAR, and how many steps of the first one lie between its given point and the second's, to du and dv.
 */
function matchPlaces(
  level: Pick<Level, "p" | "n" | "o">,
  i: number,
  ox: number,
  oy: number,
  oz: number,
  j: number,
  along: number,
  across: number,
): void {
  const { p, n, o } = level;
  const { ax, ay, az, bx, by, bz } = MATCH;
  // The point in both tangent planes that is nearest to both vertices.
  const nn = n[i] * n[j] + n[i + 1] * n[j + 1] + n[i + 2] * n[j + 2];
  const ex = p[j] - p[i];
  const ey = p[j + 1] - p[i + 1];
  const ez = p[j + 2] - p[i + 2];
  const e0 = n[i] * ex + n[i + 1] * ey + n[i + 2] * ez;
  const e1 = n[j] * ex + n[j + 1] * ey + n[j + 2] * ez;
  const f = 1 / (1 - nn * nn + 1e-4);
  const l0 = 2 * f * (e0 + nn * e1);
  const l1 = -2 * f * (e1 + nn * e0);
  const mx = 0.5 * (p[i] + p[j]) - 0.25 * (n[i] * l0 + n[j] * l1);
  const my =
    0.5 * (p[i + 1] + p[j + 1]) - 0.25 * (n[i + 1] * l0 + n[j + 1] * l1);
  const mz =
    0.5 * (p[i + 2] + p[j + 2]) - 0.25 * (n[i + 2] * l0 + n[j + 2] * l1);
  const tx = n[i + 1] * az - n[i + 2] * ay;
  const ty = n[i + 2] * ax - n[i] * az;
  const tz = n[i] * ay - n[i + 1] * ax;
  const sx = n[j + 1] * bz - n[j + 2] * by;
  const sy = n[j + 2] * bx - n[j] * bz;
  const sz = n[j] * by - n[j + 1] * bx;
  const u0 = Math.floor(
    ((mx - ox) * ax + (my - oy) * ay + (mz - oz) * az) / along,
  );
  const v0 = Math.floor(
    ((mx - ox) * tx + (my - oy) * ty + (mz - oz) * tz) / across,
  );
  const u1 = Math.floor(
    ((mx - o[j]) * bx + (my - o[j + 1]) * by + (mz - o[j + 2]) * bz) / along,
  );
  const v1 = Math.floor(
    ((mx - o[j]) * sx + (my - o[j + 1]) * sy + (mz - o[j + 2]) * sz) / across,
  );
  let best = Infinity;
  for (let a = 0; a < 4; a++) {
    const ua = (u0 + (a & 1)) * along;
    const va = (v0 + (a >> 1)) * across;
    const x0 = ox + ua * ax + va * tx;
    const y0 = oy + ua * ay + va * ty;
    const z0 = oz + ua * az + va * tz;
    for (let b = 0; b < 4; b++) {
      const ub = (u1 + (b & 1)) * along;
      const vb = (v1 + (b >> 1)) * across;
      const x1 = o[j] + ub * bx + vb * sx;
      const y1 = o[j + 1] + ub * by + vb * sy;
      const z1 = o[j + 2] + ub * bz + vb * sz;
      const d = (x0 - x1) ** 2 + (y0 - y1) ** 2 + (z0 - z1) ** 2;
      if (d >= best) continue;
      best = d;
      NEAR.x = x0;
      NEAR.y = y0;
      NEAR.z = z0;
      NEAR.ox = x1;
      NEAR.oy = y1;
      NEAR.oz = z1;
      NEAR.du = u0 + (a & 1) - (u1 + (b & 1));
      NEAR.dv = v0 + (a >> 1) - (v1 + (b >> 1));
    }
  }
}

/** One sweep over the lattice points. */
export function shift(level: Level, whole: number): void {
  const { q, n, p, o, starts, links, bound, metric } = level;
  for (let v = 0; v < bound.length; v++) {
    if (bound[v] === 2) continue;
    const i = 3 * v;
    const [ax, ay, az] = [q[i], q[i + 1], q[i + 2]];
    const tx = n[i + 1] * az - n[i + 2] * ay;
    const ty = n[i + 2] * ax - n[i] * az;
    const tz = n[i] * ay - n[i + 1] * ax;
    const stepA = whole * lengthAlong(metric, v, ax, ay, az);
    const stepT = whole * lengthAlong(metric, v, tx, ty, tz);
    let x = o[i];
    let y = o[i + 1];
    let z = o[i + 2];
    let weight = 0;
    for (let k = starts[v]; k < starts[v + 1]; k++) {
      const j = 3 * links[k];
      match(q[i], q[i + 1], q[i + 2], n, i, q, n, j);
      // Of the vertex' two directions the one that matched comes first.
      const first =
        Math.abs(MATCH.ax * ax + MATCH.ay * ay + MATCH.az * az) > 0.5;
      matchPlaces(
        level,
        i,
        x,
        y,
        z,
        j,
        first ? stepA : stepT,
        first ? stepT : stepA,
      );
      // Points on lines and corners weigh more: the lattice is to meet them.
      const w = bound[links[k]] === 2 ? 6 : bound[links[k]] === 1 ? 3 : 1;
      const f = 1 / (weight + w);
      x = f * (weight * NEAR.x + w * NEAR.ox);
      y = f * (weight * NEAR.y + w * NEAR.oy);
      z = f * (weight * NEAR.z + w * NEAR.oz);
      weight += w;
      const d =
        n[i] * (x - p[i]) +
        n[i + 1] * (y - p[i + 1]) +
        n[i + 2] * (z - p[i + 2]);
      x -= d * n[i];
      y -= d * n[i + 1];
      z -= d * n[i + 2];
    }
    // The lattice point nearest to the vertex.
    const du =
      stepA *
      Math.round(
        ((p[i] - x) * ax + (p[i + 1] - y) * ay + (p[i + 2] - z) * az) / stepA,
      );
    const dv =
      stepT *
      Math.round(
        ((p[i] - x) * tx + (p[i + 1] - y) * ty + (p[i + 2] - z) * tz) / stepT,
      );
    o[i] = x + du * ax + dv * tx;
    o[i + 1] = y + du * ay + dv * ty;
    o[i + 2] = z + du * az + dv * tz;
    if (bound[v] === 1) ontoTangent(level, v);
  }
}

/** How many steps two neighbours' lattice points lie apart, in both directions of the lattice. */
export function stepsBetween(
  mesh: WorkMesh,
  fields: Fields,
  a: number,
  b: number,
  whole: number,
): readonly [number, number] {
  const { q, o } = fields;
  const i = 3 * a;
  match(q[i], q[i + 1], q[i + 2], mesh.normals, i, q, mesh.normals, 3 * b);
  const { ax, ay, az, bx, by, bz } = MATCH;
  const n = mesh.normals;
  const j = 3 * b;
  const { metric } = mesh;
  const along =
    lengthAlong(metric, a, ax, ay, az) + lengthAlong(metric, b, bx, by, bz);
  const across =
    lengthAlong(
      metric,
      a,
      n[i + 1] * az - n[i + 2] * ay,
      n[i + 2] * ax - n[i] * az,
      n[i] * ay - n[i + 1] * ax,
    ) +
    lengthAlong(
      metric,
      b,
      n[j + 1] * bz - n[j + 2] * by,
      n[j + 2] * bx - n[j] * bz,
      n[j] * by - n[j + 1] * bx,
    );
  matchPlaces(
    { p: mesh.positions, n: mesh.normals, o },
    i,
    o[i],
    o[i + 1],
    o[i + 2],
    3 * b,
    0.5 * whole * along,
    0.5 * whole * across,
  );
  return [Math.abs(NEAR.du), Math.abs(NEAR.dv)];
}
