import { toRanges } from "../mesh/ranges";
import type { LookedAt } from "./looked-at";

/** What can be wrong with a mesh, by the name that reports and `--repair` use. */
export const FINDING_KINDS = [
  "coincident",
  "borders",
  "nonManifoldEdges",
  "nonManifoldVertices",
  "winding",
  "zeroArea",
  "loose",
  "duplicateFaces",
  "selfIntersections",
  "storedNormals",
  "nodeScale",
  "names",
] as const;

export type FindingKind = (typeof FINDING_KINDS)[number];

/** One thing found on one part: how many, and where. */
export interface FoundDefect {
  kind: FindingKind;
  part: string;
  count: number;
  /** Where to look: middle and radius, metres. Not there where nothing is left to look at. */
  places: { at: [number, number, number]; radius: number }[];
  /** Faces in short form, see core/mesh/ranges.ts; "" where edges or vertices say it better. */
  faces: string;
  /** Pairs of vertices. */
  edges: number[];
  vertices: number[];
  /** Said instead of the plain count, where there is more to say. */
  note?: string;
}

/** Most faces, edges and vertices a finding names, and most places it leads to: enough to see, light to keep. */
const MOST_NAMED = 4000;
const MOST_PLACES = 40;

/** What one look at a mesh names: rising faces, edges by number, or vertices. */
export interface Named {
  count: number;
  faces?: readonly number[];
  edges?: readonly number[];
  vertices?: readonly number[];
  note?: string;
}

/** The finding of a look, or null where nothing was found. */
export function asFinding(
  kind: FindingKind,
  part: string,
  look: LookedAt,
  named: Named,
): FoundDefect | null {
  if (!named.count) return null;
  const { mesh, edges } = look;
  const faces = (named.faces ?? []).slice(0, MOST_NAMED);
  const pairs = (named.edges ?? [])
    .slice(0, MOST_NAMED / 2)
    .flatMap((e) => [edges.vertices[2 * e], edges.vertices[2 * e + 1]]);
  const vertices = (named.vertices ?? []).slice(0, MOST_NAMED);
  const clouds: number[][] = [];
  for (const f of faces)
    clouds.push([
      ...mesh.corners.subarray(mesh.faceStarts[f], mesh.faceStarts[f + 1]),
    ]);
  for (let i = 0; i < pairs.length; i += 2)
    clouds.push([pairs[i], pairs[i + 1]]);
  for (const v of vertices) clouds.push([v]);
  return {
    kind,
    part,
    count: named.count,
    places: placesOf(mesh.positions, clouds, look.diagonal),
    faces: toRanges([...faces].sort((a, b) => a - b)),
    edges: pairs,
    vertices,
    ...(named.note ? { note: named.note } : {}),
  };
}

/** Gathers what lies near each other into places, in the order met. */
function placesOf(
  p: Float32Array,
  clouds: readonly number[][],
  diagonal: number,
): FoundDefect["places"] {
  const places: FoundDefect["places"] = [];
  const near = 0.04 * diagonal;
  for (const cloud of clouds) {
    const middle: [number, number, number] = [0, 0, 0];
    for (const v of cloud)
      for (let k = 0; k < 3; k++) middle[k] += p[3 * v + k] / cloud.length;
    const radius = Math.max(
      0.01 * diagonal,
      ...cloud.map((v) =>
        Math.hypot(
          p[3 * v] - middle[0],
          p[3 * v + 1] - middle[1],
          p[3 * v + 2] - middle[2],
        ),
      ),
    );
    const known = places.find(
      ({ at }) =>
        Math.hypot(at[0] - middle[0], at[1] - middle[1], at[2] - middle[2]) <
        near,
    );
    if (known) known.radius = Math.max(known.radius, radius);
    else if (places.length < MOST_PLACES) places.push({ at: middle, radius });
  }
  return places;
}
