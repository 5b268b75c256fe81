import type { Asset, Hull, HullKind } from "../asset/asset";
import { MissingInputError } from "../errors";
import type { Mesh } from "../mesh/mesh";
import { triangulate } from "../mesh/triangulate";
import { settledOf } from "../mesh/settle/settled-of";
import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import { sampleSurface } from "../space/sample";
import { convexHull, volumeOf } from "./convex-hull";
import type { ConvexMesh } from "./convex-hull";
import { decompose } from "./decompose";
import { fitBox, fitCapsule, fitSphere } from "./fitted-shapes";

export type ShapeWanted = "box" | "sphere" | "capsule" | "hull" | "hulls";

export interface HullOptions {
  shape: ShapeWanted;
  /** One shape for everything instead of one for each part. */
  whole: boolean;
  /** Most hulls over the asset; only `hulls` makes more than one a part. */
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
}

const KINDS: Record<ShapeWanted, HullKind> = {
  box: "box",
  sphere: "sphere",
  capsule: "capsule",
  hull: "convex",
  hulls: "convex",
};

/**
 * Makes collision shapes for the chosen parts from their game meshes, or source meshes where there are none.
 * @returns hulls by part name (the first chosen part's, where one shape stands for all)
 */
export function makeHulls(
  asset: Asset,
  chosen: ReadonlySet<string>,
  options: HullOptions,
  check: () => void,
): { byPart: Map<string, Hull[]>; figures: HullFigures } {
  const parts = asset.parts.flatMap((part) => {
    const bare = asset.parts.every((each) => !each.game);
    const mesh =
      part.game ??
      (bare && part.source ? settledOf(part.source, check).mesh : null);
    return mesh && chosen.has(part.name) ? [{ name: part.name, mesh }] : [];
  });
  if (!parts.length)
    throw new MissingInputError(
      "the chosen parts have no mesh to make hulls from",
    );
  const groups = options.whole
    ? [
        {
          name: parts[0].name,
          label: asset.name,
          meshes: parts.map((p) => p.mesh),
        },
      ]
    : parts.map((p) => ({ name: p.name, label: p.name, meshes: [p.mesh] }));
  const byPart = new Map<string, Hull[]>();
  if (options.shape === "hulls") deal(groups, options, check, byPart);
  else
    for (const { name, label, meshes } of groups) {
      check();
      const points = pointsOf(meshes);
      const made = shapeOf(points, options);
      if (made) byPart.set(name, [named(made, label, 1, options.shape)]);
    }
  return {
    byPart,
    figures: measureHulls(
      [...byPart.values()].flat(),
      parts.map((p) => p.mesh),
    ),
  };
}

const named = (
  mesh: ConvexMesh,
  label: string,
  n: number,
  shape: ShapeWanted,
): Hull => ({
  name: `${label}_hull_${n}`,
  kind: KINDS[shape],
  ...mesh,
});

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
  groups: readonly { name: string; label: string; meshes: Mesh[] }[],
  options: HullOptions,
  check: () => void,
  byPart: Map<string, Hull[]>,
): void {
  const surfaces = groups.map(({ meshes }) => surfaceOf(meshes));
  const made = decompose(surfaces, options.mostHulls, options.vertices, check);
  const boxes = surfaces.map((surface) => middleOf(surface));
  for (const hull of made) {
    const middle = middleOf(hull.positions);
    let owner = 0;
    boxes.forEach((box, k) => {
      if (distance(box, middle) < distance(boxes[owner], middle)) owner = k;
    });
    const { name, label } = groups[owner];
    const list = byPart.get(name) ?? [];
    list.push(named(hull, label, list.length + 1, "hulls"));
    byPart.set(name, list);
  }
}

const distance = (a: number[], b: number[]) =>
  Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

function middleOf(points: ArrayLike<number>): number[] {
  const sum = [0, 0, 0];
  for (let i = 0; i < points.length; i++) sum[i % 3] += points[i];
  return sum.map((x) => (3 * x) / points.length);
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

function surfaceOf(meshes: readonly Mesh[]): Float64Array {
  const lists = meshes.map((mesh) => ({
    mesh,
    vertices: triangulate(mesh).vertices,
  }));
  const surface = new Float64Array(
    lists.reduce((sum, { vertices }) => sum + 3 * vertices.length, 0),
  );
  let at = 0;
  for (const { mesh, vertices } of lists)
    for (const v of vertices)
      for (let k = 0; k < 3; k++) surface[at++] = mesh.positions[3 * v + k];
  return surface;
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
  };
}
