import type { Bvh } from "../../space/bvh";
import { RayScene, widen } from "../../space/ray-scene";
import type { Mesh } from "../../mesh/mesh";
import { createMesh } from "../../mesh/change-faces";
import { solveCorner } from "./solve-corner";

/**
 * Edges of a cell: along axis a, a step along the next axis for bit 0, along the one after it for bit 1.
 * Edge number 4 × axis + bits.
 */
const edgeOf = (axis: number, bits: number) => 4 * axis + bits;

/** The faces of a cell: the axis they stand across and their side, with their edges in a ring. */
const FACES = [0, 1, 2].flatMap((axis) =>
  [0, 1].map((side) => {
    const u = (axis + 1) % 3;
    const v = (axis + 2) % 3;
    // For an axis b the bits are steps along b + 1 and b + 2.
    const along = (b: number, steps: Record<number, number>) =>
      edgeOf(b, steps[(b + 1) % 3] | (steps[(b + 2) % 3] << 1));
    return {
      axis,
      side,
      ring: [
        along(u, { [axis]: side, [v]: 0, [u]: 0 }),
        along(v, { [axis]: side, [u]: 1, [v]: 0 }),
        along(u, { [axis]: side, [v]: 1, [u]: 0 }),
        along(v, { [axis]: side, [u]: 0, [v]: 0 }),
      ],
      /** Corner between edge k and the one before it, as steps along u and v. */
      corners: [
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
      ],
      u,
      v,
    };
  }),
);

interface Crossing {
  x: number;
  y: number;
  z: number;
  nx: number;
  ny: number;
  nz: number;
}

/**
 * The surface between what is inside and outside: a vertex for each sheet in a cell, a quad for each edge crossed
 * (dual contouring after Ju et al. 2002).
 */
export function contour(grid: Grid, bvh: Bvh, check: () => void): Mesh {
  const { n, inside } = grid;
  const stride = [1, n[0], n[0] * n[1]];
  const scene = new RayScene([widen(bvh)]);
  const crossings = new Map<number, Crossing>();
  const turned = new Set<number>();
  const sheets = new Map<number, Uint8Array>();
  const cells: number[] = [];
  for (let z = 0; z + 1 < n[2]; z++)
    for (let y = 0; y + 1 < n[1]; y++)
      for (let x = 0; x + 1 < n[0]; x++) {
        const i = x + y * stride[1] + z * stride[2];
        const sum =
          inside[i] +
          inside[i + 1] +
          inside[i + stride[1]] +
          inside[i + 1 + stride[1]] +
          inside[i + stride[2]] +
          inside[i + 1 + stride[2]] +
          inside[i + stride[1] + stride[2]] +
          inside[i + 1 + stride[1] + stride[2]];
        if (sum === 0 || sum === 8) continue;
        cells.push(i);
        sheets.set(i, sheetsOf(inside, i, stride, turned));
      }
  partSheets(cells, sheets, inside, stride, turned);
  const points: number[] = [];
  const firstOf = new Map<number, number>();
  for (const i of cells) {
    if ((points.length & 8191) === 0) check();
    const own = sheets.get(i)!;
    const most = own.reduce((a, b) => Math.max(a, b), 0);
    firstOf.set(i, points.length / 3);
    const at = [
      i % n[0],
      Math.floor(i / n[0]) % n[1],
      Math.floor(i / stride[2]),
    ];
    for (let s = 1; s <= most; s++) {
      const found: Crossing[] = [];
      for (let e = 0; e < 12; e++)
        if (own[e] === s)
          found.push(crossingAt(grid, scene, bvh, i, e, stride, crossings));
      points.push(
        ...solveCorner(
          found,
          at.map((x, k) => grid.low[k] + x * grid.cell),
          grid.cell,
        ),
      );
    }
  }
  return createMesh({
    positions: Float32Array.from(points),
    ...quadsOf(cells, sheets, firstOf, inside, stride),
  });
}

/** The corner an edge of a cell begins at. */
const startOf = (i: number, e: number, stride: readonly number[]) => {
  const axis = e >> 2;
  return (
    i +
    (e & 1 ? stride[(axis + 1) % 3] : 0) +
    (e & 2 ? stride[(axis + 2) % 3] : 0)
  );
};

const crosses = (
  inside: Uint8Array,
  i: number,
  e: number,
  stride: readonly number[],
) => {
  const start = startOf(i, e, stride);
  return inside[start] !== inside[start + stride[e >> 2]];
};

/** A number for every face of the grid: the lowest corner and the axis it stands across. */
const faceKey = (
  i: number,
  { axis, side }: (typeof FACES)[number],
  stride: readonly number[],
) => 3 * (i + (side ? stride[axis] : 0)) + axis;

/** 12 edges: the sheet each belongs to, from 1, or 0 where no surface crosses. */
function sheetsOf(
  inside: Uint8Array,
  i: number,
  stride: readonly number[],
  turned: ReadonlySet<number>,
): Uint8Array {
  const parent = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11];
  const find = (e: number): number =>
    parent[e] === e ? e : (parent[e] = find(parent[e]));
  for (const face of FACES) {
    const cut = face.ring.filter((e) => crosses(inside, i, e, stride));
    if (cut.length === 2) parent[find(cut[0])] = find(cut[1]);
    else if (cut.length === 4) {
      const key = faceKey(i, face, stride);
      const base = i + (face.side ? stride[face.axis] : 0);
      // Each inside corner is cut off by itself; on a turned face each outside corner is.
      const lone = turned.has(key) ? 0 : 1;
      face.corners.forEach(([a, b], k) => {
        if (inside[base + a * stride[face.u] + b * stride[face.v]] !== lone)
          return;
        parent[find(face.ring[k])] = find(face.ring[(k + 3) % 4]);
      });
    }
  }
  const names = new Uint8Array(12);
  const sheet = new Uint8Array(12);
  let count = 0;
  for (let e = 0; e < 12; e++) {
    if (!crosses(inside, i, e, stride)) continue;
    const root = find(e);
    if (!names[root]) names[root] = ++count;
    sheet[e] = names[root];
  }
  return sheet;
}

/**
 * Where two neighbours each hold all four crossings of the face between them in one sheet, both sheets would meet
 * in the same edge twice. Turning the face parts them.
 */
function partSheets(
  cells: readonly number[],
  sheets: Map<number, Uint8Array>,
  inside: Uint8Array,
  stride: readonly number[],
  turned: Set<number>,
): void {
  const one = (sheet: Uint8Array, face: (typeof FACES)[number]) =>
    face.ring.every((e) => sheet[e] && sheet[e] === sheet[face.ring[0]]);
  for (let round = 0; round < 4; round++) {
    let changed = false;
    for (const i of cells)
      for (const face of FACES) {
        if (!face.side || !one(sheets.get(i)!, face)) continue;
        const other = i + stride[face.axis];
        const across = FACES.find((f) => f.axis === face.axis && !f.side)!;
        const beyond = sheets.get(other);
        if (!beyond || !one(beyond, across)) continue;
        const key = faceKey(i, face, stride);
        if (turned.has(key)) turned.delete(key);
        else turned.add(key);
        sheets.set(i, sheetsOf(inside, i, stride, turned));
        sheets.set(other, sheetsOf(inside, other, stride, turned));
        changed = true;
      }
    if (!changed) return;
  }
}

/** Where the surface crosses an edge, seen from its outer end, and the normal there. */
function crossingAt(
  grid: Grid,
  scene: RayScene,
  bvh: Bvh,
  i: number,
  e: number,
  stride: readonly number[],
  known: Map<number, Crossing>,
): Crossing {
  const axis = e >> 2;
  const start = startOf(i, e, stride);
  const key = 3 * start + axis;
  const before = known.get(key);
  if (before) return before;
  const { n, low, cell, inside } = grid;
  const from = inside[start] ? start + stride[axis] : start;
  const way = inside[start] ? -1 : 1;
  const o = [
    low[0] + (from % n[0]) * cell,
    low[1] + (Math.floor(from / n[0]) % n[1]) * cell,
    low[2] + Math.floor(from / stride[2]) * cell,
  ];
  const d = [0, 0, 0];
  d[axis] = way;
  const hit = scene.first(0, o[0], o[1], o[2], d[0], d[1], d[2], 0, cell);
  const found: Crossing = {
    x: o[0],
    y: o[1],
    z: o[2],
    nx: -d[0],
    ny: -d[1],
    nz: -d[2],
  };
  const far = hit < 0 ? 0.5 * cell : scene.distance;
  found.x += far * d[0];
  found.y += far * d[1];
  found.z += far * d[2];
  if (hit >= 0) {
    const t = bvh.triangles;
    const k = 9 * orderOf(bvh)[hit];
    let nx = t[k + 4] * t[k + 8] - t[k + 5] * t[k + 7];
    let ny = t[k + 5] * t[k + 6] - t[k + 3] * t[k + 8];
    let nz = t[k + 3] * t[k + 7] - t[k + 4] * t[k + 6];
    const size = Math.sqrt(nx * nx + ny * ny + nz * nz);
    if (size > 0) {
      const side = nx * d[0] + ny * d[1] + nz * d[2] > 0 ? -1 / size : 1 / size;
      nx *= side;
      ny *= side;
      nz *= side;
      found.nx = nx;
      found.ny = ny;
      found.nz = nz;
    }
  }
  known.set(key, found);
  return found;
}

const orders = new WeakMap<Bvh, Uint32Array>();

/** The place in the hierarchy of each triangle. */
function orderOf(bvh: Bvh): Uint32Array {
  let order = orders.get(bvh);
  if (!order) {
    order = new Uint32Array(bvh.ids.length);
    for (let s = 0; s < bvh.ids.length; s++) order[bvh.ids[s]] = s;
    orders.set(bvh, order);
  }
  return order;
}

/** A quad for every edge of the grid that the surface crosses, round the four cells at it. */
function quadsOf(
  cells: readonly number[],
  sheets: ReadonlyMap<number, Uint8Array>,
  firstOf: ReadonlyMap<number, number>,
  inside: Uint8Array,
  stride: readonly number[],
) {
  const corners: number[] = [];
  for (const i of cells)
    for (let axis = 0; axis < 3; axis++) {
      const start = i;
      if (inside[start] === inside[start + stride[axis]]) continue;
      const u = stride[(axis + 1) % 3];
      const v = stride[(axis + 2) % 3];
      const ring: number[] = [];
      for (const [a, b] of [
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
      ]) {
        const cell = start - a * u - b * v;
        const sheet = sheets.get(cell);
        if (!sheet) break;
        ring.push(firstOf.get(cell)! + sheet[edgeOf(axis, a | (b << 1))] - 1);
      }
      if (ring.length < 4) continue;
      if (!inside[start]) ring.reverse();
      corners.push(...ring);
    }
  return {
    corners: Uint32Array.from(corners),
    faceStarts: new Uint32Array(corners.length / 4 + 1).map((_, f) => 4 * f),
  };
}

/** Corners and cells over the bounds of a body. */
export interface Grid {
  /** Corners along each axis. */
  n: readonly [number, number, number];
  low: readonly [number, number, number];
  /** metres */
  cell: number;
  /** 1 inside. */
  inside: Uint8Array;
}
