import type { Asset } from "../../asset/asset";
import { onlyFaces } from "../../mesh/change-faces";
import { faceComponents } from "../../mesh/components";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { sampleSurface } from "../../space/sample";

/** Which sources the rays of a part meet. */
export interface Catching {
  /** Whether parts are baked as if they stood so far apart that no ray of one reaches another. */
  apart: boolean;
  /** Pairs for which it is the other way round: that shade each other though apart, or don't though together. */
  pairs: readonly (readonly [string, string])[];
  /** Further parts whose sources the rays of a part catch, by its name. */
  catches: ReadonlyMap<string, readonly string[]>;
  /** Parts of several pieces, of which each catches only the pieces of the source that lie nearest to it. */
  pieces: readonly string[];
}

/** Points that are looked from for what lies nearest. */
const POINTS = 200;

/** By what is only baked, the part that it lies nearest to, and goes with where parts stand apart. */
export function holdersOf({ parts }: Asset): Map<string, string> {
  const holders = parts.flatMap((part) => {
    const mesh = part.repeat ? null : (part.source ?? part.game);
    return part.game?.uvs && mesh
      ? [{ name: part.name, closest: closestTo(mesh) }]
      : [];
  });
  const found = new Map<string, string>();
  for (const { name, source, game } of parts) {
    if (!source || game) continue;
    let best = Infinity;
    for (const each of holders) {
      const far = meanDistance(source, each.closest, best);
      if (far < best) {
        best = far;
        found.set(name, each.name);
      }
    }
  }
  return found;
}

const closestTo = (mesh: Mesh) =>
  new ClosestPoint(buildBvh(mesh.positions, triangulate(mesh).vertices));

/** Mean distance of points of a mesh from another one, metres; as soon as it is known to be more than `most`, that. */
function meanDistance(mesh: Mesh, to: ClosestPoint, most: number): number {
  const { points } = sampleSurface(
    mesh.positions,
    triangulate(mesh).vertices,
    POINTS,
  );
  let sum = 0;
  for (let i = 0; i < points.length; i += 3) {
    to.find(points[i], points[i + 1], points[i + 2]);
    sum += Math.sqrt(to.distance2);
    if (sum > most * (points.length / 3)) return Infinity;
  }
  return sum / Math.max(1, points.length / 3);
}

/**
 * Whether what looks round on a worked part sees the source of another one.
 * @param holders of what is only baked, where parts stand apart
 */
export function shadersOf(
  asset: Asset,
  { apart = false, pairs = [], catches }: Partial<Catching>,
  holders: ReadonlyMap<string, string> | null,
): (part: string, of: string) => boolean {
  const worked = new Map(
    asset.parts.map(({ name, repeat }) => [name, repeat?.of ?? name]),
  );
  const excepted = new Set(
    pairs.flatMap(([a, b]) => [
      JSON.stringify([worked.get(a), b]),
      JSON.stringify([worked.get(b), a]),
    ]),
  );
  return (part, of) => {
    if (of === part || catches?.get(part)?.includes(of)) return true;
    const goesWith = holders?.get(of) === part;
    return (!apart || goesWith) !== excepted.has(JSON.stringify([part, of]));
  };
}

/**
 * Parts a game mesh and its source into pieces: each connected piece of the game mesh, with the pieces of the source
 * most of whose points lie nearest to it.
 */
export function piecesOf(
  source: Mesh,
  game: Mesh,
): { game: Mesh; source: Mesh | null }[] {
  const ours = faceComponents(game);
  if (ours.count < 2) return [{ game, source }];
  const split = triangulate(game);
  const closest = new ClosestPoint(buildBvh(game.positions, split.vertices));
  const theirs = faceComponents(source);
  const goesTo = new Uint32Array(theirs.count);
  const middle = new Float32Array(3);
  const seen = new Map<number, number[]>();
  for (let f = 0; f < theirs.ofFace.length; f++) {
    const faces = seen.get(theirs.ofFace[f]);
    if (faces) faces.push(f);
    else seen.set(theirs.ofFace[f], [f]);
  }
  for (const [component, faces] of seen) {
    const votes = new Float64Array(ours.count);
    const step = Math.max(1, Math.floor(faces.length / POINTS));
    for (let i = 0; i < faces.length; i += step) {
      middleOf(source, faces[i], middle);
      const t = closest.find(middle[0], middle[1], middle[2]);
      if (t >= 0) votes[ours.ofFace[split.faces[t]]]++;
    }
    goesTo[component] = votes.indexOf(Math.max(...votes));
  }
  return Array.from({ length: ours.count }, (_, piece) => {
    const keep = Uint8Array.from(theirs.ofFace, (component) =>
      goesTo[component] === piece ? 1 : 0,
    );
    return {
      game: onlyFaces(
        game,
        ours.ofFace.map((component) => (component === piece ? 1 : 0)),
      ),
      source: keep.includes(1) ? onlyFaces(source, keep) : null,
    };
  });
}

/** The middle of a face's corners, metres. */
function middleOf(
  { positions, faceStarts, corners }: Mesh,
  f: number,
  into: Float32Array,
): void {
  const [from, to] = [faceStarts[f], faceStarts[f + 1]];
  for (let k = 0; k < 3; k++) {
    into[k] = 0;
    for (let c = from; c < to; c++)
      into[k] += positions[3 * corners[c] + k] / (to - from);
  }
}

/** Pairs of parts as people write them, such as `hood + burner; cap + glass`. */
export const pairsText = (pairs: Catching["pairs"]): string =>
  pairs.map((pair) => pair.join(" + ")).join("; ");

/**
 * Reads pairs of parts.
 * @param isPart whether there is a part of a name; @returns the first entry that is none, where there is one
 */
export function readPairs(
  text: string,
  isPart: (name: string) => boolean,
): [string, string][] | string {
  const found: [string, string][] = [];
  for (const entry of entries(text)) {
    const pair = splitAt(entry, "+", isPart);
    if (!pair || !isPart(pair[1]) || pair[0] === pair[1]) return entry;
    found.push(pair);
  }
  return found;
}

/** What parts catch besides, as people write it, such as `lid: rivets, trim; body: trim`. */
export const catchesText = (catches: Catching["catches"]): string =>
  [...catches]
    .map(([part, names]) => `${part}: ${names.join(", ")}`)
    .join("; ");

/** Reads what parts catch besides, as `readPairs` does. */
export function readCatches(
  text: string,
  isPart: (name: string) => boolean,
): Map<string, string[]> | string {
  const found = new Map<string, string[]>();
  for (const entry of entries(text)) {
    const pair = splitAt(entry, ":", isPart);
    const names = pair?.[1].split(",").map((name) => name.trim());
    if (!pair || !names?.every((name) => isPart(name) && name !== pair[0]))
      return entry;
    found.set(pair[0], [...new Set([...(found.get(pair[0]) ?? []), ...names])]);
  }
  return found;
}

const entries = (text: string): string[] =>
  text.split(";").flatMap((entry) => entry.trim() || []);

/** The two sides of a sign, of which there may be more in names: the first is a part. */
function splitAt(
  entry: string,
  sign: string,
  isPart: (name: string) => boolean,
): [string, string] | null {
  for (
    let at = entry.indexOf(sign);
    at >= 0;
    at = entry.indexOf(sign, at + 1)
  ) {
    const sides = [entry.slice(0, at).trim(), entry.slice(at + 1).trim()];
    if (isPart(sides[0]) && sides[1]) return [sides[0], sides[1]];
  }
  return null;
}
