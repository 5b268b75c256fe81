import { triTable } from "three/addons/objects/MarchingCubes.js";
import type { Mesh } from "../core/mesh/mesh";
import { compactVertices, meshFromTriangles } from "../core/mesh/change-faces";
import { seededRandom } from "../core/base/random";

/** How much of each kind of dirt a scan has: how many of it in 100 000 triangles, where not said otherwise. */
export interface ScanDirt {
  /** Size of the noise of each grid point, cells. */
  noise: number;
  /** Vertices pushed over an edge of their own faces. */
  folds: number;
  /** Lone triangles that stand off the surface. */
  fins: number;
  /** Patches that are there twice: half of them in the same place, half a little beside. */
  doubled: number;
  /** Faces that are there twice, half of them turned over. */
  duplicates: number;
  /** Patches that are missing. */
  holes: number;
  /** Tiny closed bodies beside the surface. */
  specks: number;
  /** Small handles; so many in all. */
  handles: number;
  /** Grid lines that the grids of two takes both have, a little apart: share of all lines. */
  shifted: number;
}

/** What merging alone makes: nothing is open, but edges of 1e-8, faces of no area, coincident vertices, slivers. */
export const MERGED: ScanDirt = {
  noise: 0.12,
  folds: 0,
  fins: 0,
  doubled: 0,
  duplicates: 0,
  holes: 0,
  specks: 0,
  handles: 6,
  shifted: 0.1,
};

/** The lot. */
export const DIRTY: ScanDirt = {
  noise: 0.25,
  folds: 60,
  fins: 60,
  doubled: 12,
  duplicates: 150,
  holes: 8,
  specks: 20,
  handles: 6,
  shifted: 0.15,
};

/** The twelve edges of a cell: the corner they leave and the axis they run along; corners are x + 2y + 4z. */
const EDGES: readonly (readonly [number, number])[] = [
  [0, 0],
  [1, 1],
  [2, 0],
  [0, 1],
  [4, 0],
  [5, 1],
  [6, 0],
  [4, 1],
  [0, 2],
  [1, 2],
  [3, 2],
  [2, 2],
];
/** The table's corners run round the bottom of a cell and round its top. */
const TABLE_CORNERS = [0, 1, 3, 2, 4, 5, 7, 6];
const BLOCK = 8;

/**
 * A surface as range scanners and their merging leave it: marching cubes (Lorensen and Cline 1987) of a noisy
 * distance field on grids that were merged a little apart, vertices rounded to single precision.
 * @param triangles about how many it gets
 */
export function scanLike(
  seed: number,
  triangles: number,
  dirt: Partial<ScanDirt> = {},
): Mesh {
  const all = { ...MERGED, ...dirt };
  const random = seededRandom(seed);
  const shape = figure(random);
  const rough = march(shape, 0.05, { ...all, handles: 0 }, seededRandom(seed));
  const cell = 0.05 * Math.sqrt(rough.corners.length / 3 / triangles);
  const scan = march(shape, cell, all, random);
  return soiled(scan, cell, all, random);
}

type Field = (x: number, y: number, z: number) => number;

/** A body of a trunk with limbs and knobs, about a metre high, and finer bumps on it. */
function figure(random: () => number): Field {
  const rods = Array.from({ length: 9 }, (_, i) => {
    const at = [0.16, 0.3, 0.16].map((reach) => reach * (2 * random() - 1));
    const to = at.map(
      (x, k) => x + (i ? 0.3 : 0.5) * (k === 1 ? 1 : 0.7) * (random() - 0.5),
    );
    return { at, to, radius: i ? 0.05 + 0.06 * random() : 0.18 };
  });
  const waves = Array.from({ length: 6 }, () => ({
    k: [0, 1, 2].map(() => 60 * (random() - 0.5)),
    turn: 6.28 * random(),
  }));
  return (x, y, z) => {
    let sum = 0;
    for (const { at, to, radius } of rods) {
      const ux = to[0] - at[0];
      const uy = to[1] - at[1];
      const uz = to[2] - at[2];
      const along =
        ((x - at[0]) * ux + (y - at[1]) * uy + (z - at[2]) * uz) /
        (ux * ux + uy * uy + uz * uz);
      const s = Math.min(1, Math.max(0, along));
      const d =
        Math.hypot(x - at[0] - s * ux, y - at[1] - s * uy, z - at[2] - s * uz) -
        radius;
      sum += Math.exp(-40 * d);
    }
    let bumps = 0;
    for (const { k, turn } of waves)
      bumps += Math.sin(k[0] * x + k[1] * y + k[2] * z + turn);
    return -Math.log(sum + 1e-300) / 40 + 0.0016 * bumps;
  };
}

/** Grid lines: even ones, and at some of them a second one, a tenth to a millionth of a cell off. */
function gridLines(cell: number, shifted: number, random: () => number) {
  const lines: number[] = [];
  for (let x = -0.95 + 0.37 * cell; x < 0.95; x += cell) {
    lines.push(x);
    if (random() < shifted) lines.push(x + cell * 10 ** (-1 - 5 * random()));
  }
  return Float64Array.from(lines);
}

interface Marched {
  points: number[];
  corners: number[];
}

/**
 * The zero surface of a field on a grid of tetrahedra.
 * In one piece: one walk over the cells fills all arrays at once.
 */
function march(
  shape: Field,
  cell: number,
  dirt: ScanDirt,
  random: () => number,
): Marched {
  const lines = [0, 1, 2].map(() => gridLines(cell, dirt.shifted, random));
  const rings = ringsOn(
    shape,
    dirt.handles,
    Math.max(3.2 * cell, 0.01),
    random,
  );
  const field: Field = (x, y, z) => {
    let d = shape(x, y, z);
    for (const { at, axis, size } of rings) {
      const u = [x - at[0], y - at[1], z - at[2]];
      const high = u[0] * axis[0] + u[1] * axis[1] + u[2] * axis[2];
      const flat = Math.hypot(
        u[0] - high * axis[0],
        u[1] - high * axis[1],
        u[2] - high * axis[2],
      );
      d = Math.min(d, Math.hypot(flat - size, high) - 0.45 * size);
    }
    return d;
  };
  const [nx, ny, nz] = lines.map((list) => list.length);
  const noiseOf = (i: number) => {
    let h = Math.imul(i + 0x9e3779b9, 0x85ebca6b);
    h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
    return ((h ^ (h >>> 16)) >>> 0) / 2 ** 31 - 1;
  };
  const points: number[] = [];
  const corners: number[] = [];
  const vertexOf = new Map<number, number>();
  const side = BLOCK + 1;
  const values = new Float64Array(side ** 3);
  const index = (x: number, y: number, z: number) => x + nx * (y + ny * z);
  const vertexAt = (
    x: number,
    y: number,
    z: number,
    axis: number,
    a: number,
    b: number,
  ) => {
    const key = 3 * index(x, y, z) + axis;
    const known = vertexOf.get(key);
    if (known !== undefined) return known;
    const at = [lines[0][x], lines[1][y], lines[2][z]];
    const step = [x, y, z][axis];
    const s = a / (a - b);
    at[axis] += s * (lines[axis][step + 1] - lines[axis][step]);
    const v = points.length / 3;
    points.push(at[0], at[1], at[2]);
    vertexOf.set(key, v);
    return v;
  };
  for (let bz = 0; bz + 1 < nz; bz += BLOCK)
    for (let by = 0; by + 1 < ny; by += BLOCK)
      for (let bx = 0; bx + 1 < nx; bx += BLOCK) {
        const ex = Math.min(nx - 1, bx + BLOCK);
        const ey = Math.min(ny - 1, by + BLOCK);
        const ez = Math.min(nz - 1, bz + BLOCK);
        const middle = [
          (lines[0][bx] + lines[0][ex]) / 2,
          (lines[1][by] + lines[1][ey]) / 2,
          (lines[2][bz] + lines[2][ez]) / 2,
        ];
        const reach = Math.hypot(
          lines[0][ex] - middle[0],
          lines[1][ey] - middle[1],
          lines[2][ez] - middle[2],
        );
        const far = field(middle[0], middle[1], middle[2]);
        if (Math.abs(far) > 1.4 * reach + 0.02) continue;
        for (let z = bz; z <= ez; z++)
          for (let y = by; y <= ey; y++)
            for (let x = bx; x <= ex; x++)
              values[x - bx + side * (y - by + side * (z - bz))] =
                field(lines[0][x], lines[1][y], lines[2][z]) +
                dirt.noise * cell * noiseOf(index(x, y, z));
        for (let z = bz; z < ez; z++)
          for (let y = by; y < ey; y++)
            for (let x = bx; x < ex; x++) {
              const at = (k: number) =>
                values[
                  x -
                    bx +
                    (k & 1) +
                    side *
                      (y - by + ((k >> 1) & 1) + side * (z - bz + (k >> 2)))
                ];
              let code = 0;
              TABLE_CORNERS.forEach((k, bit) => {
                if (at(k) < 0) code |= 1 << bit;
              });
              // The table runs clockwise round what is inside.
              for (let i = 16 * code + last(code); i >= 16 * code; i--) {
                const [from, axis] = EDGES[triTable[i]];
                corners.push(
                  vertexAt(
                    x + (from & 1),
                    y + ((from >> 1) & 1),
                    z + (from >> 2),
                    axis,
                    at(from),
                    at(from + (1 << axis)),
                  ),
                );
              }
            }
      }
  return { points, corners };
}

/** The last place of a code's row that is used; below 0 for none. */
function last(code: number): number {
  let i = 0;
  while (triTable[16 * code + i] >= 0) i++;
  return i - 1;
}

/** Small rings that stand on the surface, so that it gets handles. */
function ringsOn(
  shape: Field,
  count: number,
  size: number,
  random: () => number,
) {
  const found: { at: number[]; axis: number[]; size: number }[] = [];
  while (found.length < count) {
    const d = direction(random);
    let at = d.map((x) => 0.9 * x);
    let far = Infinity;
    for (let i = 0; i < 80 && far > 1e-4; i++) {
      far = shape(at[0], at[1], at[2]);
      at = at.map((x, k) => x - 0.7 * far * d[k]);
    }
    // The ring's axis lies in the surface, so that half of it stands out.
    const other = direction(random);
    const along = other[0] * d[0] + other[1] * d[1] + other[2] * d[2];
    const flat = other.map((x, k) => x - along * d[k]);
    const length = Math.hypot(...flat) || 1;
    if (far <= 1e-4)
      found.push({ at, axis: flat.map((x) => x / length), size });
  }
  return found;
}

function direction(random: () => number): number[] {
  const y = 2 * random() - 1;
  const a = 2 * Math.PI * random();
  const r = Math.sqrt(1 - y * y);
  return [r * Math.cos(a), y, r * Math.sin(a)];
}

/**
 * Folds, fins, doubled patches, duplicates, holes and specks, at their rates.
 * In one piece: each kind of dirt goes onto what the one before left.
 */
function soiled(
  { points, corners }: Marched,
  cell: number,
  dirt: ScanDirt,
  random: () => number,
): Mesh {
  const count = corners.length / 3;
  const neighbours = new Map<number, number[]>();
  for (let c = 0; c < corners.length; c++) {
    const list = neighbours.get(corners[c]);
    if (list) list.push((c / 3) | 0);
    else neighbours.set(corners[c], [(c / 3) | 0]);
  }
  const patch = (size: number): number[] => {
    const list = [Math.floor(random() * count)];
    const known = new Set(list);
    for (let i = 0; i < list.length && list.length < size; i++)
      for (let k = 0; k < 3; k++)
        for (const t of neighbours.get(corners[3 * list[i] + k])!)
          if (!known.has(t)) {
            known.add(t);
            list.push(t);
          }
    return list.slice(0, size);
  };
  const times = (rate: number, work: () => void) => {
    const wanted = Math.round((rate * count) / 1e5 + (rate ? 0.4 : 0));
    for (let i = 0; i < wanted; i++) work();
  };
  const point = (v: number) => points.slice(3 * v, 3 * v + 3);
  times(dirt.folds, () => {
    const t = Math.floor(random() * count);
    const [a, b, c] = corners.slice(3 * t, 3 * t + 3);
    for (let k = 0; k < 3; k++)
      points[3 * a + k] +=
        1.4 * ((points[3 * b + k] + points[3 * c + k]) / 2 - points[3 * a + k]);
  });
  times(dirt.fins, () => {
    const t = Math.floor(random() * count);
    const [a, b] = corners.slice(3 * t, 3 * t + 2);
    const off = direction(random);
    const v = points.length / 3;
    points.push(...point(a).map((x, k) => x + 2 * cell * off[k]));
    corners.push(a, b, v);
  });
  times(dirt.doubled, () => {
    const beside = random() < 0.5 ? 0 : 0.05 * cell;
    const copies = new Map<number, number>();
    for (const t of patch(20 + Math.floor(60 * random())))
      for (let k = 0; k < 3; k++) {
        const v = corners[3 * t + k];
        if (!copies.has(v)) {
          copies.set(v, points.length / 3);
          points.push(...point(v).map((x) => x + beside));
        }
        corners.push(copies.get(v)!);
      }
  });
  times(dirt.duplicates, () => {
    const t = Math.floor(random() * count);
    const [a, b, c] = corners.slice(3 * t, 3 * t + 3);
    corners.push(a, ...(random() < 0.5 ? [b, c] : [c, b]));
  });
  times(dirt.specks, () => {
    const t = Math.floor(random() * count);
    const off = direction(random);
    const at = point(corners[3 * t]).map(
      (x, k) => x + cell * (2 + 6 * random()) * off[k],
    );
    const size = cell * (0.2 + random());
    const base = points.length / 3;
    for (let axis = 0; axis < 3; axis++)
      for (const sign of [-1, 1])
        points.push(...at.map((x, k) => x + (k === axis ? sign * size : 0)));
    for (let k = 0; k < 8; k++) {
      const [x, y, z] = [k & 1, (k >> 1) & 1, k >> 2];
      const turn = (x + y + z) % 2 === 1;
      const [i, j] = turn ? [2 + y, 4 + z] : [4 + z, 2 + y];
      corners.push(base + x, base + i, base + j);
    }
  });
  const gone = new Uint8Array(corners.length / 3);
  times(dirt.holes, () => {
    for (const t of patch(4 + Math.floor(40 * random()))) gone[t] = 1;
  });
  const kept: number[] = [];
  for (let c = 0; c < corners.length; c++)
    if (!gone[(c / 3) | 0]) kept.push(corners[c]);
  return compactVertices(
    meshFromTriangles(Float32Array.from(points), Uint32Array.from(kept)),
  );
}
