// AssemblyScript, compiled by `npm run kernel` into ../ray-kernel.ts. See ../ray-scene.ts for the layout.

const NODE_BYTES: usize = 128;
const GROUP_BYTES: usize = 144;
// Edges of neighbouring triangles overlap by this much, so that no ray slips between them.
const SLACK: f32 = 1e-6;

/** Where `first` leaves what it found: distance, u, v, facing as f32, then the triangle's place as i32. */
const RESULT: usize = 0;
const STACK: usize = 64;

// @ts-ignore: decorator
@inline
function load4(at: usize): v128 {
  return v128.load(at);
}

/**
 * The nearest triangle's place (4 × group + lane), or −1. `nodes` and `groups` are byte offsets.
 * In one piece, with all in locals: it is the innermost loop of baking, and calls would cost more than they do.
 */
export function first(
  nodes: usize, groups: usize, root: i32,
  ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, near: f32, far: f32,
): i32 {
  const ix: f32 = 1 / (dx == 0 ? 1e-30 : dx);
  const iy: f32 = 1 / (dy == 0 ? 1e-30 : dy);
  const iz: f32 = 1 / (dz == 0 ? 1e-30 : dz);
  const ix4 = f32x4.splat(ix);
  const iy4 = f32x4.splat(iy);
  const iz4 = f32x4.splat(iz);
  const ox4 = f32x4.splat(ox);
  const oy4 = f32x4.splat(oy);
  const oz4 = f32x4.splat(oz);
  const dx4 = f32x4.splat(dx);
  const dy4 = f32x4.splat(dy);
  const dz4 = f32x4.splat(dz);
  const near4 = f32x4.splat(near);
  const nx: usize = ix < 0 ? 48 : 0;
  const ny: usize = iy < 0 ? 64 : 16;
  const nz: usize = iz < 0 ? 80 : 32;
  const fx: usize = 48 - nx;
  const fy: usize = 80 - ny;
  const fz: usize = 112 - nz;
  let limit = far;
  let best: i32 = -1;
  let top: usize = STACK;
  let node = root;
  while (true) {
    if (node >= 0) {
      const b = nodes + <usize>node * NODE_BYTES;
      let t0 = f32x4.max(near4, f32x4.mul(f32x4.sub(load4(b + nx), ox4), ix4));
      let t1 = f32x4.min(f32x4.splat(limit), f32x4.mul(f32x4.sub(load4(b + fx), ox4), ix4));
      t0 = f32x4.pmax(t0, f32x4.mul(f32x4.sub(load4(b + ny), oy4), iy4));
      t1 = f32x4.pmin(t1, f32x4.mul(f32x4.sub(load4(b + fy), oy4), iy4));
      t0 = f32x4.pmax(t0, f32x4.mul(f32x4.sub(load4(b + nz), oz4), iz4));
      t1 = f32x4.pmin(t1, f32x4.mul(f32x4.sub(load4(b + fz), oz4), iz4));
      // The far side a few roundings wider, so that flat boxes are not missed.
      let mask = i32x4.bitmask(f32x4.le(t0, f32x4.mul(t1, f32x4.splat(1.0000004))));
      if (mask != 0) {
        const links = b + 96;
        if ((mask & (mask - 1)) == 0) {
          node = load<i32>(links + (<usize>ctz(mask) << 2));
          continue;
        }
        v128.store(RESULT + 32, t0);
        // Stacks the hits so that the nearest is on top: insertion from the place where this node's begin.
        const begin = top;
        while (mask != 0) {
          const lane = <usize>ctz(mask) << 2;
          mask &= mask - 1;
          const t = load<f32>(RESULT + 32 + lane);
          let at = top;
          while (at > begin && load<f32>(at - 4) < t) {
            store<u64>(at, load<u64>(at - 8));
            at -= 8;
          }
          store<i32>(at, load<i32>(links + lane));
          store<f32>(at + 4, t);
          top += 8;
        }
        top -= 8;
        node = load<i32>(top);
        continue;
      }
    } else {
      const g = groups + <usize>~node * GROUP_BYTES;
      const e1x = load4(g + 48);
      const e1y = load4(g + 64);
      const e1z = load4(g + 80);
      const e2x = load4(g + 96);
      const e2y = load4(g + 112);
      const e2z = load4(g + 128);
      const px = f32x4.sub(f32x4.mul(dy4, e2z), f32x4.mul(dz4, e2y));
      const py = f32x4.sub(f32x4.mul(dz4, e2x), f32x4.mul(dx4, e2z));
      const pz = f32x4.sub(f32x4.mul(dx4, e2y), f32x4.mul(dy4, e2x));
      const det = f32x4.add(f32x4.add(f32x4.mul(e1x, px), f32x4.mul(e1y, py)), f32x4.mul(e1z, pz));
      const inverse = f32x4.div(f32x4.splat(1), det);
      const sx = f32x4.sub(ox4, load4(g));
      const sy = f32x4.sub(oy4, load4(g + 16));
      const sz = f32x4.sub(oz4, load4(g + 32));
      const u = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(sx, px), f32x4.mul(sy, py)), f32x4.mul(sz, pz)), inverse);
      const qx = f32x4.sub(f32x4.mul(sy, e1z), f32x4.mul(sz, e1y));
      const qy = f32x4.sub(f32x4.mul(sz, e1x), f32x4.mul(sx, e1z));
      const qz = f32x4.sub(f32x4.mul(sx, e1y), f32x4.mul(sy, e1x));
      const v = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(dx4, qx), f32x4.mul(dy4, qy)), f32x4.mul(dz4, qz)), inverse);
      const t = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(e2x, qx), f32x4.mul(e2y, qy)), f32x4.mul(e2z, qz)), inverse);
      let ok = v128.and(f32x4.ge(u, f32x4.splat(-SLACK)), f32x4.ge(v, f32x4.splat(-SLACK)));
      ok = v128.and(ok, f32x4.le(f32x4.add(u, v), f32x4.splat(1 + SLACK)));
      ok = v128.and(ok, v128.and(f32x4.ge(t, near4), f32x4.le(t, f32x4.splat(limit))));
      let mask = i32x4.bitmask(ok);
      if (mask != 0) {
        v128.store(RESULT + 32, t);
        while (mask != 0) {
          const lane = ctz(mask);
          mask &= mask - 1;
          const hit = load<f32>(RESULT + 32 + (<usize>lane << 2));
          if (hit <= limit) {
            limit = hit;
            best = (~node << 2) + lane;
            v128.store(STACK - 16, u);
            store<f32>(RESULT + 4, load<f32>(STACK - 16 + (<usize>lane << 2)));
            v128.store(STACK - 16, v);
            store<f32>(RESULT + 8, load<f32>(STACK - 16 + (<usize>lane << 2)));
            v128.store(STACK - 16, det);
            store<f32>(RESULT + 12, -load<f32>(STACK - 16 + (<usize>lane << 2)));
          }
        }
      }
    }
    while (true) {
      if (top == STACK) {
        store<f32>(RESULT, limit);
        return best;
      }
      top -= 8;
      if (load<f32>(top + 4) <= limit) break;
    }
    node = load<i32>(top);
  }
}

/** 1 where anything lies between the two distances along the ray. */
export function any(
  nodes: usize, groups: usize, root: i32,
  ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, near: f32, far: f32,
): i32 {
  const ix: f32 = 1 / (dx == 0 ? 1e-30 : dx);
  const iy: f32 = 1 / (dy == 0 ? 1e-30 : dy);
  const iz: f32 = 1 / (dz == 0 ? 1e-30 : dz);
  return walk(
    nodes, groups, root,
    f32x4.splat(ox), f32x4.splat(oy), f32x4.splat(oz),
    f32x4.splat(dx), f32x4.splat(dy), f32x4.splat(dz),
    f32x4.splat(ix), f32x4.splat(iy), f32x4.splat(iz),
    f32x4.splat(near), f32x4.splat(far),
    ix < 0 ? 48 : 0, iy < 0 ? 64 : 16, iz < 0 ? 80 : 32,
  );
}

/** The lanes of four boxes that a ray meets; `nx`, `ny` and `nz` are where the sides it meets first lie. */
// @ts-ignore: decorator
@inline
function boxesMet(
  b: usize, ox4: v128, oy4: v128, oz4: v128, ix4: v128, iy4: v128, iz4: v128,
  near4: v128, far4: v128, nx: usize, ny: usize, nz: usize,
): i32 {
  let t0 = f32x4.max(near4, f32x4.mul(f32x4.sub(load4(b + nx), ox4), ix4));
  let t1 = f32x4.min(far4, f32x4.mul(f32x4.sub(load4(b + 48 - nx), ox4), ix4));
  t0 = f32x4.pmax(t0, f32x4.mul(f32x4.sub(load4(b + ny), oy4), iy4));
  t1 = f32x4.pmin(t1, f32x4.mul(f32x4.sub(load4(b + 80 - ny), oy4), iy4));
  t0 = f32x4.pmax(t0, f32x4.mul(f32x4.sub(load4(b + nz), oz4), iz4));
  t1 = f32x4.pmin(t1, f32x4.mul(f32x4.sub(load4(b + 112 - nz), oz4), iz4));
  return i32x4.bitmask(f32x4.le(t0, f32x4.mul(t1, f32x4.splat(1.0000004))));
}

/** 1 where a ray meets anything below a node or in a group. */
// @ts-ignore: decorator
@inline
function walk(
  nodes: usize, groups: usize, from: i32,
  ox4: v128, oy4: v128, oz4: v128, dx4: v128, dy4: v128, dz4: v128, ix4: v128, iy4: v128, iz4: v128,
  near4: v128, far4: v128, nx: usize, ny: usize, nz: usize,
): i32 {
  let top: usize = STACK;
  let node = from;
  while (true) {
    if (node >= 0) {
      const b = nodes + <usize>node * NODE_BYTES;
      let mask = boxesMet(b, ox4, oy4, oz4, ix4, iy4, iz4, near4, far4, nx, ny, nz);
      if (mask != 0) {
        const links = b + 96;
        while (true) {
          const link = load<i32>(links + (<usize>ctz(mask) << 2));
          mask &= mask - 1;
          if (mask == 0) {
            node = link;
            break;
          }
          store<i32>(top, link);
          top += 4;
        }
        continue;
      }
    } else {
      const g = groups + <usize>~node * GROUP_BYTES;
      const e1x = load4(g + 48);
      const e1y = load4(g + 64);
      const e1z = load4(g + 80);
      const e2x = load4(g + 96);
      const e2y = load4(g + 112);
      const e2z = load4(g + 128);
      const px = f32x4.sub(f32x4.mul(dy4, e2z), f32x4.mul(dz4, e2y));
      const py = f32x4.sub(f32x4.mul(dz4, e2x), f32x4.mul(dx4, e2z));
      const pz = f32x4.sub(f32x4.mul(dx4, e2y), f32x4.mul(dy4, e2x));
      const inverse = f32x4.div(
        f32x4.splat(1),
        f32x4.add(f32x4.add(f32x4.mul(e1x, px), f32x4.mul(e1y, py)), f32x4.mul(e1z, pz)),
      );
      const sx = f32x4.sub(ox4, load4(g));
      const sy = f32x4.sub(oy4, load4(g + 16));
      const sz = f32x4.sub(oz4, load4(g + 32));
      const u = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(sx, px), f32x4.mul(sy, py)), f32x4.mul(sz, pz)), inverse);
      const qx = f32x4.sub(f32x4.mul(sy, e1z), f32x4.mul(sz, e1y));
      const qy = f32x4.sub(f32x4.mul(sz, e1x), f32x4.mul(sx, e1z));
      const qz = f32x4.sub(f32x4.mul(sx, e1y), f32x4.mul(sy, e1x));
      const v = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(dx4, qx), f32x4.mul(dy4, qy)), f32x4.mul(dz4, qz)), inverse);
      const t = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(e2x, qx), f32x4.mul(e2y, qy)), f32x4.mul(e2z, qz)), inverse);
      let ok = v128.and(f32x4.ge(u, f32x4.splat(-SLACK)), f32x4.ge(v, f32x4.splat(-SLACK)));
      ok = v128.and(ok, f32x4.le(f32x4.add(u, v), f32x4.splat(1 + SLACK)));
      ok = v128.and(ok, v128.and(f32x4.ge(t, near4), f32x4.le(t, far4)));
      if (v128.any_true(ok)) return 1;
    }
    if (top == STACK) return 0;
    top -= 4;
    node = load<i32>(top);
  }
}

/** Where a texel's look round begins: boxes in fours as in a node, then their links. */
const FRONT: usize = 4096;
const FRONT_BYTES: usize = 112;
const MOST_FRONT: i32 = 256;

/**
 * How many of `count` rays from a point leave without meeting anything nearer than `far`; all must lie above the
 * plane of a normal. `rays` is the byte offset of their directions, x of all, then y, then z; those of rays that
 * met something are 0 afterwards.
 * The walk down to where the point lies is the same for all of them: it is made once. What it passes by is put in
 * a list of boxes, but for what lies wholly under the plane or out of reach, and every ray begins with that list.
 * In one piece, with all in locals, like `first`.
 */
export function sky(
  nodes: usize, groups: usize, root: i32,
  ox: f32, oy: f32, oz: f32, ux: f32, uy: f32, uz: f32, rays: usize, count: i32, far: f32,
): i32 {
  const ox4 = f32x4.splat(ox);
  const oy4 = f32x4.splat(oy);
  const oz4 = f32x4.splat(oz);
  const ux4 = f32x4.splat(ux);
  const uy4 = f32x4.splat(uy);
  const uz4 = f32x4.splat(uz);
  const far4 = f32x4.splat(far);
  const far2 = f32x4.mul(f32x4.splat(far), f32x4.splat(far * 1.00001));
  const none = f32x4.splat(0);
  // A little under the plane counts as above it: corners are rounded.
  const under = f32x4.splat(-1e-6 * (abs(ox) + abs(oy) + abs(oz)));
  // Where the corner of a box that reaches highest above the plane lies.
  const hx: usize = ux > 0 ? 48 : 0;
  const hy: usize = uy > 0 ? 64 : 16;
  const hz: usize = uz > 0 ? 80 : 32;
  let front: i32 = 0;
  let top: usize = STACK;
  let node = root;
  while (true) {
    const b = nodes + <usize>node * NODE_BYTES;
    const lowX = f32x4.sub(load4(b), ox4);
    const lowY = f32x4.sub(load4(b + 16), oy4);
    const lowZ = f32x4.sub(load4(b + 32), oz4);
    const highX = f32x4.sub(load4(b + 48), ox4);
    const highY = f32x4.sub(load4(b + 64), oy4);
    const highZ = f32x4.sub(load4(b + 80), oz4);
    const height = f32x4.add(
      f32x4.add(
        f32x4.mul(f32x4.sub(load4(b + hx), ox4), ux4),
        f32x4.mul(f32x4.sub(load4(b + hy), oy4), uy4),
      ),
      f32x4.mul(f32x4.sub(load4(b + hz), oz4), uz4),
    );
    const gapX = f32x4.max(none, f32x4.max(lowX, f32x4.neg(highX)));
    const gapY = f32x4.max(none, f32x4.max(lowY, f32x4.neg(highY)));
    const gapZ = f32x4.max(none, f32x4.max(lowZ, f32x4.neg(highZ)));
    const gap2 = f32x4.add(f32x4.add(f32x4.mul(gapX, gapX), f32x4.mul(gapY, gapY)), f32x4.mul(gapZ, gapZ));
    let mask = i32x4.bitmask(v128.and(f32x4.ge(height, under), f32x4.le(gap2, far2)));
    const inside = i32x4.bitmask(f32x4.eq(gap2, none));
    while (mask != 0) {
      const bit = ctz(mask);
      mask &= mask - 1;
      const lane = <usize>bit << 2;
      const link = load<i32>(b + 96 + lane);
      if (link < 0 && allUnder(groups + <usize>~link * GROUP_BYTES, ox4, oy4, oz4, ux4, uy4, uz4, under)) continue;
      // Each node that waits adds four boxes at most.
      const room = MOST_FRONT - 16 - front - <i32>(top - STACK);
      if (link >= 0 && ((inside >> bit) & 1) != 0 && room > 0) {
        store<i32>(top, link);
        top += 4;
        continue;
      }
      const to = FRONT + <usize>(front >> 2) * FRONT_BYTES + (<usize>(front & 3) << 2);
      store<f32>(to, load<f32>(b + lane));
      store<f32>(to + 16, load<f32>(b + 16 + lane));
      store<f32>(to + 32, load<f32>(b + 32 + lane));
      store<f32>(to + 48, load<f32>(b + 48 + lane));
      store<f32>(to + 64, load<f32>(b + 64 + lane));
      store<f32>(to + 80, load<f32>(b + 80 + lane));
      store<i32>(to + 96, link);
      front++;
    }
    if (top == STACK) break;
    top -= 4;
    node = load<i32>(top);
  }
  if (front == 0) return count;
  // What is left of the last four boxes is met by nothing.
  for (let k = front; (k & 3) != 0; k++) {
    const to = FRONT + <usize>(k >> 2) * FRONT_BYTES + (<usize>(k & 3) << 2);
    store<f32>(to, f32.MAX_VALUE);
    store<f32>(to + 16, f32.MAX_VALUE);
    store<f32>(to + 32, f32.MAX_VALUE);
    store<f32>(to + 48, -f32.MAX_VALUE);
    store<f32>(to + 64, -f32.MAX_VALUE);
    store<f32>(to + 80, -f32.MAX_VALUE);
  }
  const last = FRONT + <usize>((front - 1) >> 2) * FRONT_BYTES;
  const row = <usize>count << 2;
  let open: i32 = 0;
  for (let i: usize = 0; i < row; i += 4) {
    const dx = load<f32>(rays + i);
    const dy = load<f32>(rays + row + i);
    const dz = load<f32>(rays + 2 * row + i);
    const ix: f32 = 1 / (dx == 0 ? 1e-30 : dx);
    const iy: f32 = 1 / (dy == 0 ? 1e-30 : dy);
    const iz: f32 = 1 / (dz == 0 ? 1e-30 : dz);
    const ix4 = f32x4.splat(ix);
    const iy4 = f32x4.splat(iy);
    const iz4 = f32x4.splat(iz);
    const nx: usize = ix < 0 ? 48 : 0;
    const ny: usize = iy < 0 ? 64 : 16;
    const nz: usize = iz < 0 ? 80 : 32;
    let met: i32 = 0;
    // The last are the nearest.
    for (let b = last; b >= FRONT && met == 0; b -= FRONT_BYTES) {
      let mask = boxesMet(b, ox4, oy4, oz4, ix4, iy4, iz4, none, far4, nx, ny, nz);
      while (mask != 0) {
        const link = load<i32>(b + 96 + (<usize>ctz(mask) << 2));
        mask &= mask - 1;
        if (
          walk(
            nodes, groups, link, ox4, oy4, oz4,
            f32x4.splat(dx), f32x4.splat(dy), f32x4.splat(dz), ix4, iy4, iz4, none, far4, nx, ny, nz,
          )
        ) {
          met = 1;
          break;
        }
      }
    }
    if (met) {
      store<f32>(rays + i, 0);
      store<f32>(rays + row + i, 0);
      store<f32>(rays + 2 * row + i, 0);
    }
    open += 1 - met;
  }
  return open;
}

/** Whether all triangles of a group lie under a plane through the point. */
// @ts-ignore: decorator
@inline
function allUnder(g: usize, ox4: v128, oy4: v128, oz4: v128, ux4: v128, uy4: v128, uz4: v128, under: v128): bool {
  const at = f32x4.add(
    f32x4.add(
      f32x4.mul(f32x4.sub(load4(g), ox4), ux4),
      f32x4.mul(f32x4.sub(load4(g + 16), oy4), uy4),
    ),
    f32x4.mul(f32x4.sub(load4(g + 32), oz4), uz4),
  );
  const one = f32x4.add(
    f32x4.add(f32x4.mul(load4(g + 48), ux4), f32x4.mul(load4(g + 64), uy4)),
    f32x4.mul(load4(g + 80), uz4),
  );
  const two = f32x4.add(
    f32x4.add(f32x4.mul(load4(g + 96), ux4), f32x4.mul(load4(g + 112), uy4)),
    f32x4.mul(load4(g + 128), uz4),
  );
  const highest = f32x4.add(at, f32x4.max(f32x4.splat(0), f32x4.max(one, two)));
  return i32x4.bitmask(f32x4.ge(highest, under)) == 0;
}
