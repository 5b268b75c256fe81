import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { measureDeviation } from "../../space/deviation";
import { dot, unit } from "../../space/vector";
import { faceComponents } from "../../mesh/components";
import type { Mesh } from "../../mesh/mesh";
import { faceCount, triangleCount } from "../../mesh/mesh";
import { joinMeshes } from "../../mesh/change-faces";
import { cornerNormals } from "../../mesh/normals";
import { triangulate } from "../../mesh/triangulate";
import { fitCard } from "./card";
import type { Cloud } from "./cloud";
import { cloudOf } from "./cloud";
import { fitBoxShape, fitOutline } from "./flat";
import { fitPrism, fitTurned } from "./round";
import { fitTube } from "./tube";

export const STAND_IN_SHAPES = [
  "box",
  "prism",
  "turned",
  "tube",
  "outline",
  "card",
] as const;

export type StandInShape = (typeof STAND_IN_SHAPES)[number];

export interface StandInOptions {
  /** One of them, or the one that comes nearest for its triangles. */
  shape: StandInShape | "best";
  /** Sides of a prism, a turned profile or a tube; 3 at least. */
  sides: number;
  /** Rings of a profile or stations of a path; corners of an outline. 0 for as many as it needs. */
  rings: number;
  capped: boolean;
}

export interface StandIn {
  mesh: Mesh;
  /** The shape of every piece. */
  shapes: StandInShape[];
  triangles: number;
  /** Distance to what it stands for, metres. */
  rms: number;
  max: number;
  /** Mean angle between its normals and those of what it stands for, radians. */
  turned: number;
}

/** The triangles of a piece: the face of each, and its vertices. */
interface Group {
  faces: number[];
  corners: number[];
}

/** Points each way that a shape is rated by. */
const POINTS = 2000;

/**
 * Simple shapes that stand for a piece of a mesh, or for each connected piece of it.
 * @param marks faceCount: faces that are stood for
 * @param each one shape for each connected piece instead of one over all
 */
export function standInFor(
  mesh: Mesh,
  marks: Uint8Array,
  options: StandInOptions,
  each: boolean,
  check: () => void = () => {},
): StandIn | null {
  const { ofFace } = faceComponents(mesh);
  const split = triangulate(mesh);
  const groups = new Map<number, Group>();
  split.faces.forEach((f, t) => {
    if (!marks[f]) return;
    const key = each ? ofFace[f] : 0;
    const group = groups.get(key) ?? { faces: [], corners: [] };
    groups.set(key, group);
    group.faces.push(f);
    group.corners.push(...split.vertices.subarray(3 * t, 3 * t + 3));
  });
  const made: StandIn[] = [];
  for (const group of groups.values()) {
    check();
    const shape = shapeFor(mesh, group, options);
    if (shape) made.push(shape);
  }
  if (!made.length) return null;
  const triangles = made.reduce((sum, one) => sum + one.triangles, 0);
  return {
    mesh: joinMeshes(made.map((one) => one.mesh)),
    shapes: made.flatMap((one) => one.shapes),
    triangles,
    rms: Math.sqrt(
      made.reduce((sum, one) => sum + one.rms ** 2, 0) / made.length,
    ),
    max: Math.max(...made.map((one) => one.max)),
    turned: made.reduce((sum, one) => sum + one.turned, 0) / made.length,
  };
}

/** How much better than a simpler one a shape must be. */
const LEAD: Record<StandInShape, number> = {
  box: 1,
  prism: 0.95,
  turned: 0.9,
  tube: 0.9,
  outline: 0.6,
  card: 0,
};

/** What a shape costs: its distance, how far its shading is off, and its triangles a little. */
const costOf = ({ rms, turned, triangles }: StandIn) =>
  rms * (1 + 3 * turned) * triangles ** 0.5;

/** Mean angle between the normals of a cloud and of what lies nearest to it on a mesh, radians. */
function turnedBy(cloud: Cloud, mesh: Mesh): number {
  const split = triangulate(mesh);
  const closest = new ClosestPoint(buildBvh(mesh.positions, split.vertices));
  const shading = cornerNormals(mesh);
  let sum = 0;
  let count = 0;
  for (let i = 0; i < 3 * cloud.count; i += 12) {
    const t = closest.find(
      cloud.points[i],
      cloud.points[i + 1],
      cloud.points[i + 2],
    );
    if (t < 0) continue;
    const { u, v } = closest;
    const n = [0, 0, 0];
    [1 - u - v, u, v].forEach((weight, k) => {
      for (let a = 0; a < 3; a++)
        n[a] += weight * shading[3 * split.corners[3 * t + k] + a];
    });
    const cos = dot(unit(n), cloud.normals.subarray(i, i + 3));
    sum += Math.acos(Math.max(-1, Math.min(1, cos)));
    count++;
  }
  return count ? sum / count : Math.PI;
}

function shapeFor(
  mesh: Mesh,
  { faces, corners }: Group,
  options: StandInOptions,
): StandIn | null {
  const cloud = cloudOf(mesh.positions, corners);
  const { sides, rings, capped } = options;
  const make: Record<StandInShape, () => Mesh> = {
    box: () => fitBoxShape(cloud, capped),
    prism: () => fitPrism(cloud, sides, capped),
    turned: () => fitTurned(cloud, sides, rings, capped),
    tube: () => fitTube(cloud, sides, rings, capped),
    outline: () => fitOutline(cloud, rings, capped),
    card: () => fitCard(cloud, rings),
  };
  // A card needs an opacity map: it comes only where it is asked for.
  const tried =
    options.shape === "best"
      ? STAND_IN_SHAPES.filter((shape) => shape !== "card")
      : [options.shape];
  const surface = { positions: cloud.vertices, triangles: cloud.triangles };
  const found = tried.flatMap((shape): StandIn[] => {
    const own = make[shape]();
    if (!own.corners.length || !own.positions.every(Number.isFinite)) return [];
    const fitted = {
      positions: own.positions,
      triangles: triangulate(own).vertices,
    };
    const { rms, max } = measureDeviation(surface, fitted, POINTS);
    return [
      {
        mesh: withSurface(own, mesh, faces),
        shapes: [shape],
        triangles: triangleCount(own),
        rms: rms * cloud.size,
        max: max * cloud.size,
        turned: turnedBy(cloud, own),
      },
    ];
  });
  return found.reduce<StandIn | null>(
    (best, one) =>
      !best || costOf(one) < LEAD[one.shapes[0]] * costOf(best) ? one : best,
    null,
  );
}

/** The material and the ID that most of the triangles have. */
function withSurface(made: Mesh, mesh: Mesh, faces: readonly number[]): Mesh {
  const most = (values: ArrayLike<number> | null) => {
    const counts = new Map<number, number>();
    if (values)
      for (const f of faces)
        counts.set(values[f], (counts.get(values[f]) ?? 0) + 1);
    return [...counts].sort((a, b) => b[1] - a[1] || a[0] - b[0])[0]?.[0] ?? 0;
  };
  const id = most(mesh.ids);
  return {
    ...made,
    materials: [mesh.materials[most(mesh.faceMaterials)] ?? mesh.materials[0]],
    ids: id ? new Uint16Array(faceCount(made)).fill(id) : null,
  };
}
