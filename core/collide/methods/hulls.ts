import type { Asset, Part } from "../../asset/asset";
import type { Hull, HullKind } from "../../mesh/hull";
import { workedParts } from "../../asset/repeats";
import { MissingInputError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import { joinMeshes } from "../../mesh/change-faces";
import { triangulate } from "../../mesh/triangulate";
import { settledOf } from "../../settle/settled-of";
import type { Bounds } from "../../space/bounds";
import { boundsOf } from "../../space/bounds";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { sampleSurface } from "../../space/sample";
import { farthestOutside } from "./containment";
import { convexHull, volumeOf } from "./convex-hull";
import type { ConvexMesh } from "../../mesh/hull";
import { hullsOf } from "./solids";
import { fitBox, fitCapsule, fitSphere } from "./fitted-shapes";

export type ShapeWanted = "box" | "sphere" | "capsule" | "hull" | "hulls";

export interface HullOptions {
  shape: ShapeWanted;
  /** One shape for everything instead of one for each part. */
  whole: boolean;
  /** Most hulls over the chosen parts and what repeats them; only `hulls` makes more than one a part. */
  mostHulls: number;
  /** Most vertices of a convex hull. */
  vertices: number;
}

export interface HullFigures {
  hulls: number;
  vertices: number;
  /** Volume of all hulls over the volume of the meshes; 0 where the meshes enclose none. */
  volumeRatio: number;
  /** Volume that the hulls add, litres. */
  added: number;
  /** How far a hull stands off the meshes at most, metres. */
  maxDistance: number;
  /** How far the meshes stand out of the hulls at most, metres: fewer vertices than a hull needs cut into them. */
  outside: number;
}

const KINDS: Record<ShapeWanted, HullKind> = {
  box: "box",
  sphere: "sphere",
  capsule: "capsule",
  hull: "convex",
  hulls: "convex",
};

/** What one shape, or several, are made of. */
interface Group {
  /** The part that the shapes are kept with. */
  name: string;
  label: string;
  meshes: Mesh[];
  /** How often it stands somewhere: once, and once more for every repeat of it. */
  times: number;
}

/** The mesh of each part that hulls stand for: its game mesh or, where no part has one, its settled source. */
export function meshForHulls(
  asset: Asset,
  check: () => void,
): (part: Part) => Mesh | null {
  const bare = asset.parts.every((each) => !each.game);
  return ({ game, source }) =>
    game ?? (bare && source ? settledOf(source, check).mesh : null);
}

/**
 * Makes collision shapes for the chosen parts from their game meshes, or source meshes where there are none. Repeats
 * follow the part that they repeat: only that one is made, and counts as often as it stands somewhere.
 * @returns hulls by part name (the first chosen part's, where one shape stands for all), and the parts that are flat:
 *   no convex hull holds them
 */
export function makeHulls(
  asset: Asset,
  chosen: ReadonlySet<string>,
  options: HullOptions,
  check: () => void,
): { byPart: Map<string, Hull[]>; flat: string[] } {
  const meshOf = meshForHulls(asset, check);
  const parts = workedParts(asset).flatMap((part): Group[] => {
    const mesh = meshOf(part);
    if (!mesh || !chosen.has(part.name)) return [];
    const { name } = part;
    const repeats = asset.parts.filter(({ repeat }) => repeat?.of === name);
    return [{ name, label: name, meshes: [mesh], times: 1 + repeats.length }];
  });
  if (!parts.length)
    throw new MissingInputError(
      "the chosen parts have no mesh to make hulls from",
    );
  const groups = groupsOf(asset, parts, meshOf, options);
  const byPart = new Map<string, Hull[]>();
  if (options.shape === "hulls") deal(groups, options, check, byPart);
  else
    for (const { name, label, meshes } of joinNearest(
      groups,
      options.mostHulls,
    )) {
      check();
      const made = shapeOf(pointsOf(meshes), options);
      if (made) keep(byPart, name, label, made, options.shape);
    }
  const isFlat = ({ meshes }: Group) =>
    KINDS[options.shape] === "convex" && !convexHull(pointsOf(meshes), 4);
  return { byPart, flat: parts.filter(isFlat).map(({ label }) => label) };
}

/**
 * The parts as they are made into shapes. Where repeats alone would be more than is wanted they are joined with what
 * is near them like all else, and their shapes are kept with a part that nothing repeats, if there is one.
 */
function groupsOf(
  asset: Asset,
  parts: readonly Group[],
  meshOf: (part: Part) => Mesh | null,
  { whole, mostHulls }: HullOptions,
): readonly Group[] {
  const keeper = parts.find(({ times }) => times === 1);
  const fewest = parts.reduce((sum, { times }) => sum + times, 0);
  const repeated = parts.some(({ times }) => times > 1);
  if (!whole && !(keeper && repeated && fewest > mostHulls)) return parts;
  const placed = parts.flatMap((part) => {
    const repeats = asset.parts.flatMap((each) =>
      each.repeat?.of === part.name ? (meshOf(each) ?? []) : [],
    );
    const by = part.times > 1 && keeper ? keeper : part;
    return [...part.meshes, ...repeats].map((mesh) => ({
      name: by.name,
      label: by.label,
      meshes: [mesh],
      times: 1,
    }));
  });
  return whole
    ? [
        {
          name: (keeper ?? parts[0]).name,
          label: asset.name,
          meshes: placed.flatMap(({ meshes }) => meshes),
          times: 1,
        },
      ]
    : placed;
}

/** Joins groups whose common box adds least, until there are no more than wanted; what is repeated stays by itself. */
function joinNearest(given: readonly Group[], most: number): Group[] {
  let groups = given.map((group) => ({
    ...group,
    bounds: boundsOf(...group.meshes.map(({ positions }) => positions)),
  }));
  const sizeOf = ({ min, max }: Bounds) =>
    [0, 1, 2].reduce((size, k) => size * (max[k] - min[k]), 1);
  while (groups.reduce((sum, { times }) => sum + times, 0) > most) {
    const single = groups.filter(({ times }) => times === 1);
    const pairs = single.flatMap((a, i) =>
      single.slice(i + 1).map((b) => {
        const bounds = boundsOf(
          Float32Array.from([...a.bounds.min, ...a.bounds.max]),
          Float32Array.from([...b.bounds.min, ...b.bounds.max]),
        );
        const cost = sizeOf(bounds) - sizeOf(a.bounds) - sizeOf(b.bounds);
        return { a, b, bounds, cost };
      }),
    );
    if (!pairs.length) break;
    const { a, b, bounds } = pairs.reduce((best, pair) =>
      pair.cost < best.cost ? pair : best,
    );
    const [larger, other] =
      sizeOf(a.bounds) >= sizeOf(b.bounds) ? [a, b] : [b, a];
    const joined = {
      ...larger,
      meshes: [...larger.meshes, ...other.meshes],
      bounds,
    };
    groups = groups.flatMap((group) =>
      group === larger ? [joined] : group === other ? [] : [group],
    );
  }
  return groups;
}

function keep(
  byPart: Map<string, Hull[]>,
  part: string,
  label: string,
  mesh: ConvexMesh,
  shape: ShapeWanted,
): void {
  const list = byPart.get(part) ?? [];
  const name = `${label}_hull_${list.length + 1}`;
  list.push({ name, kind: KINDS[shape], ...mesh });
  byPart.set(part, list);
}

function shapeOf(
  points: Float32Array,
  { shape, vertices }: HullOptions,
): ConvexMesh | null {
  switch (shape) {
    case "box":
      return fitBox(points);
    case "sphere":
      return fitSphere(points);
    case "capsule":
      return fitCapsule(points);
    default:
      return convexHull(points, vertices);
  }
}

/** Cuts and joins over all parts together, so that hulls go where they free most volume. */
function deal(
  groups: readonly Group[],
  options: HullOptions,
  check: () => void,
  byPart: Map<string, Hull[]>,
): void {
  const made = hullsOf(
    groups.map(({ meshes }) => joinMeshes(meshes)),
    { most: options.mostHulls, vertices: options.vertices, tolerance: 0 },
    check,
    groups.map(({ times }) => times),
  );
  for (const { hull, of } of made) {
    const { name, label } = groups[of];
    keep(byPart, name, label, hull, "hulls");
  }
}

function pointsOf(meshes: readonly Mesh[]): Float32Array {
  const points = new Float32Array(
    meshes.reduce((sum, mesh) => sum + mesh.positions.length, 0),
  );
  let at = 0;
  for (const mesh of meshes) {
    points.set(mesh.positions, at);
    at += mesh.positions.length;
  }
  return points;
}

/** What hulls come to against the meshes they stand for. */
export function measureHulls(
  hulls: readonly Hull[],
  meshes: readonly Mesh[],
): HullFigures {
  const points = pointsOf(meshes);
  const indices: number[] = [];
  let base = 0;
  let volume = 0;
  for (const mesh of meshes) {
    const { vertices } = triangulate(mesh);
    volume += volumeOf(mesh.positions, vertices);
    for (const v of vertices) indices.push(base + v);
    base += mesh.positions.length / 3;
  }
  const closest = new ClosestPoint(buildBvh(points, indices));
  let hullVolume = 0;
  let far = 0;
  for (const hull of hulls) {
    hullVolume += volumeOf(hull.positions, hull.triangles);
    const sample = sampleSurface(hull.positions, hull.triangles, 1000).points;
    for (let i = 0; i < sample.length; i += 3) {
      closest.find(sample[i], sample[i + 1], sample[i + 2]);
      far = Math.max(far, closest.distance2);
    }
  }
  return {
    hulls: hulls.length,
    vertices: hulls.reduce((sum, hull) => sum + hull.positions.length / 3, 0),
    volumeRatio: volume > 1e-15 ? hullVolume / volume : 0,
    added: Math.max(0, hullVolume - Math.max(0, volume)) * 1000,
    maxDistance: Math.sqrt(far),
    outside: farthestOutside(hulls, points),
  };
}
