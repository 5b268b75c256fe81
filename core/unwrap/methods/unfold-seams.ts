import type { Mesh } from "../../mesh/mesh";
import type { Chart } from "./chart";
import type { UnwrapMesh } from "./unwrap-mesh";
import { prepareUnwrap } from "./chart";
import { cutToDisc } from "./cut";
import type { Flat } from "./flatten";
import { flatten } from "./flatten";
import { fitMove } from "./held";
import { connectedFaces } from "./islands";
import { boxOf, gatherIslands } from "./sheet-islands";
import { seamsFromUvs } from "../../mesh/seams-from-uvs";
import type { Sheet } from "./sheet";

export interface Unfolded {
  mesh: Mesh;
  /** Islands that were laid out anew. */
  islands: number;
  /** L2 stretch of the worst of those. */
  stretch: number;
}

export interface UnfoldOptions {
  /** faceCount: 1 where islands are laid out anew even if their seams did not change; null for only what changed. */
  anew: ArrayLike<number> | null;
  /** How much even area counts against even shape, 0 for angles alone. */
  evenness: number;
  rounds: number;
  /** Vertices of the mesh whose UVs stay where they are. */
  pins: ReadonlySet<number> | null;
}

const DEFAULTS: UnfoldOptions = {
  anew: null,
  evenness: 4,
  rounds: 12,
  pins: null,
};

/**
 * Lays a mesh out along its seams: islands whose faces did not change stay as they are, the others are laid flat and
 * put where their faces were, turned and scaled like that. Bodies that seams leave closed are slit where it costs
 * least, so that they can be laid out at all.
 */
export function unfoldSeams(
  mesh: Mesh,
  sheet: Pick<Sheet, "width" | "height">,
  wanted: Partial<UnfoldOptions> = {},
): Unfolded {
  const options = { ...DEFAULTS, ...wanted };
  const m = prepareUnwrap(mesh, mesh.seams);
  const sets = connectedFaces(m);
  const old = mesh.uvs ? gatherIslands([mesh], sheet) : [];
  const same = new Set(old.map(({ faces }) => keyOf(faces)));
  const uvs = mesh.uvs?.slice() ?? new Float32Array(2 * mesh.corners.length);
  const label = new Int32Array(m.areas.length);
  sets.forEach((faces, i) => faces.forEach((f) => (label[f] = i)));
  const density = meanDensity(old);
  let stretch = 1;
  let count = 0;
  let shelf = 0;
  sets.forEach((faces, i) => {
    const changed =
      !mesh.uvs ||
      !same.has(keyOf(faces)) ||
      slitsChanged(m, faces, uvs) ||
      faces.some((f) => options.anew?.[f]);
    if (!changed) return;
    for (const { chart, flat } of layFaces(
      m,
      faces,
      label,
      i,
      options,
      uvs,
      sheet,
    )) {
      count++;
      stretch = Math.max(stretch, flat.stretch);
      shelf = place(
        chart,
        flat,
        mesh,
        uvs,
        sheet,
        density,
        options.pins !== null,
        shelf,
      );
    }
  });
  return {
    mesh: { ...mesh, uvs, seams: seamsFromUvs(mesh, uvs) },
    islands: count,
    stretch,
  };
}

const keyOf = (faces: readonly number[]) => {
  const sorted = [...faces].sort((a, b) => a - b);
  let hash = sorted.length;
  for (const f of sorted) hash = (Math.imul(hash, 0x01000193) ^ f) >>> 0;
  return `${sorted.length} ${sorted[0]} ${sorted[sorted.length - 1]} ${hash}`;
};

/** Whether an edge within the faces is cut by a seam now and was not before, or the other way round. */
function slitsChanged(
  m: UnwrapMesh,
  faces: readonly number[],
  uvs: Float32Array,
): boolean {
  const { mesh, edges, next } = m;
  const own = new Set(faces);
  for (const f of faces)
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      const e = edges.ofCorner[c];
      const d = edges.first[e] === c ? edges.second[e] : edges.first[e];
      if (d < 0 || edges.uses[e] !== 2 || !own.has(m.faceOfCorner[d])) continue;
      const parted =
        uvs[2 * c] !== uvs[2 * next[d]] ||
        uvs[2 * c + 1] !== uvs[2 * next[d] + 1];
      const other =
        uvs[2 * next[c]] !== uvs[2 * d] ||
        uvs[2 * next[c] + 1] !== uvs[2 * d + 1];
      if (Boolean(mesh.seams?.[c]) !== (parted || other)) return true;
    }
  return false;
}

function meanDensity(islands: ReturnType<typeof gatherIslands>): number {
  let area = 0;
  let covered = 0;
  for (const each of islands) {
    area += each.area;
    covered += each.covered;
  }
  return area > 0 && covered > 0 ? Math.sqrt(covered / area) : 0;
}

/** Lays connected faces flat as one disc; what can't be one falls into its faces' halves. */
function* layFaces(
  m: UnwrapMesh,
  faces: number[],
  label: Int32Array,
  own: number,
  { evenness, rounds, pins }: UnfoldOptions,
  uvs: Float32Array,
  sheet: Pick<Sheet, "width" | "height">,
): Generator<{ chart: Chart; flat: Flat }> {
  const disc = cutToDisc(m, faces, label, own);
  if (disc) {
    const { chart } = disc;
    const held = pins && pinsOf(m.mesh, chart, pins, uvs, sheet);
    const flat = flatten(chart, { evenness, rounds, pins: held });
    yield { chart, flat };
    return;
  }
  const halves = [
    faces.slice(0, faces.length >> 1),
    faces.slice(faces.length >> 1),
  ];
  for (const half of halves) {
    const next = new Int32Array(label.length).fill(-1);
    for (const f of half) next[f] = 0;
    const inner = cutToDisc(m, half, next, 0);
    if (inner)
      yield {
        chart: inner.chart,
        flat: flatten(inner.chart, { evenness, rounds }),
      };
    else
      for (const f of half) {
        const alone = new Int32Array(label.length).fill(-1);
        alone[f] = 0;
        const { chart } = cutToDisc(m, [f], alone, 0)!;
        yield { chart, flat: flatten(chart) };
      }
  }
}

/** Places of pinned vertices of a chart, px, by chart vertex. */
function pinsOf(
  mesh: Mesh,
  chart: Chart,
  pins: ReadonlySet<number>,
  uvs: Float32Array,
  { width, height }: Pick<Sheet, "width" | "height">,
): Map<number, [number, number]> {
  const found = new Map<number, [number, number]>();
  chart.corners.forEach((c, i) => {
    if (pins.has(mesh.corners[c]))
      found.set(chart.vertexOfCorner[i], [
        uvs[2 * c] * width,
        uvs[2 * c + 1] * height,
      ]);
  });
  return found;
}

/** Writes a layout where its faces were on the sheet, or on a shelf beside it where they were not. */
function place(
  chart: Chart,
  flat: Flat,
  mesh: Mesh,
  uvs: Float32Array,
  { width, height }: Pick<Sheet, "width" | "height">,
  density: number,
  pinned: boolean,
  shelf: number,
): number {
  const [x0, y0, x1] = boxOf(flat.uv);
  let move = { a: 1, b: 0, c: 0, d: 1, e: 0, f: 0 };
  let next = shelf;
  if (pinned && flat.pinned) move = { ...move };
  else if (density > 0) {
    const from: number[] = [];
    const to: number[] = [];
    chart.corners.forEach((c, i) => {
      const v = chart.vertexOfCorner[i];
      from.push(flat.uv[2 * v], flat.uv[2 * v + 1]);
      to.push(mesh.uvs![2 * c] * width, mesh.uvs![2 * c + 1] * height);
    });
    const fit = fitMove(from, to).move;
    // The turn of the fit, the density of the rest, the middle of where the faces were.
    const size = Math.hypot(fit.a, fit.c) || 1;
    const a = (fit.a / size) * density;
    const c = (fit.c / size) * density;
    let [mx, my, tx, ty] = [0, 0, 0, 0];
    for (let i = 0; i < from.length; i += 2) {
      mx += (2 * from[i]) / from.length;
      my += (2 * from[i + 1]) / from.length;
      tx += (2 * to[i]) / from.length;
      ty += (2 * to[i + 1]) / from.length;
    }
    move = {
      a,
      b: -c,
      c,
      d: a,
      e: tx - a * mx + c * my,
      f: ty - c * mx - a * my,
    };
  } else {
    // Nothing has UVs yet: islands side by side, a metre as wide as the sheet is high.
    move = {
      a: height,
      b: 0,
      c: 0,
      d: height,
      e: height * (shelf - x0),
      f: -height * y0,
    };
    next = shelf + 1.05 * (x1 - x0);
  }
  chart.corners.forEach((corner, i) => {
    const v = chart.vertexOfCorner[i];
    const [x, y] = [flat.uv[2 * v], flat.uv[2 * v + 1]];
    uvs[2 * corner] = (move.a * x + move.b * y + move.e) / width;
    uvs[2 * corner + 1] = (move.c * x + move.d * y + move.f) / height;
  });
  return next;
}
