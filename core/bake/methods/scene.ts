import type { Asset, Part } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { workedParts } from "../../asset/repeats";
import { buildEdges } from "../../mesh/edges";
import { hardAbove } from "../../mesh/hard-angle";
import type { Mesh } from "../../mesh/mesh";
import { cornerNormals, nextCorners } from "../../mesh/normals";
import { settledOf } from "../../settle/settled-of";
import { tangentsOf } from "../../mesh/tangents";
import type { Triangulation } from "../../mesh/triangulate";
import { triangulate } from "../../mesh/triangulate";
import { boundsOf, diagonalOf } from "../../space/bounds";
import type { Bvh } from "../../space/bvh";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import type { WideBvh } from "../../space/ray-scene";
import { widen } from "../../space/ray-scene";
import { sampleSurface } from "../../space/sample";

/** Edges sharper than this shade as hard on a source mesh that came without normals. */
const SOURCE_HARD_ANGLE = 60;

/** Source triangles that bake together, with what a hit needs. */
export interface Target {
  tree: WideBvh;
  bvh: Bvh;
  /** 9 × triangleCount: normals at the three corners. */
  normals: Float32Array;
  /** triangleCount: bit k where the edge from corner k is an open border, bit 3 + k where corner k lies on one. */
  open: Uint8Array;
}

/** Game triangles of one part in the sheet. */
export interface Canvas {
  /** 9 × triangleCount */
  positions: Float32Array;
  /** 6 × triangleCount */
  uvs: Float32Array;
  /** 9 × triangleCount: shading normals, and the smoothed directions of the rays. */
  normals: Float32Array;
  directions: Float32Array;
  /** 12 × triangleCount */
  tangents: Float32Array;
  /** How far rays start outside the surface and end inside it, metres. */
  distance: number;
  /** Which targets its rays may catch. */
  targets: number[];
}

/** All that the baking kernel needs; copied to every thread once. */
export interface BakeScene {
  /** px */
  width: number;
  height: number;
  canvases: Canvas[];
  targets: Target[];
  /** Target that holds everything, for occlusion; −1 where it is not wanted. */
  everything: number;
  /** How far occlusion rays reach, metres. */
  reach: number;
  /** Occlusion rays a texel, 0 for none; samples along each side of a texel. */
  rays: number;
  grid: number;
}

export interface SceneOptions {
  /** px */
  width: number;
  height: number;
  rays: number;
  grid: number;
  /** Ray distance for all parts in metres, or 0 to find it for each. */
  distance: number;
}

/** What is baked of a part: its source as it is worked on, or what lies under its new skin. */
function bakedSource(
  { source, dense, skinned }: Part,
  check?: () => void,
): Mesh | null {
  const from = skinned ? (dense ?? source) : source;
  return from && settledOf(from, check).mesh;
}

/** Prepares baking: parts only catch their own source, and sources of parts without a game mesh are for all. */
export function prepareScene(
  given: Asset,
  options: SceneOptions,
  check?: () => void,
): BakeScene {
  const asset = mapParts(given, (part) => ({
    ...part,
    source: bakedSource(part, check),
  }));
  const targets: Target[] = [];
  const loose = asset.parts.filter((part) => part.source && !part.game);
  const looseTarget = loose.length
    ? targets.push(targetOf(loose.map((part) => part.source!))) - 1
    : -1;
  const canvases: Canvas[] = [];
  for (const part of workedParts(asset)) {
    if (!part.game?.uvs) continue;
    const own = part.source ? targets.push(targetOf([part.source])) - 1 : -1;
    const caught = [own, looseTarget].filter((target) => target >= 0);
    const looseSources = loose.map((each) => each.source!);
    const nearest = own >= 0 ? [part.source!] : looseSources;
    const canvas = canvasOf(
      part.game,
      nearest,
      caught.map((target) => targets[target]),
      caught,
      options.distance,
    );
    if (!options.distance && own >= 0)
      canvas.distance = Math.max(
        canvas.distance,
        reachOver(part.game, looseSources),
      );
    canvases.push(canvas);
  }
  const sources = asset.parts.flatMap((part) =>
    part.source ? [part.source] : [],
  );
  let everything = -1;
  if (options.rays > 0)
    everything = targets.length === 1 ? 0 : targets.push(targetOf(sources)) - 1;
  return {
    width: options.width,
    height: options.height,
    canvases,
    targets,
    everything,
    reach: 0.4 * diagonalOf(boundsOf(...sources.map((mesh) => mesh.positions))),
    rays: options.rays,
    grid: options.grid,
  };
}

/**
 * Shading normals of a source mesh: its own, or smooth ones with sharp edges left hard.
 * @returns 3 × cornerCount, unit vectors
 */
export function sourceNormals(mesh: Mesh): Float32Array {
  return (
    mesh.normals ??
    cornerNormals(
      mesh.hard
        ? mesh
        : { ...mesh, hard: hardAbove(mesh, SOURCE_HARD_ANGLE).hard },
    )
  );
}

function targetOf(meshes: readonly Mesh[]): Target {
  const splits = meshes.map((mesh) => triangulate(mesh));
  const count = splits.reduce((sum, split) => sum + split.faces.length, 0);
  const positions = new Float32Array(9 * count);
  const normals = new Float32Array(9 * count);
  const indices = new Uint32Array(3 * count).map((_, i) => i);
  const open = new Uint8Array(count);
  let at = 0;
  meshes.forEach((mesh, m) => {
    const shading = sourceNormals(mesh);
    gather(positions.subarray(9 * at), mesh.positions, splits[m].vertices, 3);
    gather(normals.subarray(9 * at), shading, splits[m].corners, 3);
    open.set(openSides(mesh, splits[m]), at);
    at += splits[m].faces.length;
  });
  const bvh = buildBvh(positions, indices);
  return { tree: widen(bvh), bvh, normals, open };
}

/** triangleCount: which sides and corners of each triangle lie on an edge that one face alone uses, see `Target`. */
function openSides(mesh: Mesh, { corners }: Triangulation): Uint8Array {
  const edges = buildEdges(mesh);
  const onBorder = new Uint8Array(mesh.positions.length / 3);
  for (let e = 0; e < edges.count; e++)
    if (edges.uses[e] === 1)
      onBorder[edges.vertices[2 * e]] = onBorder[edges.vertices[2 * e + 1]] = 1;
  const next = nextCorners(mesh.faceStarts, mesh.corners.length);
  const open = new Uint8Array(corners.length / 3);
  for (let i = 0; i < corners.length; i++) {
    const t = (i / 3) | 0;
    if (onBorder[mesh.corners[corners[i]]]) open[t] |= 8 << (i - 3 * t);
    const following = corners[i % 3 === 2 ? i - 2 : i + 1];
    if (
      next[corners[i]] === following &&
      edges.uses[edges.ofCorner[corners[i]]] === 1
    )
      open[t] |= 1 << (i - 3 * t);
  }
  return open;
}

/** Triangles that share the texels of others lie whole sheets away from the bake: only the first of each is baked. */
function ownTexels(game: Mesh, split: Triangulation): Triangulation {
  if (!game.copies) return split;
  const own = [...split.faces.keys()].filter(
    (t) => !game.copies![split.faces[t]],
  );
  const pick = (from: Uint32Array) =>
    Uint32Array.from(
      own.flatMap((t) => [from[3 * t], from[3 * t + 1], from[3 * t + 2]]),
    );
  return {
    corners: pick(split.corners),
    vertices: pick(split.vertices),
    faces: Uint32Array.from(own, (t) => split.faces[t]),
  };
}

function gather(
  into: Float32Array,
  from: Float32Array,
  index: Uint32Array,
  width: number,
): void {
  for (let i = 0; i < index.length; i++)
    for (let k = 0; k < width; k++)
      into[width * i + k] = from[width * index[i] + k];
}

function canvasOf(
  game: Mesh,
  sources: Mesh[],
  near: Target[],
  targets: number[],
  wanted: number,
): Canvas {
  const split = ownTexels(game, triangulate(game));
  const shading = game.normals ?? cornerNormals(game);
  const smooth = cornerNormals({ ...game, hard: null });
  const positions = new Float32Array(3 * split.vertices.length);
  const normals = new Float32Array(positions.length);
  const directions = new Float32Array(positions.length);
  const uvs = new Float32Array(2 * split.corners.length);
  gather(positions, game.positions, split.vertices, 3);
  gather(normals, shading, split.corners, 3);
  gather(directions, smooth, split.corners, 3);
  gather(uvs, game.uvs!, split.corners, 2);
  return {
    positions,
    uvs,
    normals,
    directions,
    tangents: tangentsOf(game, shading, split),
    distance:
      wanted ||
      (near.length ? rayDistance(sources, game, split, near[0].bvh) : 0),
    targets,
  };
}

/** The largest distance between the two meshes, by points of both, and a quarter more. */
function rayDistance(
  sources: Mesh[],
  game: Mesh,
  split: Triangulation,
  sourceBvh: Bvh,
): number {
  const fromGame = farthest(
    sampleSurface(game.positions, split.vertices, 6000).points,
    sourceBvh,
    1,
  );
  const gameBvh = buildBvh(game.positions, split.vertices);
  const share = Math.ceil(6000 / sources.length);
  const fromSource = Math.max(
    ...sources.map((mesh) =>
      farthest(
        sampleSurface(mesh.positions, triangulate(mesh).vertices, share).points,
        gameBvh,
        0.995,
      ),
    ),
  );
  const diagonal = diagonalOf(boundsOf(game.positions));
  return 1.25 * Math.max(fromGame, fromSource) + 1e-3 * diagonal;
}

/** How far outside a game mesh rays must start to catch what floats on it: detail nearer than 3 % of its size. */
function reachOver(game: Mesh, loose: Mesh[]): number {
  if (!loose.length) return 0;
  const closest = new ClosestPoint(
    buildBvh(game.positions, triangulate(game).vertices),
  );
  const near = (0.03 * diagonalOf(boundsOf(game.positions))) ** 2;
  let most = 0;
  for (const mesh of loose) {
    const { points } = sampleSurface(
      mesh.positions,
      triangulate(mesh).vertices,
      4000,
    );
    for (let i = 0; i < points.length; i += 3) {
      if (
        closest.find(points[i], points[i + 1], points[i + 2], near) >= 0 &&
        closest.distance2 > most
      )
        most = closest.distance2;
    }
  }
  return 1.1 * Math.sqrt(most);
}

function farthest(points: Float32Array, bvh: Bvh, share: number): number {
  const closest = new ClosestPoint(bvh);
  const found = new Float64Array(points.length / 3);
  for (let i = 0; i < found.length; i++) {
    closest.find(points[3 * i], points[3 * i + 1], points[3 * i + 2]);
    found[i] = closest.distance2;
  }
  found.sort();
  return Math.sqrt(
    found[Math.min(found.length - 1, Math.floor(share * found.length))] ?? 0,
  );
}
