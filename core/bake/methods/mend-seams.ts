import type { BakedMap } from "../../base/pictures";
import { Bilinear } from "../../space/bilinear";
import { coveredBy } from "./bake-again";
import type { BakeScene } from "./scene";
import type { Side } from "./seam-sides";
import { SeamLook, goesOn, lengthOn, seamsOf } from "./seam-sides";

/** How often all places are gone through. */
const ROUNDS = 6;
/** Texels that hardly count at a place are hardly moved for it. */
const HARDLY = 0.05;
/** Edges between two looks at whether to go on. */
const OFTEN = 64;

/** One place on the border of an island: what is to show there, and the texels that it is read from. */
interface Places {
  /** 3 a place: what the map is to show, −1 … 1, as its pixels have it. */
  wanted: number[];
  /** 4 a place: texels, and their shares. */
  texels: number[];
  shares: number[];
}

/**
 * Sets the first ring of texels round the islands of a normal map so that the map, read bilinearly, shows at the
 * borders what a bake finds there: then both sides of a seam show the same, whatever the texels beside it are. Texels
 * of islands stay as they are. Least squares by Kaczmarz's method (1937), each step damped and made a unit vector again.
 * @param map changed in place; @param written texelCount from the bottom, 1 where texels may change; null for all
 */
export function mendSeams(
  scene: BakeScene,
  map: BakedMap,
  greenUp: boolean,
  written: Uint8Array | null,
  check: () => void,
): void {
  const { width, height } = map;
  const tile = map.tile ?? 0;
  const covered = coveredBy(scene, tile);
  const isFree = (texel: number) => {
    const up = (height - 1 - Math.floor(texel / width)) * width;
    const i = up + (texel % width);
    return !covered[i] && (!written || written[i] !== 0);
  };
  const places = placesOf(scene, map, greenUp, isFree, check);
  const ring = new Map<number, Float64Array>();
  const top = map.depth === 16 ? 65535 : 255;
  const valueOf = (texel: number) =>
    Float64Array.from([0, 1, 2], (k) => signed(map.pixels[3 * texel + k], top));
  const isCovered = (x: number, y: number) =>
    x >= 0 &&
    y >= 0 &&
    x < width &&
    y < height &&
    covered[(height - 1 - y) * width + x] !== 0;
  for (const texel of places.texels) {
    if (ring.has(texel) || !isFree(texel)) continue;
    // From what islands say alone, so that it is the same however much of them was baked this time.
    const sum = new Float64Array(3);
    const x0 = texel % width;
    const y0 = Math.floor(texel / width);
    for (let y = y0 - 1; y <= y0 + 1; y++)
      for (let x = x0 - 1; x <= x0 + 1; x++) {
        if (!isCovered(x, y)) continue;
        const value = valueOf(y * width + x);
        for (let k = 0; k < 3; k++) sum[k] += value[k];
      }
    ring.set(texel, unit(sum));
  }
  solve(places, ring, valueOf, check);
  for (const [texel, value] of ring)
    for (let k = 0; k < 3; k++)
      map.pixels[3 * texel + k] = Math.round((value[k] * 0.5 + 0.5) * top);
}

/** Places along seams, one a texel, over which the source goes on, on the sides that lie on a map and read free texels. */
function placesOf(
  scene: BakeScene,
  map: BakedMap,
  greenUp: boolean,
  isFree: (texel: number) => boolean,
  check: () => void,
): Places {
  const { width, height } = map;
  const look = new SeamLook(scene);
  const around = new Bilinear();
  const places: Places = { wanted: [], texels: [], shares: [] };
  const lookAt = (side: Side, share: number) =>
    look.go(side, share) && {
      u: look.u,
      v: look.v,
      tile: look.tile,
      wanted: look.wanted.slice(),
      truth: look.turned(look.wanted),
    };
  let looked = 0;
  for (const [one, other, turned] of seamsOf(scene.canvases)) {
    if (looked++ % OFTEN === 0) check();
    const count = Math.ceil(
      Math.max(...[one, other].map((side) => lengthOn(side, width, height))),
    );
    for (let i = 0; i < count; i++) {
      const share = (i + 0.5) / count;
      const here = lookAt(one, share);
      const there = here && lookAt(other, turned ? 1 - share : share);
      if (!here || !there || !goesOn(here.truth, there.truth)) continue;
      for (const { u, v, tile, wanted } of [here, there]) {
        if (tile !== (map.tile ?? 0)) continue;
        around.find(width, height, u, v);
        if (!around.texels.some(isFree)) continue;
        const [x, y, z] = wanted;
        places.wanted.push(x, greenUp ? y : -y, z);
        places.texels.push(...around.texels);
        places.shares.push(...around.shares);
      }
    }
  }
  return places;
}

/** @param ring 3 each: changed; @param valueOf what other texels show, 3 each */
function solve(
  { wanted, texels, shares }: Places,
  ring: ReadonlyMap<number, Float64Array>,
  valueOf: (texel: number) => Float64Array,
  check: () => void,
): void {
  const values = texels.map((texel) => ring.get(texel) ?? valueOf(texel));
  const free = texels.map((texel) => ring.has(texel));
  for (let round = 0; round < ROUNDS; round++) {
    check();
    for (let i = 0; 3 * i < wanted.length; i++) {
      let squares = HARDLY;
      for (let n = 4 * i; n < 4 * i + 4; n++)
        if (free[n]) squares += shares[n] * shares[n];
      for (let k = 0; k < 3; k++) {
        let lacking = wanted[3 * i + k];
        for (let n = 4 * i; n < 4 * i + 4; n++)
          lacking -= shares[n] * values[n][k];
        for (let n = 4 * i; n < 4 * i + 4; n++)
          if (free[n]) values[n][k] += (lacking * shares[n]) / squares;
      }
      for (let n = 4 * i; n < 4 * i + 4; n++) if (free[n]) unit(values[n]);
    }
  }
}

/** What a step of a channel stands for, −1 … 1; the two steps nearest to the middle both stand for 0. */
function signed(step: number, top: number): number {
  const doubled = 2 * step - top;
  return Math.abs(doubled) <= 1 ? 0 : doubled / top;
}

/** A vector made a unit vector in place; one without length points off the surface. */
function unit(v: Float64Array): Float64Array {
  const length = Math.hypot(v[0], v[1], v[2]);
  if (length > 0) for (let k = 0; k < 3; k++) v[k] /= length;
  else v.set([0, 0, 1]);
  return v;
}
