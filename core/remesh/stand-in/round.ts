import { dot } from "../../space/vector";
import { hardAbove } from "../../mesh/hard-angle";
import type { Mesh } from "../../mesh/mesh";
import type { Axis } from "./axis";
import { aboutAxis, fitAxis } from "./axis";
import { bestChain } from "./chain";
import type { Cloud } from "./cloud";
import { Polygons } from "./polygons";

/** A ring of a shape about an axis: where along it, and how wide. */
interface Ring {
  h: number;
  r: number;
}

interface About {
  h: Float64Array;
  r: Float64Array;
  angle: Float64Array;
  /** 1 on a side wall, 0 on an end: 1 − (normal · axis)². */
  side: Float64Array;
  /** −1 … 1: whether the surface faces away from the axis. */
  outwards: Float64Array;
  low: number;
  high: number;
}

function lookAbout(cloud: Cloud, axis: Axis): About {
  const { points, normals, count, vertices } = cloud;
  const found: About = {
    h: new Float64Array(count),
    r: new Float64Array(count),
    angle: new Float64Array(count),
    side: new Float64Array(count),
    outwards: new Float64Array(count),
    low: Infinity,
    high: -Infinity,
  };
  for (let i = 0; i < count; i++) {
    const { h, r, angle } = aboutAxis(axis, points, 3 * i);
    const n = normals.subarray(3 * i, 3 * i + 3);
    found.h[i] = h;
    found.r[i] = r;
    found.angle[i] = angle;
    found.side[i] = 1 - dot(n, axis.way) ** 2;
    found.outwards[i] =
      Math.cos(angle) * dot(n, axis.u) + Math.sin(angle) * dot(n, axis.v);
  }
  for (let i = 0; i < vertices.length; i += 3) {
    const { h } = aboutAxis(axis, vertices, i);
    found.low = Math.min(found.low, h);
    found.high = Math.max(found.high, h);
  }
  return found;
}

/** Distance of a regular polygon's border from its middle at an angle, for corners at 1 from angle 0 on. */
function polygonAt(angle: number, sides: number): number {
  const sector = (2 * Math.PI) / sides;
  const within = angle - sector * Math.floor(angle / sector);
  return Math.cos(sector / 2) / Math.cos(within - sector / 2);
}

/** A regular polygon's mean distance from its middle, for a corner at 1. */
export const meanOfPolygon = (sides: number) =>
  (sides / Math.PI) *
  Math.cos(Math.PI / sides) *
  Math.asinh(Math.tan(Math.PI / sides));

/** Turns of a polygon that are tried, and down to how many sides its turn matters. */
const PHASES = 24;
const PHASE_MATTERS = 12;

/**
 * A prism of n sides, or a cone cut off where one end is wider, about the piece's own axis: the radii that come
 * nearest to its side walls, ends where it ends, turned so that flats lie on flats.
 */
export function fitPrism(cloud: Cloud, sides: number, capped: boolean): Mesh {
  const axis = fitAxis(cloud);
  const about = lookAbout(cloud, axis);
  const { h, r, angle, side, outwards, low, high } = about;
  const rated = (phase: number | null) => {
    // Least squares of r = ρ (a + b t), ρ = 1 for a circle.
    let [s0, s1, s2, t0, t1, rr] = [0, 0, 0, 0, 0, 0];
    for (let i = 0; i < r.length; i++) {
      if (outwards[i] < 0) continue;
      const rho = phase === null ? 1 : polygonAt(angle[i] - phase, sides);
      const t = (h[i] - low) / (high - low || 1);
      const w = side[i];
      s0 += w * rho * rho;
      s1 += w * rho * rho * t;
      s2 += w * rho * rho * t * t;
      t0 += w * rho * r[i];
      t1 += w * rho * r[i] * t;
      rr += w * r[i] * r[i];
    }
    const det = s0 * s2 - s1 * s1;
    let a = s0 > 0 ? t0 / s0 : 0;
    let b = 0;
    if (det > 1e-9 * s0 * s0) {
      a = (t0 * s2 - t1 * s1) / det;
      b = (t1 * s0 - t0 * s1) / det;
    }
    return { a, b, rest: rr - a * t0 - b * t1 };
  };
  const circle = rated(null);
  let phase = 0;
  let best = rated(0);
  if (sides <= PHASE_MATTERS)
    for (let k = 1; k < PHASES; k++) {
      const turn = (2 * Math.PI * k) / (sides * PHASES);
      const next = rated(turn);
      if (next.rest < 0.99 * best.rest) {
        best = next;
        phase = turn;
      }
    }
  const flat = best.rest < 0.5 * circle.rest;
  let ends = [best.a, best.a + best.b].map((x) => Math.max(0, x));
  if (Math.abs(best.b) < 0.03 * best.a) {
    const mean = best.a + best.b / 2;
    ends = [mean, mean];
  }
  const rings = [
    { h: low, r: ends[0] },
    { h: high, r: ends[1] },
  ];
  const mesh = turnedMesh(axis, rings, sides, phase, capped);
  return withHard(mesh, flat ? 20 : roundLimit(sides));
}

/** Slices of a profile, and radii that count as a point, as a share of the widest. */
const PROFILE = 96;
const POINT = 0.03;

/**
 * A profile turned about the piece's own axis: its outside, in the rings that serve it best.
 * @param rings how many, or 0 for as many as it needs
 */
export function fitTurned(
  cloud: Cloud,
  sides: number,
  rings: number,
  capped: boolean,
): Mesh {
  const axis = fitAxis(cloud);
  const about = lookAbout(cloud, axis);
  const profile = profileOf(about);
  const chain = bestChain(
    profile.map(({ h, r }) => [h, r]),
    Math.max(rings && 2, rings),
    0.004 * cloud.size,
  ).map((i) => profile[i]);
  const widest = Math.max(...chain.map((ring) => ring.r));
  const scaled = chain.map(({ h, r }, i) => ({
    h,
    r:
      r < POINT * widest && (i === 0 || i === chain.length - 1)
        ? 0
        : r / meanOfPolygon(sides),
  }));
  return withHard(
    turnedMesh(axis, scaled, sides, 0, capped),
    roundLimit(sides),
  );
}

/** The outside in slices along the axis, with where its ends begin and cease. */
function profileOf({ h, r, outwards, side, low, high }: About): Ring[] {
  const slices: number[][] = Array.from({ length: PROFILE }, () => []);
  const at = (x: number) =>
    Math.min(
      PROFILE - 1,
      Math.max(0, Math.floor((PROFILE * (x - low)) / (high - low || 1))),
    );
  for (let i = 0; i < h.length; i++)
    if (outwards[i] > -0.2 && side[i] > 0.02) slices[at(h[i])].push(r[i]);
  const found: Ring[] = [];
  slices.forEach((radii, s) => {
    if (!radii.length) return;
    radii.sort((a, b) => a - b);
    // What lies inside of the outside (a bore, a hidden collar) must not pull it in.
    const outer = radii[Math.floor(0.85 * (radii.length - 1))];
    const own = radii.filter((x) => x > 0.75 * outer);
    found.push({
      h: low + ((s + 0.5) / PROFILE) * (high - low),
      r: own.reduce((sum, x) => sum + x, 0) / own.length,
    });
  });
  if (found.length < 2) {
    const r0 = found[0]?.r ?? Math.max(...r);
    return [
      { h: low, r: r0 },
      { h: high, r: r0 },
    ];
  }
  const step = (high - low) / PROFILE;
  const first = { h: low, r: endRadius(found[0], found[1], step) };
  const last = {
    h: high,
    r: endRadius(found[found.length - 1], found[found.length - 2], step),
  };
  return [first, ...found, last];
}

/** The profile carried on to the end by half a slice. */
const endRadius = (end: Ring, inner: Ring, step: number) =>
  Math.max(
    0,
    end.r +
      ((end.r - inner.r) / (Math.abs(end.h - inner.h) || step)) * (step / 2),
  );

function turnedMesh(
  axis: Axis,
  rings: readonly Ring[],
  sides: number,
  phase: number,
  capped: boolean,
): Mesh {
  const polygons = new Polygons();
  const place = (h: number, r: number, turn: number) =>
    [0, 1, 2].map(
      (k) =>
        axis.at[k] +
        h * axis.way[k] +
        r * (Math.cos(turn) * axis.u[k] + Math.sin(turn) * axis.v[k]),
    );
  const names = rings.map(({ h, r }) =>
    r === 0
      ? [polygons.point(place(h, 0, 0))]
      : Array.from({ length: sides }, (_, i) =>
          polygons.point(place(h, r, phase + (2 * Math.PI * i) / sides)),
        ),
  );
  for (let i = 0; i + 1 < names.length; i++)
    if (names[i].length > 1 || names[i + 1].length > 1)
      polygons.band(names[i], names[i + 1]);
  if (capped)
    for (const end of [0, names.length - 1])
      if (names[end].length > 1) polygons.close([names[end]], [], end === 0);
  return polygons.mesh();
}

/** Edges between the flats of a round shape stay smooth, its rims become hard. */
export const roundLimit = (sides: number) =>
  Math.min(80, Math.max(35, 360 / sides + 10));

/**
 * A mesh with edges hard that turn by more than an angle.
 * @param degrees 0 … 180
 */
export function withHard(mesh: Mesh, degrees: number): Mesh {
  const { hard, count } = hardAbove(mesh, degrees);
  return count ? { ...mesh, hard } : mesh;
}
