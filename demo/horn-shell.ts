import type { Asset } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import type { Point } from "./shapes";
import { Builder } from "./shapes";

const AROUND = 200;
const ALONG = 1020;
const TURNS = 1.35;

/**
 * The horn shell of Sorrel Quay: one closed piece, a tapering horn that curls in an open spiral, with growth
 * ribs, long flutes, a flared lip and a throat one can look into.
 * In one piece: one formula, term by term.
 */
export function hornShell(): Asset {
  const builder = new Builder();
  const spine = (t: number): Point => {
    const angle = TURNS * 2 * Math.PI * t;
    const r = 0.035 * Math.exp(1.32 * t);
    return [r * Math.cos(angle), 0.1 * t * t - 0.02 * t, r * Math.sin(angle)];
  };
  const girth = (t: number) => {
    const flare = t > 0.86 ? 1 + 1.1 * ((t - 0.86) / 0.14) ** 2.2 : 1;
    return 0.0022 + 0.0235 * t ** 1.25 * flare;
  };
  const relief = (t: number, angle: number) => {
    const ribs = Math.sin(2 * Math.PI * 46 * t ** 0.8);
    const rib = 0.045 * Math.max(0, ribs) ** 1.6 * (1 - 0.4 * t);
    const flute = 0.03 * Math.cos(9 * angle + 5 * t) * Math.min(1, 4 * t);
    const fine =
      0.008 * Math.sin(2 * Math.PI * 150 * t + 2 * Math.sin(3 * angle));
    const knobs =
      0.05 *
      Math.max(0, Math.cos(9 * angle + 5 * t)) ** 8 *
      Math.max(0, ribs) ** 2;
    return 1 + (rib + flute + fine + knobs) * Math.min(1, 8 * t);
  };
  const ring = (t: number, scale: number, worn: number, slide: number) => {
    const at = spine(t);
    const ahead = spine(t + 1e-4);
    const back = spine(t - 1e-4);
    const along = [ahead[0] - back[0], ahead[1] - back[1], ahead[2] - back[2]];
    const n = Math.hypot(along[0], along[1], along[2]);
    const [ax, ay, az] = along.map((x) => x / n);
    // Radial from the coil's axis, made square to the spine, and the third axis.
    let sx = at[0];
    let sy = 0;
    let sz = at[2];
    const d = sx * ax + sy * ay + sz * az;
    sx -= d * ax;
    sy -= d * ay;
    sz -= d * az;
    const s = Math.hypot(sx, sy, sz);
    [sx, sy, sz] = [sx / s, sy / s, sz / s];
    const [ux, uy, uz] = [
      ay * sz - az * sy,
      az * sx - ax * sz,
      ax * sy - ay * sx,
    ];
    const start = builder.points.length / 3;
    for (let i = 0; i < AROUND; i++) {
      const angle = (2 * Math.PI * i) / AROUND;
      const r = girth(t) * scale * (1 + (1 - worn) * (relief(t, angle) - 1));
      const c = Math.cos(angle) * r;
      const q = Math.sin(angle) * r * 0.86;
      builder.vertex(
        at[0] + sx * c + ux * q + ax * slide,
        at[1] + sy * c + uy * q + ay * slide,
        at[2] + sz * c + uz * q + az * slide,
      );
    }
    return start;
  };
  const rings: number[] = [];
  const first = 0.012;
  for (let k = 0; k <= ALONG; k++)
    rings.push(ring(first + (1 - first) * (k / ALONG), 1, 0, 0));
  for (let k = 1; k <= 8; k++) {
    const a = (Math.PI * k) / 8;
    rings.push(
      ring(1, 0.955 + 0.045 * Math.cos(a), k / 8, 0.0022 * Math.sin(a)),
    );
  }
  for (let k = 1; k <= 60; k++)
    rings.push(ring(1 - 0.3 * (k / 60), 0.91, 1, 0));
  for (let k = 0; k + 1 < rings.length; k++)
    builder.band(rings[k], rings[k + 1], AROUND);
  const tip = spine(first - 0.008);
  builder.fan(rings[0], AROUND, builder.vertex(...tip), false);
  const throat = spine(0.69);
  builder.fan(rings[rings.length - 1], AROUND, builder.vertex(...throat), true);
  return createAsset("Horn shell", [
    createPart("shell", 0, { source: builder.mesh("shell") }),
  ]);
}
