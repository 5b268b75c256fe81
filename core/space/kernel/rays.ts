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

/** The nearest triangle's place (4 × group + lane), or −1. `nodes` and `groups` are byte offsets. */
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
  const far4 = f32x4.splat(far);
  const nx: usize = ix < 0 ? 48 : 0;
  const ny: usize = iy < 0 ? 64 : 16;
  const nz: usize = iz < 0 ? 80 : 32;
  const fx: usize = 48 - nx;
  const fy: usize = 80 - ny;
  const fz: usize = 112 - nz;
  let top: usize = STACK;
  let node = root;
  while (true) {
    if (node >= 0) {
      const b = nodes + <usize>node * NODE_BYTES;
      let t0 = f32x4.max(near4, f32x4.mul(f32x4.sub(load4(b + nx), ox4), ix4));
      let t1 = f32x4.min(far4, f32x4.mul(f32x4.sub(load4(b + fx), ox4), ix4));
      t0 = f32x4.pmax(t0, f32x4.mul(f32x4.sub(load4(b + ny), oy4), iy4));
      t1 = f32x4.pmin(t1, f32x4.mul(f32x4.sub(load4(b + fy), oy4), iy4));
      t0 = f32x4.pmax(t0, f32x4.mul(f32x4.sub(load4(b + nz), oz4), iz4));
      t1 = f32x4.pmin(t1, f32x4.mul(f32x4.sub(load4(b + fz), oz4), iz4));
      let mask = i32x4.bitmask(f32x4.le(t0, f32x4.mul(t1, f32x4.splat(1.0000004))));
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
