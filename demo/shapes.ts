import type { Mesh } from "../core/mesh/mesh";
import { createMesh } from "../core/mesh/change-faces";

export type Point = readonly [number, number, number];

/** Collects vertices and faces of a generated mesh. */
export class Builder {
  readonly points: number[] = [];
  readonly corners: number[] = [];
  readonly starts: number[] = [0];

  vertex(x: number, y: number, z: number): number {
    return this.points.push(x, y, z) / 3 - 1;
  }

  face(...vertices: number[]): void {
    this.corners.push(...vertices);
    this.starts.push(this.corners.length);
  }

  /** Quads between two closed rings of equal size that start at vertices a and b; b lies "above" a. */
  band(a: number, b: number, around: number): void {
    for (let i = 0; i < around; i++) {
      const j = (i + 1) % around;
      this.face(a + i, a + j, b + j, b + i);
    }
  }

  /** A fan from a ring to one point; `up` says whether the point lies on the side the ring turns about. */
  fan(ring: number, around: number, tip: number, up: boolean): void {
    for (let i = 0; i < around; i++) {
      const j = (i + 1) % around;
      if (up) this.face(ring + i, ring + j, tip);
      else this.face(ring + j, ring + i, tip);
    }
  }

  mesh(material: string): Mesh {
    return createMesh({
      positions: new Float32Array(this.points),
      faceStarts: new Uint32Array(this.starts),
      corners: new Uint32Array(this.corners),
      materials: [material],
    });
  }
}

/**
 * Samples a polyline with rounded corners.
 * @param outline [x, y, rounding radius] for each corner; the ends are not rounded
 * @param step spacing of the samples on straight runs, metres
 */
export function rounded(
  outline: readonly (readonly [number, number, number?])[],
  step: number,
  arc = 8,
): [number, number][] {
  const found: [number, number][] = [];
  let from: [number, number] = [outline[0][0], outline[0][1]];
  const run = (to: [number, number]) => {
    const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
    const pieces = Math.max(1, Math.round(length / step));
    for (let i = 0; i < pieces; i++)
      found.push([
        from[0] + ((to[0] - from[0]) * i) / pieces,
        from[1] + ((to[1] - from[1]) * i) / pieces,
      ]);
    from = to;
  };
  for (let k = 1; k + 1 < outline.length; k++) {
    const [x, y, radius = 0] = outline[k];
    const before = outline[k - 1];
    const after = outline[k + 1];
    const a = Math.hypot(before[0] - x, before[1] - y);
    const b = Math.hypot(after[0] - x, after[1] - y);
    const cut = Math.min(radius, a * 0.49, b * 0.49);
    const p: [number, number] = [
      x + ((before[0] - x) * cut) / a,
      y + ((before[1] - y) * cut) / a,
    ];
    const q: [number, number] = [
      x + ((after[0] - x) * cut) / b,
      y + ((after[1] - y) * cut) / b,
    ];
    run(p);
    for (let i = 0; i < arc && cut > 0; i++) {
      const t = i / arc;
      found.push([
        (1 - t) ** 2 * p[0] + 2 * t * (1 - t) * x + t * t * q[0],
        (1 - t) ** 2 * p[1] + 2 * t * (1 - t) * y + t * t * q[1],
      ]);
    }
    from = q;
  }
  const last = outline[outline.length - 1];
  run([last[0], last[1]]);
  found.push([last[0], last[1]]);
  return found;
}

/**
 * Turns a profile about the y axis. Profile points run so that the outside is on their right going up;
 * an end on the axis closes with a fan, a profile that meets itself is a ring.
 * @param shape may move a point: given the angle, the radius, the height and the share along the profile
 */
export function lathe(
  builder: Builder,
  profile: readonly (readonly [number, number])[],
  around: number,
  shape: (
    angle: number,
    r: number,
    y: number,
    t: number,
  ) => readonly [number, number] = (_, r, y) => [r, y],
  centre: Point = [0, 0, 0],
): void {
  const closed =
    profile[0][0] > 1e-9 &&
    Math.hypot(
      profile[0][0] - profile[profile.length - 1][0],
      profile[0][1] - profile[profile.length - 1][1],
    ) < 1e-9;
  const points = closed ? profile.slice(0, -1) : profile;
  const rings: { start: number; tip: boolean }[] = [];
  points.forEach(([r, y], k) => {
    const t = k / (points.length - 1);
    if (r < 1e-9) {
      rings.push({
        start: builder.vertex(
          centre[0],
          centre[1] + shape(0, 0, y, t)[1],
          centre[2],
        ),
        tip: true,
      });
      return;
    }
    const start = builder.points.length / 3;
    for (let i = 0; i < around; i++) {
      const angle = (2 * Math.PI * i) / around;
      const [radius, height] = shape(angle, r, y, t);
      builder.vertex(
        centre[0] + radius * Math.cos(angle),
        centre[1] + height,
        centre[2] - radius * Math.sin(angle),
      );
    }
    rings.push({ start, tip: false });
  });
  const steps = closed ? rings.length : rings.length - 1;
  for (let k = 0; k < steps; k++) {
    const a = rings[k];
    const b = rings[(k + 1) % rings.length];
    if (a.tip) builder.fan(b.start, around, a.start, false);
    else if (b.tip) builder.fan(a.start, around, b.start, true);
    else builder.band(a.start, b.start, around);
  }
}

/**
 * Sweeps a cross-section along a path with a frame that does not twist (double reflection, Wang et al. 2008).
 * @param section radius at a share along the path and an angle round it
 * @param closed whether the path meets itself; else both ends get a domed cap
 */
export function tube(
  builder: Builder,
  path: readonly Point[],
  around: number,
  section: (t: number, angle: number) => number,
  closed = false,
): void {
  const frames = framesAlong(path, closed);
  const ring = (k: number, scale: number, shift: number) => {
    const { at, along, side, up } = frames[k];
    const start = builder.points.length / 3;
    const t = k / (path.length - (closed ? 0 : 1));
    for (let i = 0; i < around; i++) {
      const angle = (2 * Math.PI * i) / around;
      const r = section(t, angle) * scale;
      const c = Math.cos(angle) * r;
      const s = Math.sin(angle) * r;
      builder.vertex(
        at[0] + side[0] * c + up[0] * s + along[0] * shift,
        at[1] + side[1] * c + up[1] * s + along[1] * shift,
        at[2] + side[2] * c + up[2] * s + along[2] * shift,
      );
    }
    return start;
  };
  const rings: number[] = [];
  const dome = closed ? 0 : 4;
  const last = path.length - 1;
  const reach = (k: number) => section(k ? 1 : 0, 0) * 0.6;
  for (let d = dome; d >= 1; d--) {
    const a = (Math.PI / 2) * (d / (dome + 0.5));
    rings.push(ring(0, Math.cos(a), -Math.sin(a) * reach(0)));
  }
  for (let k = 0; k < path.length; k++) rings.push(ring(k, 1, 0));
  for (let d = 1; d <= dome; d++) {
    const a = (Math.PI / 2) * (d / (dome + 0.5));
    rings.push(ring(last, Math.cos(a), Math.sin(a) * reach(1)));
  }
  for (let k = 0; k + 1 < rings.length; k++)
    builder.band(rings[k], rings[k + 1], around);
  if (closed) {
    const twist = closingTwist(frames, around);
    const a = rings[rings.length - 1];
    for (let i = 0; i < around; i++) {
      const j = (i + 1) % around;
      builder.face(
        a + i,
        a + j,
        rings[0] + ((j + twist) % around),
        rings[0] + ((i + twist) % around),
      );
    }
  } else {
    const tip = (k: number, way: number) => {
      const { at, along } = frames[k];
      const d = way * reach(k ? 1 : 0) * 1.02;
      return builder.vertex(
        at[0] + along[0] * d,
        at[1] + along[1] * d,
        at[2] + along[2] * d,
      );
    };
    builder.fan(rings[0], around, tip(0, -1), false);
    builder.fan(rings[rings.length - 1], around, tip(last, 1), true);
  }
}

interface Frame {
  at: Point;
  along: Point;
  side: Point;
  up: Point;
}

const sub = (a: Point, b: Point): Point => [
  a[0] - b[0],
  a[1] - b[1],
  a[2] - b[2],
];
const dot = (a: Point, b: Point) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: Point, b: Point): Point => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unit = (a: Point): Point => {
  const n = Math.hypot(...a) || 1;
  return [a[0] / n, a[1] / n, a[2] / n];
};
const reflect = (a: Point, by: Point): Point => {
  const c = (2 * dot(a, by)) / (dot(by, by) || 1);
  return [a[0] - by[0] * c, a[1] - by[1] * c, a[2] - by[2] * c];
};

function framesAlong(path: readonly Point[], closed: boolean): Frame[] {
  const n = path.length;
  const tangent = (k: number) => {
    const a = closed ? path[(k + n - 1) % n] : path[Math.max(0, k - 1)];
    const b = closed ? path[(k + 1) % n] : path[Math.min(n - 1, k + 1)];
    return unit(sub(b, a));
  };
  const first = tangent(0);
  const helper: Point = Math.abs(first[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0];
  let side = unit(cross(helper, first));
  const frames: Frame[] = [];
  for (let k = 0; k < n; k++) {
    const along = tangent(k);
    if (k > 0) {
      const step = sub(path[k], path[k - 1]);
      const mirrored = reflect(side, step);
      const turned = reflect(frames[k - 1].along, step);
      side = unit(reflect(mirrored, sub(along, turned)));
    }
    frames.push({ at: path[k], along, side, up: cross(along, side) });
  }
  return frames;
}

/** How many steps round the last ring is turned against the first one. */
function closingTwist(frames: Frame[], around: number): number {
  const a = frames[frames.length - 1];
  const b = frames[0];
  const angle = Math.atan2(dot(a.side, b.up), dot(a.side, b.side));
  return (
    ((Math.round((angle / (2 * Math.PI)) * around) % around) + around) % around
  );
}

/** A closed dome (rivet, bolt head) standing on a point along a direction. */
export function dome(
  builder: Builder,
  at: Point,
  direction: Point,
  radius: number,
  height: number,
  around = 20,
  rings = 7,
): void {
  const up = unit(direction);
  const helper: Point = Math.abs(up[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0];
  const side = unit(cross(helper, up));
  const front = cross(up, side);
  const point = (r: number, h: number, angle: number) => {
    const c = Math.cos(angle) * r;
    const s = Math.sin(angle) * r;
    return builder.vertex(
      at[0] + side[0] * c + front[0] * s + up[0] * h,
      at[1] + side[1] * c + front[1] * s + up[1] * h,
      at[2] + side[2] * c + front[2] * s + up[2] * h,
    );
  };
  const starts: number[] = [];
  const bottom = point(0, 0, 0);
  for (let k = 0; k < rings; k++) {
    const a = (Math.PI / 2) * (k / rings);
    const start = builder.points.length / 3;
    for (let i = 0; i < around; i++)
      point(
        radius * Math.cos(a),
        height * Math.sin(a),
        (2 * Math.PI * i) / around,
      );
    starts.push(start);
  }
  const tip = point(0, height, 0);
  builder.fan(starts[0], around, bottom, false);
  for (let k = 0; k + 1 < rings; k++)
    builder.band(starts[k], starts[k + 1], around);
  builder.fan(starts[rings - 1], around, tip, true);
}
