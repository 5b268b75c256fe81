import { placesOf } from "../../mesh/places";
import type { MeshPlace } from "../../mesh/places";
import { toRanges } from "../../base/ranges";
import type { MeshAnalysis } from "../../mesh/mesh-analysis";

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
  places: MeshPlace[];
  /** Faces in short form, see core/base/ranges.ts; "" where edges or vertices say it better. */
  faces: string;
  /** Pairs of vertices. */
  edges: number[];
  vertices: number[];
  /** Said instead of the plain count, where there is more to say. */
  note?: string;
  /** Width of the widest hole that may be meant, metres: mending closes it only where it is asked to. */
  widest?: number;
}

/** Most faces, edges and vertices a finding names: enough to see, light to keep. */
const MOST_NAMED = 4000;

/** What one look at a mesh names: rising faces, edges by number, or vertices. */
export interface Named {
  count: number;
  faces?: readonly number[];
  edges?: readonly number[];
  vertices?: readonly number[];
  note?: string;
  widest?: number;
}

/** The finding of a look, or null where nothing was found. */
export function asFinding(
  kind: FindingKind,
  part: string,
  look: MeshAnalysis,
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
    ...(named.widest ? { widest: named.widest } : {}),
  };
}
