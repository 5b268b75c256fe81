import type { Asset, Part } from "../../asset/asset";
import type { Hull, HullKind } from "../../mesh/hull";
import { workedParts } from "../../asset/repeats";
import { MissingInputError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import type { Context } from "../../base/context";
import { withinDeviation } from "../../decimate/lighten-mesh";
import { joinMeshes } from "../../mesh/change-faces";
import { triangulate } from "../../mesh/triangulate";
import type { Bounds } from "../../space/bounds";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { convexHull } from "./convex-hull";
import type { ConvexMesh } from "../../mesh/hull";
import { withFlatFoot } from "./flat-foot";
import { pointsOf } from "./hull-meshes";
import { bestShape } from "./best-shape";
import { fitPrism } from "./prism";
import { hullsOf } from "./solids";
import { fitBox, fitCapsule, fitSphere } from "./fitted-shapes";

export type ShapeWanted =
  "best" | "box" | "sphere" | "capsule" | "prism" | "hull" | "hulls" | "ground";

/** What one shape, or the shapes of one count, are made for. */
export type Together = "part" | "group" | "asset";

export interface HullOptions {
  shape: ShapeWanted;
  together: Together;
  /** Most hulls over the chosen parts and what repeats them; only `hulls` and `best` make more than one a part. */
  mostHulls: number;
  /** Most vertices of a convex hull, and twice the sides of a prism. */
  vertices: number;
  /** How far a shape may stand off what it is made for, metres; 0 for as little as the number of hulls allows. */
  error: number;
  /** Gaps that are narrower may be covered, metres. */
  smallestGap: number;
}

/** What kind of hull a shape is. */
export const KINDS: Record<Exclude<ShapeWanted, "best">, HullKind> = {
  box: "box",
  sphere: "sphere",
  capsule: "capsule",
  prism: "prism",
  hull: "convex",
  hulls: "convex",
  ground: "ground",
};

/**
 * Cutting stops at this share of what is allowed: it is measured at fewer points than the result, and feet are made flat
 * after it. Where shapes are put round the pieces then, they may have half.
 */
const SURE = 0.85;
const HALF = 0.5;
/** What "best" may stand off where nothing is said, as a share of the size of all. */
const BEST_ERROR = 0.01;

/** What one shape, or several, are made of. */
interface Group {
  /** The part that the shapes are kept with. */
  name: string;
  label: string;
  meshes: Mesh[];
  /** How often it stands somewhere: once, and once more for every repeat of it. */
  times: number;
}

/**
 * Makes collision shapes for the chosen parts. Repeats follow the part that they repeat: only that one is made, and
 * counts as often as it stands somewhere.
 * @param meshOf what they are made from, see `meshForHulls`
 * @returns hulls by part name (the first chosen part's, where one shape stands for several), and the parts that are
 *   flat: no convex hull holds them
 */
export function makeHulls(
  asset: Asset,
  chosen: ReadonlySet<string>,
  meshOf: (part: Part) => Mesh | null,
  options: HullOptions,
  context: Context,
): { byPart: Map<string, Hull[]>; flat: string[] } {
  const { shape } = options;
  const parts = workedParts(asset).flatMap((part): Group[] => {
    const mesh = chosen.has(part.name) ? meshOf(part) : null;
    if (!mesh) return [];
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
  const check = () => context.check();
  if (shape === "hulls" || shape === "best")
    deal(groups, options, context, byPart);
  else if (shape === "ground") layGround(groups, options, context, byPart);
  else
    for (const { name, label, meshes } of joinNearest(
      groups,
      options.mostHulls,
    )) {
      check();
      const made = shapeRound(pointsOf(meshes), shape, options.vertices);
      if (made) keep(byPart, name, label, made, KINDS[shape]);
    }
  const needsVolume =
    shape !== "box" &&
    shape !== "sphere" &&
    shape !== "capsule" &&
    shape !== "ground";
  const isFlat = ({ meshes }: Group) =>
    needsVolume && !convexHull(pointsOf(meshes), 4);
  return {
    byPart: withFlatFoot(
      byPart,
      boundsOf(
        ...asset.parts.flatMap(
          ({ game, source }) => (game ?? source)?.positions ?? [],
        ),
      ),
      pointsOf(parts.flatMap(({ meshes }) => meshes)),
      options.vertices,
      options.error ? (1 - SURE) * options.error : Infinity,
    ),
    flat: parts.filter(isFlat).map(({ label }) => label),
  };
}

/**
 * The parts as they are made into shapes. Where repeats alone would be more than is wanted they are joined with what
 * is near them like all else, and their shapes are kept with a part that nothing repeats, if there is one.
 */
function groupsOf(
  asset: Asset,
  parts: readonly Group[],
  meshOf: (part: Part) => Mesh | null,
  { together, mostHulls, shape }: HullOptions,
): readonly Group[] {
  const keeper = parts.find(({ times }) => times === 1);
  const fewest = parts.reduce((sum, { times }) => sum + times, 0);
  const repeated = parts.some(({ times }) => times > 1);
  if (together === "group") return joinedGroups(asset, parts, meshOf);
  const whole = together === "asset";
  const tooMany =
    keeper && repeated && fewest > mostHulls && shape !== "ground";
  if (!whole && !tooMany) return parts;
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

/** What lies in one group of the ledger as one; a part without a group stands for itself. */
function joinedGroups(
  asset: Asset,
  parts: readonly Group[],
  meshOf: (part: Part) => Mesh | null,
): Group[] {
  const byLabel = new Map<string, Group>();
  for (const part of parts) {
    const { group } = asset.parts.find(({ name }) => name === part.name)!;
    const label = group || part.label;
    const repeats = asset.parts.flatMap((each) =>
      group && each.repeat?.of === part.name ? (meshOf(each) ?? []) : [],
    );
    const found = byLabel.get(label);
    byLabel.set(label, {
      name: found?.name ?? part.name,
      label,
      meshes: [...(found?.meshes ?? []), ...part.meshes, ...repeats],
      times: group ? 1 : part.times,
    });
  }
  return [...byLabel.values()];
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
  kind: HullKind,
): void {
  const list = byPart.get(part) ?? [];
  list.push({ name: `${label}_hull_${list.length + 1}`, kind, ...mesh });
  byPart.set(part, list);
}

/** One shape as small as it may be round points (3 × n, metres); null where they are flat and it can't be. */
export function shapeRound(
  points: Float32Array,
  shape: ShapeWanted,
  vertices: number,
): ConvexMesh | null {
  switch (shape) {
    case "box":
      return fitBox(points);
    case "sphere":
      return fitSphere(points);
    case "capsule":
      return fitCapsule(points);
    case "prism":
      return convexHull(points, 4) && fitPrism(points, sidesOf(vertices));
    default:
      return convexHull(points, vertices);
  }
}

/** Sides of a prism with so many vertices. */
const sidesOf = (vertices: number) => Math.max(3, Math.floor(vertices / 2));

/** Cuts and joins over all parts together, so that hulls go where they free most volume. */
function deal(
  groups: readonly Group[],
  options: HullOptions,
  context: Context,
  byPart: Map<string, Hull[]>,
): void {
  const best = options.shape === "best";
  const size = diagonalOf(
    boundsOf(
      ...groups.flatMap(({ meshes }) => meshes.map((mesh) => mesh.positions)),
    ),
  );
  const error = options.error || (best ? BEST_ERROR * size : 0);
  const made = hullsOf(
    groups.map(({ meshes }) => joinMeshes(meshes)),
    {
      most: options.mostHulls,
      vertices: options.vertices,
      tolerance:
        (best ? HALF : SURE) * Math.max(error, options.smallestGap / 2),
    },
    context,
    groups.map(({ times }) => times),
  );
  for (const { hull, points, of } of made) {
    const { name, label } = groups[of];
    if (best) {
      context.check();
      const { kind, mesh } = bestShape(points, hull, HALF * error);
      keep(byPart, name, label, mesh, kind);
    } else keep(byPart, name, label, hull, "convex");
  }
}

/** Triangles below which a ground mesh is not thinned further. */
const GROUND_FEWEST = 4;

/** A lighter surface of each group, as far from it as the error allows. */
function layGround(
  groups: readonly Group[],
  { error }: HullOptions,
  context: Context,
  byPart: Map<string, Hull[]>,
): void {
  for (const { name, label, meshes } of groups) {
    const mesh = joinMeshes(meshes);
    const limit =
      SURE * error || BEST_ERROR * diagonalOf(boundsOf(mesh.positions));
    const light = withinDeviation(mesh, limit, context, GROUND_FEWEST).mesh;
    const { positions } = light;
    const triangles = triangulate(light).vertices;
    keep(byPart, name, label, { positions, triangles }, "ground");
  }
}
