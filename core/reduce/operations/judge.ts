import { PartsOptions } from "../../asset/parts-options";
import type { HiddenPart } from "../../asset/hidden";
import type { Asset } from "../../asset/asset";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { MissingInputError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import { qualityOf, SLIVER } from "../../mesh/triangle-shape";
import { triangulate } from "../../mesh/triangulate";
import { defineOperation, field } from "../../asset/operation";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import type { Surface } from "../../space/deviation";
import type { Side } from "../../space/directions";
import { SIDES, viewDirections } from "../../space/directions";
import { drawMask, flatView } from "../../space/outline";
import { sampleSurface, triangleArea } from "../../space/sample";
import type { Vector } from "../../space/vector";
import { pointAt } from "../../space/vector";

/** Points each way, and pictures of the silhouette with their edge in px. */
const POINTS = 60_000;
const SILHOUETTES = 64;
const PICTURE = 256;
/** Worst places that are listed, and how far apart they must be as a share of the diagonal. */
const PLACES = 8;
const APART = 0.06;
/** How well a game mesh stands for its source. Distances as shares of the source's diagonal where not said otherwise. */
export interface Judgement {
  rms: number;
  max: number;
  /** metres */
  diagonal: number;
  /** Largest distance of the source outside of the game mesh and inside it, metres. */
  outside: number;
  inside: number;
  /** Angle between the faces of both at the same place, degrees: mean and 95th percentile. */
  normalMean: number;
  normal95: number;
  /** Share of the source's silhouette that differs: mean of 64 directions, and the worst. */
  silhouetteMean: number;
  silhouetteMax: number;
  worstViews: { towards: number[]; share: number }[];
  /** Quality of triangles, 1 for equilateral: mean, lowest, and share below 0.1. */
  quality: number;
  worstQuality: number;
  slivers: number;
  /** Standard deviation of the log of triangle areas: 0 where all are alike. */
  unevenness: number;
  /** Worst places, metres from the source: where, how far, signed by which side the game mesh lies on. */
  places: { part: string; at: number[]; distance: number }[];
}

/** Names of the parts that somebody sees: those without a game mesh as nobody does are nothing to judge by. */
export const seenParts = (
  asset: Asset,
  hidden: readonly HiddenPart[],
): Set<string> =>
  new Set(
    asset.parts
      .filter(
        ({ name, game }) => game || !hidden.some(({ part }) => part === name),
      )
      .map(({ name }) => name),
  );

/** What a judgement is of: it is told no longer once one of these has changed. */
export const JUDGED = ["source meshes", "game meshes"] as const;

/** Judges all parts that have a source and a game mesh. @param from where the silhouette is looked at from */
export function judgeAsset(
  asset: Asset,
  from: Side = "all round",
  chosen?: ReadonlySet<string>,
): Judgement {
  const parts = asset.parts.filter(
    (part) => part.source && (!chosen || chosen.has(part.name)),
  );
  const source = gather(parts.map((part) => part.source!));
  const game = gather(parts.map((part) => part.game));
  return judgeSurfaces(
    source.surface,
    game.surface,
    from,
    (t) => parts[source.owner[t]].name,
  );
}

interface Gathered {
  surface: Surface;
  owner: Uint16Array;
}

/** Meshes as one surface. */
function gather(meshes: readonly (Mesh | null)[]): Gathered {
  const splits = meshes.map((mesh) => mesh && triangulate(mesh).vertices);
  const sum = (of: (i: number) => number) =>
    meshes.reduce((total, _, i) => total + of(i), 0);
  const positions = new Float32Array(
    sum((i) => meshes[i]?.positions.length ?? 0),
  );
  const triangles = new Uint32Array(sum((i) => splits[i]?.length ?? 0));
  const owner = new Uint16Array(triangles.length / 3);
  let base = 0;
  let at = 0;
  meshes.forEach((mesh, i) => {
    if (!mesh) return;
    positions.set(mesh.positions, 3 * base);
    const own = splits[i]!;
    for (let c = 0; c < own.length; c++) triangles[at + c] = own[c] + base;
    owner.fill(i, at / 3, (at + own.length) / 3);
    base += mesh.positions.length / 3;
    at += own.length;
  });
  return { surface: { positions, triangles }, owner };
}

/** Meshes as one surface. */
export const surfaceOf = (meshes: readonly (Mesh | null)[]): Surface =>
  gather(meshes).surface;

/** @param nameOf the part of a source triangle */
export function judgeSurfaces(
  source: Surface,
  game: Surface,
  from: Side,
  nameOf: (triangle: number) => string = () => "",
): Judgement {
  const bounds = boundsOf(source.positions);
  const diagonal = diagonalOf(bounds) || 1;
  if (!source.triangles.length || !game.triangles.length)
    return { ...NOTHING, diagonal };
  const there = look(source, game);
  const back = look(game, source);
  const angles = Float32Array.from([...there.angles, ...back.angles]).sort();
  const worst = [...there.far.keys()]
    .sort((i, j) => Math.abs(there.far[j]) - Math.abs(there.far[i]))
    .slice(0, 4000);
  const places: Judgement["places"] = [];
  for (const i of worst) {
    if (places.length >= PLACES) break;
    const at = pointAt(there.points, i);
    if (places.some((place) => distance(place.at, at) < APART * diagonal))
      continue;
    places.push({
      part: nameOf(there.triangles[i]),
      at,
      distance: there.far[i],
    });
  }
  const outline = compareOutlines(source, game, from);
  return {
    rms: Math.sqrt((there.sum + back.sum) / (2 * POINTS)) / diagonal,
    max: Math.sqrt(Math.max(there.max, back.max)) / diagonal,
    diagonal,
    outside: Math.max(0, there.high),
    inside: Math.max(0, -there.low),
    normalMean: angles.reduce((sum, x) => sum + x, 0) / (angles.length || 1),
    normal95: angles[Math.floor(0.95 * angles.length)] ?? 0,
    ...outline,
    ...shapes(game),
    places,
  };
}

const NOTHING: Judgement = {
  rms: 1,
  max: 1,
  diagonal: 1,
  outside: 0,
  inside: 0,
  normalMean: 90,
  normal95: 90,
  silhouetteMean: 1,
  silhouetteMax: 1,
  worstViews: [],
  quality: 0,
  worstQuality: 0,
  slivers: 0,
  unevenness: 0,
  places: [],
};

const distance = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

/** From points of one surface to the other: signed by the other's side, angles between the faces, degrees. */
function look(from: Surface, to: Surface) {
  const { points, triangles } = sampleSurface(
    from.positions,
    from.triangles,
    POINTS,
    7,
  );
  const closest = new ClosestPoint(buildBvh(to.positions, to.triangles));
  const far = new Float32Array(POINTS);
  const angles: number[] = [];
  let sum = 0;
  let max = 0;
  let low = 0;
  let high = 0;
  for (let i = 0; i < POINTS; i++) {
    const [x, y, z] = [points[3 * i], points[3 * i + 1], points[3 * i + 2]];
    const t = closest.find(x, y, z);
    const d2 = closest.distance2;
    sum += d2;
    if (d2 > max) max = d2;
    const n = faceNormal(to, t);
    const side =
      (x - closest.x) * n[0] + (y - closest.y) * n[1] + (z - closest.z) * n[2];
    // Positive where the other surface lies outside of this one.
    far[i] = side > 0 ? -Math.sqrt(d2) : Math.sqrt(d2);
    low = Math.min(low, far[i]);
    high = Math.max(high, far[i]);
    if (i % 4 === 0) {
      const m = faceNormal(from, triangles[i]);
      const cos = n[0] * m[0] + n[1] * m[1] + n[2] * m[2];
      angles.push((Math.acos(Math.max(-1, Math.min(1, cos))) * 180) / Math.PI);
    }
  }
  return { points, triangles, far, angles, sum, max, low, high };
}

function faceNormal({ positions: p, triangles }: Surface, t: number): Vector {
  const [a, b, c] = [
    3 * triangles[3 * t],
    3 * triangles[3 * t + 1],
    3 * triangles[3 * t + 2],
  ];
  const ux = p[b] - p[a];
  const uy = p[b + 1] - p[a + 1];
  const uz = p[b + 2] - p[a + 2];
  const vx = p[c] - p[a];
  const vy = p[c + 1] - p[a + 1];
  const vz = p[c + 2] - p[a + 2];
  const n = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx] as const;
  const size = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2) || 1;
  return [n[0] / size, n[1] / size, n[2] / size];
}

/** Pixels in which the silhouettes differ over those of the source, from every direction. */
export function compareOutlines(source: Surface, game: Surface, from: Side) {
  const bounds = boundsOf(source.positions);
  const centre: Vector = [0, 1, 2].map(
    (k) => (bounds.min[k] + bounds.max[k]) / 2,
  ) as unknown as Vector;
  const radius = diagonalOf(bounds) / 2;
  const views = viewDirections(SILHOUETTES, from).map((towards) => {
    const view = flatView(towards, centre, radius, PICTURE);
    const a = drawMask(view, source.positions, source.triangles).pixels;
    const b = drawMask(view, game.positions, game.triangles).pixels;
    let covered = 0;
    let differ = 0;
    for (let i = 0; i < a.length; i++) {
      covered += a[i];
      if (a[i] !== b[i]) differ++;
    }
    return { towards: [...towards], share: covered ? differ / covered : 0 };
  });
  const sorted = [...views].sort((a, b) => b.share - a.share);
  return {
    silhouetteMean: views.reduce((sum, v) => sum + v.share, 0) / views.length,
    silhouetteMax: sorted[0].share,
    worstViews: sorted.slice(0, 4),
  };
}

function shapes({ positions: p, triangles }: Surface) {
  let sum = 0;
  let worst = 1;
  let thin = 0;
  let logs = 0;
  let squares = 0;
  let sized = 0;
  const count = triangles.length / 3;
  for (let t = 0; t < count; t++) {
    const area = triangleArea(p, triangles, t);
    const quality = qualityOf(p, triangles, t);
    sum += quality;
    worst = Math.min(worst, quality);
    if (quality < SLIVER) thin++;
    if (area > 0) {
      const log = Math.log(area);
      logs += log;
      squares += log * log;
      sized++;
    }
  }
  const mean = logs / (sized || 1);
  return {
    quality: sum / count,
    worstQuality: worst,
    slivers: thin / count,
    unevenness: Math.sqrt(Math.max(0, squares / (sized || 1) - mean * mean)),
  };
}

class JudgeOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "Looked at",
    help: "From where the silhouette is compared.",
    choices: SIDES,
  })
  from: Side = "all round";
}

export const judge = defineOperation({
  id: "reduce/judge",
  stage: "reduce",
  title: "Judge the game meshes",
  about:
    "Distance both ways, normals, silhouette from 64 directions, shape of the triangles, and the worst places.",
  runs: "heavy",
  takes: "both",
  makesResult: false,
  keepsReport: true,
  madeFrom: JUDGED,
  Options: JudgeOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    requireMeshes(asset, "game");
    const chosen = options.parts.length
      ? chosenParts(asset, options.parts)
      : seenParts(
          asset,
          (asset.results.reduce?.report.hidden ?? []) as HiddenPart[],
        );
    if (
      options.parts.length &&
      !asset.parts.some((p) => chosen.has(p.name) && p.source && p.game)
    )
      throw new MissingInputError(
        "none of the chosen parts has both a source and a game mesh",
      );
    context.progress(0.1, "measuring distances and silhouettes");
    const found = judgeAsset(asset, options.from, chosen);
    return {
      asset,
      headline: `${(1000 * found.rms * found.diagonal).toFixed(2)} mm`,
      report: {
        ...found,
        summary: `${(1000 * found.rms * found.diagonal).toFixed(2)} mm off on average, ${(1000 * found.max * found.diagonal).toFixed(2)} mm at worst`,
      },
    };
  },
});
