import { faceComponents } from "../mesh/components";
import type { Mesh } from "../mesh/mesh";
import { faceCount, triangleCount } from "../mesh/mesh";
import { settledOf } from "../settle/settled-of";
import { triangulate } from "../mesh/triangulate";
import type { Context } from "../base/context";
import { boundsOf, diagonalOf } from "../space/bounds";
import { buildBvh } from "../space/bvh";
import { seededRandom } from "../base/random";
import { RayScene, widen } from "../space/ray-scene";
import { sampleSurface } from "../space/sample";
import { flatNormal, unit } from "../space/vector";
import type { Asset, Part } from "./asset";
import { mapParts } from "./parts";
import { registerSettled, takenOver } from "./settled";

/** Points that are looked at altogether, at least on every piece, and directions from each. */
const POINTS = 24_000;
const ON_A_PIECE = 6;
const WAYS = 24;
/** Cells along the diagonal in which what was seen is taken together. */
const CELLS = 72;
/** A cell with fewer points than this says nothing. */
const ENOUGH = 2;

/** A piece that no more than this share of looks reached, a look or two from any point, shows through cracks. */
const CRACK = 0.003;

/** Parts of which nobody sees anything from outside. */
export interface HiddenPart {
  part: string;
  triangles: number;
}

/**
 * Looks from outside at points of all sources: faces of pieces and places that no look reached get `seen` 0, the
 * others how much of the outside sees them. Sources somebody has looked at already keep what was found. A quick look
 * for dealing a budget out, not a proof: see core/survey/methods/unseen.ts for that.
 * @param clear names of parts and materials that hide nothing
 */
export function withSeenFaces(
  asset: Asset,
  clear: ReadonlySet<string>,
  context: Pick<Context, "check" | "progress">,
): { asset: Asset; hidden: HiddenPart[] } {
  const parts = asset.parts.filter((part) => part.source);
  const looked = parts.map((part) => {
    const { mesh, faces } = settledOf(part.source!, () => context.check());
    const split = triangulate(mesh);
    return { part, mesh, faces, split, pieces: faceComponents(mesh) };
  });
  if (looked.reduce((sum, { pieces }) => sum + pieces.count, 0) < 2)
    return { asset, hidden: [] };
  context.progress(0.01, "looking from outside");
  const shares = lookAtAll(looked, clear, context);
  const hidden: HiddenPart[] = [];
  const seen = new Map<string, Uint8Array>();
  looked.forEach(({ part, faces, mesh }, i) => {
    const own = new Uint8Array(faceCount(part.source!));
    for (let f = 0; f < faceCount(mesh); f++) {
      const share = shares[i][f];
      const value =
        share > 0 ? Math.max(1, Math.min(255, Math.round(255 * share))) : 0;
      const to = faces ? faces[f] : f;
      own[to] = Math.max(own[to], value);
    }
    seen.set(part.name, part.source!.visibility?.slice() ?? own);
  });
  shareWithRepeats(parts, seen);
  parts.forEach((part) => {
    if (seen.get(part.name)!.every((value) => value === 0))
      hidden.push({
        part: part.name,
        triangles: triangleCount(part.source!),
      });
  });
  const next = mapParts(asset, (part) => {
    if (!part.source) return part;
    const source = { ...part.source, visibility: seen.get(part.name)! };
    const known = settledOf(part.source);
    registerSettled(
      source,
      takenOver(
        {
          mesh: known.mesh === part.source ? null : known.mesh,
          faces: known.faces,
          done: known.done,
        },
        source,
      ),
    );
    return { ...part, source };
  });
  return { asset: next, hidden };
}

/** What is seen of any copy of a piece counts for all of them: it is worked once. */
function shareWithRepeats(
  parts: readonly Part[],
  seen: ReadonlyMap<string, Uint8Array>,
): void {
  const pairs = parts.flatMap(({ name, repeat }) => {
    const origin = repeat && seen.get(repeat.of);
    const own = seen.get(name)!;
    return origin?.length === own.length ? [{ origin, own }] : [];
  });
  for (const { origin, own } of pairs)
    own.forEach((value, f) => (origin[f] = Math.max(origin[f], value)));
  for (const { origin, own } of pairs) own.set(origin);
}

/** Materials that let light through, and so hide nothing. */
export const clearNames = (asset: Asset): Set<string> =>
  new Set(
    asset.looks
      .filter(({ opacity = 1 }) => opacity < 1)
      .map(({ material }) => material),
  );

interface Looked {
  part: { name: string };
  mesh: Mesh;
  split: { vertices: Uint32Array; faces: Uint32Array };
  pieces: { count: number; ofFace: Uint32Array };
}

/** For each mesh faceCount shares of the outside that see a face, 0 where no look reached its place. */
function lookAtAll(
  looked: readonly Looked[],
  clear: ReadonlySet<string>,
  context: Pick<Context, "check">,
): Float32Array[] {
  const scene = sceneOf(looked, clear);
  const bounds = boundsOf(...looked.map(({ mesh }) => mesh.positions));
  const diagonal = diagonalOf(bounds) || 1;
  const random = seededRandom(11);
  const all = looked.reduce(
    (sum, { mesh, split }) =>
      sum + sampleSurface(mesh.positions, split.vertices, 1).area,
    0,
  );
  return looked.map((one) => {
    context.check();
    const { mesh, split, pieces } = one;
    const found = pointsOn(one, all);
    const cell = CELLS / diagonal;
    const cells = new Map<number, { sum: number; count: number }>();
    const ofPiece = new Float64Array(pieces.count);
    const most = new Float32Array(pieces.count);
    const counts = new Uint32Array(pieces.count);
    const keyOf = (x: number, y: number, z: number, normal: number[]) => {
      const axis = normal.map(Math.abs);
      const k = axis.indexOf(Math.max(...axis));
      const side = 2 * k + (normal[k] < 0 ? 1 : 0);
      const at = (value: number, low: number) =>
        Math.max(0, Math.min(127, Math.floor((value - low) * cell)));
      return (
        side +
        6 *
          (at(x, bounds.min[0]) +
            128 * (at(y, bounds.min[1]) + 128 * at(z, bounds.min[2])))
      );
    };
    for (const { t, x, y, z } of found) {
      const normal = unit(normalOf(mesh, split.vertices, t));
      const share = lookFrom(scene, [x, y, z], normal, diagonal, random);
      const piece = pieces.ofFace[split.faces[t]];
      ofPiece[piece] += share;
      counts[piece]++;
      most[piece] = Math.max(most[piece], share);
      const key = keyOf(x, y, z, normal);
      const here = cells.get(key) ?? { sum: 0, count: 0 };
      here.sum += share;
      here.count++;
      cells.set(key, here);
    }
    const shares = new Float32Array(faceCount(mesh));
    const { positions: p } = mesh;
    for (let t = 0; t < split.faces.length; t++) {
      const f = split.faces[t];
      const piece = pieces.ofFace[f];
      const mean = ofPiece[piece] / counts[piece];
      if (mean < CRACK && most[piece] <= 2 / WAYS) continue;
      const middle = (k: number) =>
        (p[3 * split.vertices[3 * t] + k] +
          p[3 * split.vertices[3 * t + 1] + k] +
          p[3 * split.vertices[3 * t + 2] + k]) /
        3;
      const here = cells.get(
        keyOf(
          middle(0),
          middle(1),
          middle(2),
          normalOf(mesh, split.vertices, t),
        ),
      );
      const share = here && here.count >= ENOUGH ? here.sum / here.count : mean;
      shares[f] = Math.max(shares[f], share);
    }
    return shares;
  });
}

function sceneOf(
  looked: readonly Looked[],
  clear: ReadonlySet<string>,
): RayScene {
  const hiding = looked.filter(
    ({ part, mesh }) =>
      !clear.has(part.name) && !mesh.materials.every((name) => clear.has(name)),
  );
  const total = hiding.reduce((sum, { split }) => sum + split.faces.length, 0);
  const positions = new Float32Array(9 * total);
  let at = 0;
  for (const { mesh, split } of hiding)
    for (const v of split.vertices)
      for (let k = 0; k < 3; k++) positions[at++] = mesh.positions[3 * v + k];
  const indices = new Uint32Array(3 * total);
  for (let i = 0; i < indices.length; i++) indices[i] = i;
  return new RayScene([widen(buildBvh(positions, indices))]);
}

/** Points on a mesh by its share of all area, and some on every piece. */
function pointsOn({ mesh, split, pieces }: Looked, all: number) {
  const { area } = sampleSurface(mesh.positions, split.vertices, 1);
  const count = Math.max(64, Math.round((POINTS * area) / (all || 1)));
  const { points, triangles } = sampleSurface(
    mesh.positions,
    split.vertices,
    count,
    3,
  );
  const found = Array.from(triangles, (t, i) => ({
    t,
    x: points[3 * i],
    y: points[3 * i + 1],
    z: points[3 * i + 2],
  }));
  const counts = new Uint32Array(pieces.count);
  for (const { t } of found) counts[pieces.ofFace[split.faces[t]]]++;
  const { positions: p } = mesh;
  for (let t = 0; t < split.faces.length; t++) {
    const piece = pieces.ofFace[split.faces[t]];
    if (counts[piece] >= ON_A_PIECE) continue;
    counts[piece]++;
    const middle = (k: number) =>
      (p[3 * split.vertices[3 * t] + k] +
        p[3 * split.vertices[3 * t + 1] + k] +
        p[3 * split.vertices[3 * t + 2] + k]) /
      3;
    found.push({ t, x: middle(0), y: middle(1), z: middle(2) });
  }
  return found;
}

function normalOf(
  { positions: p }: Mesh,
  vertices: Uint32Array,
  t: number,
): [number, number, number] {
  const q = new Float64Array(9);
  for (let k = 0; k < 9; k++)
    q[k] = p[3 * vertices[3 * t + ((k / 3) | 0)] + (k % 3)];
  return flatNormal(q, 0);
}

/** Share of directions round a point that get away, on whichever side of its face they leave. */
function lookFrom(
  scene: RayScene,
  [x, y, z]: readonly number[],
  normal: readonly number[],
  diagonal: number,
  random: () => number,
): number {
  const lift = 4e-6 * diagonal;
  const turn = 2 * Math.PI * random();
  const shift = random();
  let away = 0;
  for (let w = 0; w < WAYS; w++) {
    // A spiral of even density over the sphere (Swinbank and Purser 2006), turned for every point.
    const dy = 1 - (2 * (w + shift)) / WAYS;
    const flat = Math.sqrt(Math.max(0, 1 - dy * dy));
    const angle = 2.399963229728653 * w + turn;
    const dx = flat * Math.cos(angle);
    const dz = flat * Math.sin(angle);
    const side =
      dx * normal[0] + dy * normal[1] + dz * normal[2] < 0 ? -lift : lift;
    if (
      !scene.any(
        0,
        x + side * normal[0],
        y + side * normal[1],
        z + side * normal[2],
        dx,
        dy,
        dz,
        0,
        8 * diagonal,
      )
    )
      away++;
  }
  return away / WAYS;
}
