import type { Fields, Level } from "./field-levels";
import { MATCH, match } from "./match-directions";
import { ROUNDS, hierarchy, spread } from "./field-levels";
import { shift } from "./place-field";
import type { WorkMesh } from "./work-mesh";

/** How strongly a bend draws the directions, against all neighbours together. */
const PULL = 0.6;

/**
 * Fields of directions and of positions for an even quad mesh: smoothed from coarse to fine, each vertex towards
 * its neighbours up to quarter turns and whole steps (Jakob, Tarini, Panozzo, Sorkine-Hornung 2015, the extrinsic
 * measure). Vertices on lines keep the line's direction and stay on it.
 * @param step edge length of the quads, metres
 * @param guides directions the field is drawn to, 3 × vertexCount, zero where there is none
 */
export function quadFields(
  mesh: WorkMesh,
  step: number,
  guides: Float64Array | null,
  check: () => void,
): Fields {
  const levels = hierarchy(mesh, guides);
  for (let l = levels.length - 1; l >= 0; l--) {
    check();
    const level = levels[l];
    const above = levels[l + 1];
    if (above) spread(above, level, "q");
    for (let round = 0; round < ROUNDS * (above ? 1 : 4); round++) turn(level);
  }
  for (let l = levels.length - 1; l >= 0; l--) {
    check();
    const level = levels[l];
    const above = levels[l + 1];
    if (above) spread(above, level, "o");
    for (let round = 0; round < ROUNDS * (above ? 1 : 4); round++)
      shift(level, step);
  }
  return { q: levels[0].q, o: levels[0].o };
}

const TANGENT = { x: 0, y: 0, z: 0 };

/** A direction laid into the tangent plane of a vertex, unit length, to TANGENT. */
function layFlat(
  x: number,
  y: number,
  z: number,
  n: Float64Array,
  i: number,
): void {
  const d = x * n[i] + y * n[i + 1] + z * n[i + 2];
  x -= d * n[i];
  y -= d * n[i + 1];
  z -= d * n[i + 2];
  const size = Math.sqrt(x * x + y * y + z * z);
  const by = size > 1e-12 ? size : 1;
  TANGENT.x = x / by;
  TANGENT.y = y / by;
  TANGENT.z = z / by;
}

/** One sweep over the directions. */
function turn({ q, n, starts, links, bound, pull }: Level): void {
  for (let v = 0; v < bound.length; v++) {
    if (bound[v] === 1 || bound[v] === 3) continue;
    const i = 3 * v;
    TANGENT.x = q[i];
    TANGENT.y = q[i + 1];
    TANGENT.z = q[i + 2];
    let weight = 0;
    for (let k = starts[v]; k < starts[v + 1]; k++) {
      const j = 3 * links[k];
      match(TANGENT.x, TANGENT.y, TANGENT.z, n, i, q, n, j);
      layFlat(
        MATCH.ax * weight + MATCH.bx,
        MATCH.ay * weight + MATCH.by,
        MATCH.az * weight + MATCH.bz,
        n,
        i,
      );
      weight++;
    }
    if (weight && (pull[i] || pull[i + 1] || pull[i + 2])) {
      match(TANGENT.x, TANGENT.y, TANGENT.z, n, i, pull, n, i);
      layFlat(
        MATCH.ax + PULL * MATCH.bx,
        MATCH.ay + PULL * MATCH.by,
        MATCH.az + PULL * MATCH.bz,
        n,
        i,
      );
    }
    q[i] = TANGENT.x;
    q[i + 1] = TANGENT.y;
    q[i + 2] = TANGENT.z;
  }
}
