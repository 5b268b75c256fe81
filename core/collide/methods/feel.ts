import type { Hull } from "../../mesh/hull";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { sampleSurface } from "../../space/sample";
import type { Vector } from "../../space/vector";
import { cross, unit } from "../../space/vector";
import { planesOf } from "./containment";
import type { StandOff } from "./stand-off";

/** Points looked at on each hull. */
const SAMPLES = 1500;
/** Cosine from straight up to which somebody can stand on a surface. */
const STANDS = Math.cos((50 * Math.PI) / 180);
/** Lips from and to this share of the asset's diagonal catch a foot: less is not felt, more is a wall. */
const LOW = 0.01;
const HIGH = 0.08;
/** How far ahead along a surface a lip is sought, as a share of the diagonal. */
const AHEAD = 0.05;
/** Faces that stand this nearly across the way stop it. */
const STOPS = -0.5;
/** Of a lip's height that its top is off the mesh: then the mesh has no such step. */
const FALSE = 0.5;
/** Places that are kept, this share of the diagonal from each other. */
export const PLACES = 12;
const APART = 0.06;

/** A place where hulls feel otherwise than the mesh looks. */
export interface FeltPlace {
  at: Vector;
  /** Metres above the mesh, or of the lip. */
  height: number;
}

/** What somebody notices who walks on hulls and slides along them. */
export interface Feel {
  /** How far one stands above the mesh at most, metres, and where it is more than a hundredth of the diagonal. */
  hovers: number;
  hoverPlaces: FeltPlace[];
  /** The highest lip between hulls that the mesh has not, metres, and where such lips are. */
  lip: number;
  lipPlaces: FeltPlace[];
}

interface Solid {
  hull: Hull;
  planes: Float64Array;
}

/**
 * Looks where somebody who walks on hulls stands in the air, and where one slides along a hull and catches on the side
 * of the next although the mesh runs on there.
 * @param stand of the meshes that the hulls stand for
 * @param check throws where the work is cancelled
 */
export function feelOf(
  hulls: readonly Hull[],
  stand: StandOff,
  check: () => void,
): Feel {
  const size = diagonalOf(boundsOf(...hulls.map((each) => each.positions)));
  const solids = hulls
    .filter(({ kind }) => kind !== "ground")
    .map((hull) => ({ hull, planes: planesOf(hull) }));
  const hovers: FeltPlace[] = [];
  const lips: FeltPlace[] = [];
  for (const own of solids) {
    check();
    const { positions, triangles } = own.hull;
    const sampled = sampleSurface(positions, triangles, SAMPLES);
    for (let i = 0; i < SAMPLES; i++) {
      const at = [0, 1, 2].map(
        (k) => sampled.points[3 * i + k],
      ) as unknown as Vector;
      if (solids.some((other) => other !== own && isIn(other, at, 1e-6 * size)))
        continue;
      const n = normalOf(own.hull, sampled.triangles[i]);
      if (n[1] > STANDS) {
        const height = stand.at(...at);
        if (height > 0) hovers.push({ at, height });
      }
      const lip = lipAhead(own, solids, at, n, size, stand);
      if (lip) lips.push(lip);
    }
  }
  const most = (places: FeltPlace[]) =>
    places.reduce((height, place) => Math.max(height, place.height), 0);
  return {
    hovers: most(hovers),
    hoverPlaces: strewn(
      hovers.filter(({ height }) => height > size / 100),
      size,
    ),
    lip: most(lips),
    lipPlaces: strewn(lips, size),
  };
}

/** Whether a point lies in a body, deeper than a length. */
function isIn({ planes }: Solid, [x, y, z]: Vector, depth: number): boolean {
  for (let k = 0; k < planes.length; k += 4)
    if (
      planes[k] * x + planes[k + 1] * y + planes[k + 2] * z >
      planes[k + 3] - depth
    )
      return false;
  return true;
}

function normalOf({ positions: p, triangles }: Hull, t: number): Vector {
  const [a, b, c] = triangles.subarray(3 * t, 3 * t + 3);
  const edge = (v: number) => [0, 1, 2].map((k) => p[3 * v + k] - p[3 * a + k]);
  return unit(cross(edge(b), edge(c)));
}

/** A false lip that the side of another hull makes on the way along a surface, or null. */
function lipAhead(
  own: Solid,
  solids: readonly Solid[],
  at: Vector,
  n: Vector,
  size: number,
  stand: StandOff,
): FeltPlace | null {
  const aside = Math.abs(n[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0];
  const u = unit(cross(n, aside));
  const v = cross(n, u);
  // Just above the surface, so that what is lower is stepped over.
  const from = at.map((x, k) => x + LOW * size * n[k]) as unknown as Vector;
  let worst: FeltPlace | null = null;
  for (const way of [u, v, u.map((x) => -x), v.map((x) => -x)])
    for (const other of solids) {
      if (other === own) continue;
      const met = through(other, from, way);
      if (!met || met.enters <= 0 || met.enters > AHEAD * size) continue;
      if (met.facing > STOPS) continue;
      const inside = from.map(
        (x, k) => x + (met.enters + 1e-4 * size) * way[k],
      ) as unknown as Vector;
      const up = through(other, inside, n);
      const height = LOW * size + (up ? Math.max(0, up.leaves) : 0);
      if (height > HIGH * size || height <= (worst?.height ?? LOW * size))
        continue;
      const top = inside.map(
        (x, k) => x + (height - LOW * size) * n[k],
      ) as unknown as Vector;
      if (stand.at(...top) > FALSE * height) worst = { at: top, height };
    }
  return worst;
}

/**
 * Where a ray goes into a convex body and out of it, metres along it, and how the face that it enters faces it; null
 * where it misses.
 */
function through(
  { planes }: Solid,
  [x, y, z]: Vector,
  way: readonly number[],
): { enters: number; leaves: number; facing: number } | null {
  let enters = -Infinity;
  let leaves = Infinity;
  let facing = 0;
  for (let k = 0; k < planes.length; k += 4) {
    const [a, b, c, d] = planes.subarray(k, k + 4);
    const along = a * way[0] + b * way[1] + c * way[2];
    const off = d - (a * x + b * y + c * z);
    if (Math.abs(along) < 1e-12) {
      if (off < 0) return null;
    } else if (along < 0) {
      if (off / along > enters) {
        enters = off / along;
        facing = along;
      }
    } else leaves = Math.min(leaves, off / along);
  }
  return enters < leaves ? { enters, leaves, facing } : null;
}

/** The highest of places, none near a higher one. */
function strewn(places: FeltPlace[], size: number): FeltPlace[] {
  const kept: FeltPlace[] = [];
  for (const place of places.toSorted((a, b) => b.height - a.height)) {
    if (kept.length === PLACES) break;
    const near = kept.some(
      ({ at }) =>
        Math.hypot(...at.map((x, k) => x - place.at[k])) < APART * size,
    );
    if (!near) kept.push(place);
  }
  return kept;
}
