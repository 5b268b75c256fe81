import type { World } from "@dimforge/rapier3d-compat";
import type { Hull } from "../../mesh/hull";
import { boundsOf } from "../../space/bounds";
import { convexOutline } from "../../space/convex-outline";
import type { Vector } from "../../space/vector";
import type { Rapier } from "./physics";
import { physics } from "./physics";

/** Shots from each side, along one edge of the grid that they are fired from. */
const GRID = 32;
/** Places that are kept to be looked at. */
const PLACES = 40;

/** What a ball met that was fired through an asset from the side, the top and the front. */
export interface FiredBalls {
  /** Metres. */
  diameter: number;
  /** Shots that fly through an opening of the mesh, and those of them that a hull stops. */
  gaps: number;
  stopped: number;
  /** Shots that the mesh stops, and those of them that fly through the hulls. */
  solid: number;
  missed: number;
  /** Where hulls stopped it, metres. */
  places: Vector[];
}

/** A surface of triangles. */
interface Surface {
  /** 3 numbers a vertex, metres. */
  positions: Float32Array;
  /** 3 indices each. */
  triangles: Uint32Array;
}

/**
 * Fires a ball straight through an asset in a grid from three sides, and holds what it meets of the hulls against what
 * it meets of the mesh. An opening is where it flies through the mesh within the convex outline that this has from there.
 * @param diameter metres
 * @param check is called for every row of shots, and throws where the work is cancelled
 */
export async function fireBalls(
  meshes: readonly Surface[],
  hulls: readonly Hull[],
  diameter: number,
  check: () => void,
): Promise<FiredBalls> {
  const rapier = await physics();
  const { min, max } = boundsOf(...meshes.map(({ positions }) => positions));
  const size = Math.max(...max.map((high, k) => high - min[k])) || 1;
  const local = (positions: Float32Array) =>
    positions.map((x, i) => (x - min[i % 3]) / size);
  const mesh = worldOf(rapier, (world) => {
    for (const { positions, triangles } of meshes)
      world.createCollider(
        rapier.ColliderDesc.trimesh(local(positions), triangles),
      );
  });
  const body = worldOf(rapier, (world) => {
    for (const { kind, positions, triangles } of hulls) {
      const points = local(positions);
      const desc =
        kind === "ground"
          ? rapier.ColliderDesc.trimesh(points, triangles)
          : rapier.ColliderDesc.convexHull(points);
      // Without volume there is nothing to meet.
      if (desc) world.createCollider(desc);
    }
  });
  const ball = new rapier.Ball(diameter / size / 2);
  const found: FiredBalls = {
    ...{ diameter, gaps: 0, stopped: 0, solid: 0, missed: 0 },
    places: [],
  };
  const extent = max.map((high, k) => (high - min[k]) / size);
  for (let axis = 0; axis < 3; axis++) {
    const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
    const within = outlineOf(
      meshes.map(({ positions }) => local(positions)),
      u,
      v,
    );
    for (let row = 0; row < GRID; row++) {
      check();
      for (let column = 0; column < GRID; column++) {
        const at = [0, 0, 0];
        at[u] = ((column + 0.5) / GRID) * extent[u];
        at[v] = ((row + 0.5) / GRID) * extent[v];
        const before = 0.1 + diameter / size;
        at[axis] = -before;
        const reach = extent[axis] + 2 * before;
        const flight = (world: World) => meets(world, ball, at, axis, reach);
        const inMesh = flight(mesh);
        const inHulls = flight(body);
        if (inMesh !== null) {
          found.solid++;
          if (inHulls === null) found.missed++;
        } else if (within(at[u], at[v])) {
          found.gaps++;
          if (inHulls === null) continue;
          found.stopped++;
          const place = at.map(
            (x, k) => size * (k === axis ? x + inHulls : x) + min[k],
          );
          found.places.push(place as unknown as Vector);
        }
      }
    }
  }
  mesh.free();
  body.free();
  // Evenly out of all of them.
  const step = Math.max(1, found.places.length / PLACES);
  return {
    ...found,
    places: Array.from(
      { length: Math.min(PLACES, found.places.length) },
      (_, i) => found.places[Math.floor(i * step)],
    ),
  };
}

/** A world of what never moves, ready to be asked. */
function worldOf(rapier: Rapier, fill: (world: World) => void): World {
  const world = new rapier.World({ x: 0, y: 0, z: 0 });
  fill(world);
  world.step();
  return world;
}

/** How far a ball flies along an axis until it meets something; null where it flies through. */
function meets(
  world: World,
  ball: InstanceType<Rapier["Ball"]>,
  [x, y, z]: readonly number[],
  axis: number,
  reach: number,
): number | null {
  const hit = world.castShape(
    { x, y, z },
    { x: 0, y: 0, z: 0, w: 1 },
    {
      x: axis === 0 ? 1 : 0,
      y: axis === 1 ? 1 : 0,
      z: axis === 2 ? 1 : 0,
    },
    ball,
    0,
    reach,
    true,
  );
  return hit ? hit.time_of_impact : null;
}

/** Whether a place lies within the convex outline of points as they are seen along an axis. */
function outlineOf(
  clouds: readonly Float32Array[],
  u: number,
  v: number,
): (x: number, y: number) => boolean {
  const count = clouds.reduce((sum, { length }) => sum + length / 3, 0);
  const flat = new Float64Array(2 * count);
  let at = 0;
  for (const points of clouds)
    for (let i = 0; i < points.length; i += 3) {
      flat[at++] = points[i + u];
      flat[at++] = points[i + v];
    }
  const outline = convexOutline(flat);
  return (x, y) => {
    for (let i = 0; i < outline.length; i += 2) {
      const [ax, ay] = [outline[i], outline[i + 1]];
      const bx = outline[(i + 2) % outline.length];
      const by = outline[(i + 3) % outline.length];
      if ((bx - ax) * (y - ay) - (by - ay) * (x - ax) <= 0) return false;
    }
    return outline.length >= 6;
  };
}
