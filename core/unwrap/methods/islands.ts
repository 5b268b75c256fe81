import type { Chart } from "./chart";
import type { UnwrapMesh } from "./unwrap-mesh";
import { acrossCorner } from "./chart";
import { cutToDisc, dartTo } from "./cut";
import { splitAtNeck } from "./seams/neck";
import type { Flat } from "./flatten";
import { flatten } from "./flatten";
import { alignToBox, bulkOf } from "./pack/turned";
import { splitFaces } from "./split";

export interface SeamRules {
  /** L2 stretch an island may have, 1 for none. */
  stretch: number;
  /** Spread of density an island may have (standard deviation of the log). */
  spread: number;
  /** Length an island may have, metres. */
  length: number;
  /** Share of its smallest box that a large island covers at least: bent strips waste the sheet. */
  bulk: number;
  /** Area from which an island counts as large, m². */
  large: number;
}

export interface LaidIsland {
  chart: Chart;
  flat: Flat;
}

/** Joining two islands must leave one that packs well. */
const JOINED_BULK = 0.4;

/**
 * Finds islands of a mesh that lay flat within the rules: starts from whole connected pieces, cuts each to a
 * disc, lays it out, and splits what stretches, overlaps itself or is too long; then joins neighbours again
 * where one island serves as well as two.
 *
 * Notes: going down from whole pieces finds few islands on smooth bodies; growing small ones together needed
 * some five times the layouts for more seams.
 */
export function findIslands(
  m: UnwrapMesh,
  rules: SeamRules,
  onLaid: (faces: number) => void,
): LaidIsland[] {
  const label = new Int32Array(m.areas.length).fill(-1);
  const waiting = connectedFaces(m);
  const islands = new Map<number, LaidIsland>();
  let next = 0;
  while (waiting.length) {
    const faces = waiting.pop()!;
    const own = next++;
    for (const f of faces) label[f] = own;
    let laid = tryLay(m, faces, label, own, rules, 0);
    const necks = laid.ok ? null : splitAtNeck(m, faces);
    if (necks) {
      waiting.push(...necks);
      continue;
    }
    if (!laid.ok && !laid.tooLong)
      laid = tryLay(m, faces, label, own, rules, DARTS);
    if (laid.ok || faces.length === 1) {
      islands.set(own, laid.island ?? single(m, faces, label, own));
      onLaid(faces.length);
    } else {
      const sets = splitFaces(m, faces, laid.tooLong);
      waiting.push(...(sets.length > 1 ? sets : halves(faces)));
    }
  }
  joinIslands(m, label, islands, rules, () => next++);
  return [...islands.values()];
}

/** Sets of faces that are joined across edges at which UVs may run on. */
export function connectedFaces(m: UnwrapMesh): number[][] {
  const seen = new Uint8Array(m.areas.length);
  const sets: number[][] = [];
  for (let f = 0; f < seen.length; f++) {
    if (seen[f]) continue;
    const set: number[] = [];
    const stack = [f];
    seen[f] = 1;
    while (stack.length) {
      const at = stack.pop()!;
      set.push(at);
      for (let c = m.mesh.faceStarts[at]; c < m.mesh.faceStarts[at + 1]; c++) {
        const other = acrossCorner(m, c);
        if (other >= 0 && !seen[other]) {
          seen[other] = 1;
          stack.push(other);
        }
      }
    }
    sets.push(set);
  }
  return sets.reverse();
}

interface Tried {
  ok: boolean;
  /** Even, but longer or more bent than an island should be. */
  tooLong: boolean;
  island: LaidIsland | null;
}

/** Cuts from the border to where a layout is tightest, before faces are parted. */
const DARTS = 3;

/** Lays faces out, with cuts that open them up to `darts` times where that does not come out even. */
function tryLay(
  m: UnwrapMesh,
  faces: number[],
  label: Int32Array,
  own: number,
  rules: SeamRules,
  darts: number,
): Tried {
  const nothing = { ok: false, tooLong: false, island: null };
  const disc = cutToDisc(m, faces, label, own);
  if (!disc) return nothing;
  let { chart } = disc;
  let flat = flatten(chart, { wanted: rules });
  for (let k = 0; k < darts && !isEven(flat, rules) && flat.tight >= 0; k++) {
    const path = dartTo(m, chart, disc.cuts, flat.tight);
    if (!path.length) break;
    const cuts = new Set([...disc.cuts, ...path]);
    const opened = cutToDisc(m, faces, label, own, cuts);
    if (!opened) break;
    const next = flatten(opened.chart, { wanted: rules });
    if (!(badness(next, rules) < 0.8 * badness(flat, rules))) break;
    disc.cuts = opened.cuts;
    chart = opened.chart;
    flat = next;
  }
  const even = isEven(flat, rules);
  const long = lengthOf(chart, flat) > rules.length;
  const bent = even && rules.bulk > 0 && isBent(m, chart, flat, rules);
  return {
    ok: even && !long && !bent && !flat.overlaps,
    tooLong: even && (long || bent) && !flat.overlaps,
    island: { chart, flat },
  };
}

const isEven = (flat: Flat, rules: SeamRules) =>
  flat.flipped === 0 &&
  flat.stretch <= rules.stretch &&
  flat.spread <= rules.spread;

/** How far from even a layout is, 1 for just so. */
const badness = (flat: Flat, rules: SeamRules) =>
  Math.max(
    (flat.stretch - 1) / (rules.stretch - 1),
    flat.spread / rules.spread,
  );

function isBent(
  m: UnwrapMesh,
  chart: Chart,
  flat: Flat,
  rules: SeamRules,
): boolean {
  const area = chart.faces.reduce((sum, f) => sum + m.areas[f], 0);
  return (
    area > rules.large &&
    bulkOf({ triangles: trianglesOf(chart, flat) }) < rules.bulk
  );
}

/**
 * The laid out triangles of an island, 6 numbers each, metres.
 * @returns 6 × triangleCount: three points each, metres
 */
export function trianglesOf(chart: Chart, flat: Flat): Float64Array {
  const triangles = new Float64Array(chart.triangles.length * 2);
  for (let i = 0; i < chart.triangles.length; i++) {
    triangles[2 * i] = flat.uv[2 * chart.triangles[i]];
    triangles[2 * i + 1] = flat.uv[2 * chart.triangles[i] + 1];
  }
  return triangles;
}

/** Diagonal of the smallest box, however the layout is turned. */
function lengthOf(chart: Chart, flat: Flat): number {
  const { width, height } = alignToBox({ triangles: trianglesOf(chart, flat) });
  return Math.hypot(width, height);
}

/** A lone face is always a disc; one without area is laid out as a point. */
function single(
  m: UnwrapMesh,
  faces: number[],
  label: Int32Array,
  own: number,
): LaidIsland {
  const { chart } = cutToDisc(m, faces, label, own)!;
  return {
    chart,
    flat: {
      uv: new Float64Array(2 * chart.vertexCount),
      stretch: 1,
      spread: 0,
      flipped: 0,
      overlaps: false,
      tight: -1,
      pinned: false,
    },
  };
}

const halves = (faces: number[]) => [
  faces.slice(0, faces.length >> 1),
  faces.slice(faces.length >> 1),
];

/** Joins pairs of neighbouring islands, longest shared border against their size first, while the rules hold. */
function joinIslands(
  m: UnwrapMesh,
  label: Int32Array,
  islands: Map<number, LaidIsland>,
  rules: SeamRules,
  newName: () => number,
): void {
  const refused = new Set<string>();
  const sizeOf = new Map<number, number>();
  for (const [name, { chart }] of islands)
    sizeOf.set(
      name,
      chart.faces.reduce((sum, f) => sum + m.areas[f], 0),
    );
  for (let tries = 0; tries < 600; tries++) {
    const pair = bestPair(m, label, sizeOf, refused);
    if (!pair) return;
    const [a, b] = pair;
    const faces = [
      ...islands.get(a)!.chart.faces,
      ...islands.get(b)!.chart.faces,
    ];
    const own = newName();
    for (const f of faces) label[f] = own;
    const laid = tryLay(
      m,
      faces,
      label,
      own,
      { ...rules, bulk: JOINED_BULK, large: 0 },
      0,
    );
    if (laid.ok && laid.island) {
      islands.delete(a);
      islands.delete(b);
      islands.set(own, laid.island);
      sizeOf.set(own, sizeOf.get(a)! + sizeOf.get(b)!);
      sizeOf.delete(a);
      sizeOf.delete(b);
    } else {
      for (const f of islands.get(a)!.chart.faces) label[f] = a;
      for (const f of islands.get(b)!.chart.faces) label[f] = b;
      refused.add(`${a} ${b}`);
    }
  }
}

function bestPair(
  m: UnwrapMesh,
  label: Int32Array,
  sizeOf: Map<number, number>,
  refused: Set<string>,
): [number, number] | null {
  const shared = new Map<string, number>();
  const p = m.mesh.positions;
  for (let e = 0; e < m.edges.count; e++) {
    if (!m.joins[e]) continue;
    const f = m.faceOfCorner[m.edges.first[e]];
    const g = m.faceOfCorner[m.edges.second[e]];
    if (label[f] === label[g]) continue;
    const key = `${Math.min(label[f], label[g])} ${Math.max(label[f], label[g])}`;
    if (refused.has(key)) continue;
    const a = 3 * m.edges.vertices[2 * e];
    const b = 3 * m.edges.vertices[2 * e + 1];
    const n = m.normals;
    const dot =
      n[3 * f] * n[3 * g] +
      n[3 * f + 1] * n[3 * g + 1] +
      n[3 * f + 2] * n[3 * g + 2];
    const length = Math.hypot(
      p[a] - p[b],
      p[a + 1] - p[b + 1],
      p[a + 2] - p[b + 2],
    );
    shared.set(key, (shared.get(key) ?? 0) + length * Math.max(0, 0.2 + dot));
  }
  let best: string | null = null;
  let most = 0.15;
  for (const [key, length] of shared) {
    const [a, b] = key.split(" ").map(Number);
    const score =
      length / Math.sqrt(Math.min(sizeOf.get(a)!, sizeOf.get(b)!) + 1e-12);
    if (score > most) {
      most = score;
      best = key;
    }
  }
  return best ? (best.split(" ").map(Number) as [number, number]) : null;
}
