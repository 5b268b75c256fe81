import earcut from "earcut";
import type { Mesh } from "../core/mesh/mesh";
import { meshFromTriangles } from "../core/mesh/change-faces";
import {
  multiply,
  rotation,
  transformMesh,
  translation,
} from "../core/mesh/transform";
import { seededRandom } from "../core/base/random";
import { joined, moved } from "./shapes";

/** How CAD parts are tessellated. */
export interface CadDirt {
  /** Share of the borders between patches at which both sides have other vertices. */
  apart: number;
  /** Share of the parts whose bottom is open. */
  open: number;
  /** Faces of no area, for every thousand. */
  noArea: number;
  /** Share of the patches of turned parts that do not close: their last faces reach across to the part's first vertex. */
  strays: number;
}

export const CAD_DIRT: CadDirt = {
  apart: 0.5,
  open: 0.3,
  noArea: 20,
  strays: 0,
};

type Point = readonly [number, number, number];
type Flat = readonly [number, number];

/** Patches of triangles that share no vertices with each other. */
class Patches {
  readonly points: number[] = [];
  readonly corners: number[] = [];

  vertex(p: Point): number {
    this.points.push(...p);
    return this.points.length / 3 - 1;
  }

  triangle(a: number, b: number, c: number): void {
    this.corners.push(a, b, c);
  }

  mesh(): Mesh {
    return meshFromTriangles(
      Float32Array.from(this.points),
      Uint32Array.from(this.corners),
    );
  }
}

/** A closed curve of the plane: 0 … 1 round it, counter-clockwise. */
interface Curve {
  at(s: number): Flat;
  /** Where it has corners: every tessellation has a vertex there. */
  corners: readonly number[];
  /** Vertices its tessellation has at least. */
  fewest: number;
}

const circle = (x: number, y: number, r: number): Curve => ({
  at: (s) => [
    x + r * Math.cos(2 * Math.PI * s),
    y + r * Math.sin(2 * Math.PI * s),
  ],
  corners: [0],
  fewest: 6,
});

/** A rectangle with round corners; its straight runs get no vertices of their own. */
function rounded(w: number, h: number, r: number): Curve {
  const centres: Flat[] = [
    [w - r, h - r],
    [r - w, h - r],
    [r - w, r - h],
    [w - r, r - h],
  ];
  return {
    at: (s) => {
      const q = 4 * (((s % 1) + 1) % 1);
      const k = Math.min(3, Math.floor(q));
      const t = q - k;
      const arc = (share: number): Flat => {
        const a = (Math.PI / 2) * (k + share);
        return [
          centres[k][0] + r * Math.cos(a),
          centres[k][1] + r * Math.sin(a),
        ];
      };
      if (t <= 0.75) return arc(t / 0.75);
      const from = arc(1);
      const a = (Math.PI / 2) * (k + 1);
      const next = centres[(k + 1) % 4];
      const to: Flat = [next[0] + r * Math.cos(a), next[1] + r * Math.sin(a)];
      const share = (t - 0.75) / 0.25;
      return [
        from[0] + share * (to[0] - from[0]),
        from[1] + share * (to[1] - from[1]),
      ];
    },
    corners: [0, 1, 2, 3].flatMap((k) => [k / 4, (k + 0.75) / 4]),
    fewest: 16,
  };
}

/** Parameters of a tessellation with about n vertices, corners among them; the straight runs stay whole. */
function steps(curve: Curve, n: number): number[] {
  const found: number[] = [];
  const { corners } = curve;
  corners.forEach((from, i) => {
    const to = i + 1 < corners.length ? corners[i + 1] : 1 + corners[0];
    const straight = corners.length > 1 && i % 2 === 1;
    const count = straight ? 1 : Math.max(1, Math.round(n * (to - from)));
    for (let k = 0; k < count; k++)
      found.push(from + ((to - from) * k) / count);
  });
  return found;
}

interface Making {
  patches: Patches;
  random: () => number;
  dirt: CadDirt;
}

/** The vertices that one side of a border has: the same as the other or, now and then, other ones. */
const other = ({ random, dirt }: Making, n: number) =>
  Math.max(5, Math.round(random() < dirt.apart ? n * (0.6 + random()) : n));

/** A plate of an outline with holes in it: two flat faces in long slivers, and a wall for each curve. */
function plate(
  making: Making,
  outline: Curve,
  holes: readonly Curve[],
  low: number,
  high: number,
  detail: number,
  open: boolean,
): void {
  const curves = [outline, ...holes];
  const counts = curves.map((curve) =>
    Math.max(curve.fewest, Math.round(detail)),
  );
  for (const z of open ? [high] : [low, high]) {
    const rings = curves.map((curve, i) =>
      steps(curve, other(making, counts[i])).map((s) => curve.at(s)),
    );
    const flat = rings.flat(2);
    const starts: number[] = [];
    rings.slice(0, -1).reduce((sum, ring) => {
      starts.push(sum + ring.length);
      return sum + ring.length;
    }, 0);
    const names = rings
      .flat()
      .map(([x, y]) => making.patches.vertex([x, y, z]));
    const ears = earcut(flat, starts);
    for (let i = 0; i < ears.length; i += 3) {
      const [a, b, c] = [ears[i], ears[i + 1], ears[i + 2]].map(
        (k) => names[k],
      );
      if (up(flat, ears[i], ears[i + 1], ears[i + 2]) === (z === high))
        making.patches.triangle(a, b, c);
      else making.patches.triangle(a, c, b);
    }
  }
  curves.forEach((curve, i) => {
    const ring = steps(curve, counts[i]);
    const column = (s: number) =>
      [low, high].map((z) => making.patches.vertex([...curve.at(s), z]));
    let before = column(ring[0]);
    const first = before;
    ring.forEach((_, k) => {
      const now = k + 1 < ring.length ? column(ring[k + 1]) : first;
      const [a, d] = before;
      const [b, c] = now;
      if (i) {
        making.patches.triangle(a, c, b);
        making.patches.triangle(a, d, c);
      } else {
        making.patches.triangle(a, b, c);
        making.patches.triangle(a, c, d);
      }
      before = now;
    });
  });
}

const up = (p: readonly number[], a: number, b: number, c: number) =>
  (p[2 * b] - p[2 * a]) * (p[2 * c + 1] - p[2 * a + 1]) -
    (p[2 * b + 1] - p[2 * a + 1]) * (p[2 * c] - p[2 * a]) >
  0;

/** A turned part: one patch for each straight piece of its profile, long thin triangles round it. */
function turned(
  making: Making,
  profile: readonly Flat[],
  detail: number,
  open: boolean,
): void {
  const { patches } = making;
  for (let i = open ? 1 : 0; i + 1 < profile.length; i++) {
    const around = other(making, detail);
    const ring = (k: number) =>
      Array.from({ length: profile[k][0] ? around : 1 }, (_, j) => {
        const a = (2 * Math.PI * j) / around;
        const [r, z] = profile[k];
        return patches.vertex([r * Math.cos(a), r * Math.sin(a), z]);
      });
    const lower = ring(i);
    const upper = ring(i + 1);
    const { strays } = making.dirt;
    const astray = strays > 0 && making.random() < strays;
    for (let j = 0; j < around; j++) {
      const next = (j + 1) % around;
      const [a, b] = [lower[j % lower.length], lower[next % lower.length]];
      const [d, c] = [upper[j % upper.length], upper[next % upper.length]];
      if (astray && !next) patches.triangle(a, 0, d);
      else {
        if (a !== b) patches.triangle(a, b, c);
        if (c !== d) patches.triangle(a, c, d);
      }
    }
  }
}

/** One part of about so many triangles: a drilled plate, or a turned body with grooves. */
export function cadPart(
  seed: number,
  triangles: number,
  dirt: Partial<CadDirt> = {},
): Mesh {
  const random = seededRandom(seed);
  const all = { ...CAD_DIRT, ...dirt };
  const making: Making = { patches: new Patches(), random, dirt: all };
  const open = random() < all.open;
  const size = 0.1 + 0.2 * random();
  if (random() < 0.55) {
    const holes = 3 + Math.floor(9 * random());
    const across = Math.ceil(Math.sqrt(holes));
    const [w, h] = [size, size * (0.5 + 0.4 * random())];
    const places = Array.from({ length: holes }, (_, i) => {
      const x = ((i % across) + 0.5) / across;
      const y = (Math.floor(i / across) + 0.5) / across;
      const r = ((0.12 + 0.2 * random()) * Math.min(w, h) * 1.4) / across;
      return circle(1.5 * w * (x - 0.5), 1.5 * h * (y - 0.5), r);
    });
    const detail = triangles / (holes + 1) / 4;
    const thick = size * (0.05 + 0.4 * random());
    plate(making, rounded(w, h, 0.15 * size), places, 0, thick, detail, open);
    if (random() < 0.5)
      plate(
        making,
        rounded(0.3 * w, 0.9 * h, 0.05 * size),
        [],
        thick,
        2 * thick,
        detail,
        random() < all.open,
      );
  } else {
    const rings = 4 + Math.floor(6 * random());
    const profile: Flat[] = [[0, 0]];
    let z = 0;
    let r: number;
    for (let i = 0; i < rings; i++) {
      r = size * (0.2 + 0.5 * random());
      profile.push([r, z]);
      z += size * (0.08 + 0.25 * random());
      profile.push([r * (random() < 0.3 ? 0.9 : 1), z]);
    }
    profile.push([0, z]);
    turned(making, profile, triangles / (4 * rings + 2), open);
  }
  return withoutArea(making.patches.mesh(), all, random);
}

/** Largest part that is drawn in one: what has more triangles is made of several. */
const LARGEST_PART = 50_000;

/** Parts side by side as one mesh: what a CAD program has of many triangles is many pieces, not one. */
export function cadMachine(seed: number, triangles: number): Mesh {
  const count = Math.ceil(triangles / LARGEST_PART);
  const across = Math.ceil(Math.sqrt(count));
  return joined(
    ...Array.from({ length: count }, (_, i) =>
      moved(
        cadPart(1000 * seed + i, triangles / count),
        i % across,
        0,
        Math.floor(i / across),
      ),
    ),
  );
}

/** Adds faces of no area at edges: CAD leaves them where curves run out. */
function withoutArea(mesh: Mesh, dirt: CadDirt, random: () => number): Mesh {
  const count = mesh.corners.length / 3;
  const points = [...mesh.positions];
  const corners = [...mesh.corners];
  for (let i = 0; i < (dirt.noArea * count) / 1000; i++) {
    const t = Math.floor(random() * count);
    const [a, b] = mesh.corners.subarray(3 * t, 3 * t + 2);
    const s = random();
    for (let k = 0; k < 3; k++)
      points.push(
        mesh.positions[3 * a + k] * (1 - s) + mesh.positions[3 * b + k] * s,
      );
    corners.push(a, b, points.length / 3 - 1);
  }
  return meshFromTriangles(
    Float32Array.from(points),
    Uint32Array.from(corners),
  );
}

export interface CadAssembly {
  parts: { name: string; mesh: Mesh }[];
  /** Names of the parts that nobody sees from outside. */
  hidden: string[];
}

/**
 * Parts that lie in each other's way, half of them in a closed housing.
 * @param triangles about how many they have altogether
 */
export function cadAssembly(
  seed: number,
  count: number,
  triangles: number,
  dirt: Partial<CadDirt> = {},
): CadAssembly {
  const random = seededRandom(seed);
  const each = triangles / count;
  const inside = Math.floor(count / 2);
  const parts: CadAssembly["parts"] = [];
  const hidden: string[] = [];
  const side = 1;
  for (let i = 0; i + 1 < count; i++) {
    const name = `part ${i + 1}`;
    const mesh = cadPart(1000 * seed + i, each * (0.4 + 1.2 * random()), dirt);
    const turn = rotation([0.48, 0.6, 0.64], 6.28 * random());
    let at: number[];
    if (i < inside) {
      hidden.push(name);
      at = [0, 1, 2].map(() => 0.9 * (random() - 0.5));
    } else {
      // On the outside of one of the housing's faces.
      const axis = i % 3;
      at = [0, 1, 2].map((k) =>
        k === axis ? (i % 2 ? 1.25 : -1.25) : 1.5 * (random() - 0.5),
      );
    }
    parts.push({
      name,
      mesh: transformMesh(
        mesh,
        multiply(translation(at[0], at[1], at[2]), turn),
      ),
    });
  }
  const housing: Making = {
    patches: new Patches(),
    random,
    dirt: { ...CAD_DIRT, ...dirt },
  };
  plate(housing, rounded(side, side, 0.2), [], -side, side, each / 4, false);
  parts.push({
    name: "housing",
    mesh: withoutArea(housing.patches.mesh(), housing.dirt, random),
  });
  return { parts, hidden };
}
