import type { Asset, Part } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { workedParts } from "../../asset/repeats";
import { buildEdges } from "../../mesh/edges";
import { hardAbove } from "../../mesh/hard-angle";
import { meshFromTriangles } from "../../mesh/change-faces";
import type { Mesh } from "../../mesh/mesh";
import type { Canvas } from "./canvas";
import { canvasOf } from "./canvas";
import type { Channel } from "./channels";
import { gather } from "./mixing";
import { cornerNormals, nextCorners } from "../../mesh/normals";
import { settledOf } from "../../settle/settled-of";
import type { Triangulation } from "../../mesh/triangulate";
import { triangulate } from "../../mesh/triangulate";
import type { Bounds } from "../../space/bounds";
import { boundsOf, diagonalOf } from "../../space/bounds";
import type { Bvh } from "../../space/bvh";
import { buildBvh } from "../../space/bvh";
import { toLinear } from "../../formats/colours";
import { sharpened } from "./rounded-edges";
import type { WideBvh } from "../../space/ray-scene";
import { widen } from "../../space/ray-scene";

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
  /** 3 × triangleCount: 1 + place of ID, material and part, 0 for none; null where no map asks. */
  names: Uint16Array | null;
  /** 9 × triangleCount: linear red, green and blue at the corners; null where no map asks or there are none. */
  colours: Float32Array | null;
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
  /** Half the angle of the cone that they fill, radians. */
  cone: number;
  /** At which radius curvature is told, and how deep thickness looks, metres. */
  radius: number;
  depthUnder: number;
  /** Whether what rays meet on cards is see-through, and not what they miss. */
  inverts: boolean;
  /** Rays a texel, 0 for none; samples along each side of a texel. */
  rays: number;
  grid: number;
  /** What is found for every texel. */
  channels: Channel[];
  /** Longest extent of everything, metres. */
  size: number;
}

export interface SceneOptions {
  /** px */
  width: number;
  height: number;
  rays: number;
  grid: number;
  /** Ray distance for all parts in metres, or 0 to find it for each; and those of single parts. */
  distance: number;
  distances?: ReadonlyMap<string, number>;
  /** What is found for every texel; normals, and with rays occlusion, where left out. */
  channels?: Channel[];
  /** Metres; 0 or left out to follow from the size of everything. */
  reach?: number;
  radius?: number;
  depthUnder?: number;
  /** Angle of the cone of occlusion rays, degrees; the whole sky where left out. */
  cone?: number;
  /** Whether a floor under everything hides the sky from below. */
  floor?: boolean;
  /** Radius of hard edges that have none of their own, metres; 0 or left out for none. */
  round?: number;
  /** Parts that are baked; all where left out. */
  only?: readonly string[];
  /** Parts whose rays may go through them, and whether what they meet is see-through instead. */
  cards?: readonly string[];
  inverts?: boolean;
}

/** What is baked of a part: its source as it is worked on, or what lies under its new skin. */
function bakedSource(
  { source, dense, skinned }: Part,
  check?: () => void,
): Mesh | null {
  const from = skinned ? (dense ?? source) : source;
  return from && settledOf(from, check).mesh;
}

/** Whether edges are baked round, of all parts or of some. */
export const roundsEdges = (
  { parts }: Asset,
  { round }: Pick<SceneOptions, "round">,
): boolean =>
  (round ?? 0) > 0 || parts.some(({ game }) => game?.rounds != null);

/**
 * Whether game meshes without a source are baked from themselves: round edges need none. Sources that are only baked
 * would hide in them.
 */
export const bakesItself = (
  asset: Asset,
  options: Pick<SceneOptions, "round">,
): boolean =>
  roundsEdges(asset, options) &&
  !asset.parts.some((part) => part.source && !part.game);

/** Prepares baking: parts only catch their own source, and sources of parts without a game mesh are for all. */
export function prepareScene(
  given: Asset,
  options: SceneOptions,
  check?: () => void,
): BakeScene {
  const itself = bakesItself(given, options);
  const asset = mapParts(given, (part) => ({
    ...part,
    source:
      bakedSource(part, check) ??
      (itself && part.game ? sharpened(part.game) : null),
  }));
  const targets: Target[] = [];
  const channels = options.channels ?? [
    "normal",
    ...(options.rays > 0 ? (["sky"] as const) : []),
  ];
  const inks = inksOf(asset, channels);
  const target = (parts: readonly Part[], more: readonly Mesh[] = []) =>
    targets.push(
      targetOf(
        [...parts.map((part) => part.source!), ...more],
        [...parts.map((part) => inks(part)), ...more.map(() => null)],
      ),
    ) - 1;
  const loose = asset.parts.filter((part) => part.source && !part.game);
  const looseTarget = loose.length ? target(loose) : -1;
  const canvases: Canvas[] = [];
  for (const part of workedParts(asset)) {
    if (!part.game?.uvs) continue;
    if (options.only && !options.only.includes(part.name)) continue;
    const own = part.source ? target([part]) : -1;
    const caught = [own, looseTarget].filter((target) => target >= 0);
    const looseSources = loose.map((each) => each.source!);
    const nearest = own >= 0 ? [part.source!] : looseSources;
    const card = options.cards?.includes(part.name) ?? false;
    const distance = options.distances?.get(part.name) || options.distance;
    const canvas = canvasOf(
      { part: part.name, card, own },
      part.game,
      nearest,
      caught.map((target) => targets[target]),
      caught,
      distance,
      options.round ?? 0,
      own >= 0 ? looseSources : [],
    );
    canvases.push(canvas);
  }
  const withSource = asset.parts.filter((part) => part.source);
  const box = boundsOf(...withSource.map((part) => part.source!.positions));
  const diagonal = diagonalOf(box);
  let everything = -1;
  if (options.rays > 0)
    everything =
      targets.length === 1 && !options.floor
        ? 0
        : target(withSource, options.floor ? [floorUnder(box)] : []);
  return {
    width: options.width,
    height: options.height,
    canvases,
    targets,
    everything,
    reach: options.reach || 0.4 * diagonal,
    cone: ((options.cone ?? 180) / 360) * Math.PI,
    radius: options.radius || 0.01 * diagonal,
    depthUnder: options.depthUnder || 0.05 * diagonal,
    inverts: options.inverts ?? false,
    rays: options.rays,
    grid: options.grid,
    channels: [...channels],
    size: diagonal,
  };
}

/** Names of all materials of the sources, in the order of the parts. */
export const materialsOf = (asset: Asset): string[] => [
  ...new Set(asset.parts.flatMap(({ source }) => source?.materials ?? [])),
];

/** What the faces of a part's source are called, and what colour they have, as far as maps ask for it. */
type Ink = Pick<Target, "names" | "colours">;

/** @returns what a triangle of a part's source is inked with, in the order of its triangulation */
function inksOf(
  asset: Asset,
  channels: readonly Channel[],
): (part: Part) => Ink {
  const named = (["id", "material", "part"] as const).some((name) =>
    channels.includes(name),
  );
  if (!named && !channels.includes("colour"))
    return () => ({ names: null, colours: null });
  const materials = materialsOf(asset);
  return ({ name, source }) => {
    const { faces, corners } = triangulate(source!);
    const names = named ? new Uint16Array(3 * faces.length) : null;
    const own = asset.parts.findIndex((each) => each.name === name);
    for (let t = 0; names && t < faces.length; t++) {
      const material = source!.faceMaterials?.[faces[t]] ?? 0;
      names[3 * t] = source!.ids?.[faces[t]] ?? 0;
      names[3 * t + 1] = 1 + materials.indexOf(source!.materials[material]);
      names[3 * t + 2] = 1 + own;
    }
    const given = channels.includes("colour") ? source!.colours : null;
    const colours = given && new Float32Array(3 * corners.length);
    for (let i = 0; colours && i < corners.length; i++)
      for (let k = 0; k < 3; k++)
        colours[3 * i + k] = toLinear(given[3 * corners[i] + k] / 255);
    return { names, colours };
  };
}

/** A square under everything, as wide as rays may reach and more. */
function floorUnder(box: Bounds): Mesh {
  const [x0, y, z0] = box.min;
  const [x1, , z1] = box.max;
  const reach = 10 * diagonalOf(box);
  const [low, high] = [Math.min(x0, z0) - reach, Math.max(x1, z1) + reach];
  return meshFromTriangles(
    Float32Array.from([low, y, low, low, y, high, high, y, high, high, y, low]),
    Uint32Array.from([0, 1, 2, 0, 2, 3]),
  );
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

function targetOf(
  meshes: readonly Mesh[],
  inks: readonly (Ink | null)[],
): Target {
  const splits = meshes.map((mesh) => triangulate(mesh));
  const count = splits.reduce((sum, split) => sum + split.faces.length, 0);
  const positions = new Float32Array(9 * count);
  const normals = new Float32Array(9 * count);
  const indices = new Uint32Array(3 * count).map((_, i) => i);
  const open = new Uint8Array(count);
  const names = inks.some((ink) => ink?.names)
    ? new Uint16Array(3 * count)
    : null;
  const colours = inks.some((ink) => ink?.colours)
    ? new Float32Array(9 * count).fill(1)
    : null;
  let at = 0;
  meshes.forEach((mesh, m) => {
    const shading = sourceNormals(mesh);
    gather(positions.subarray(9 * at), mesh.positions, splits[m].vertices, 3);
    gather(normals.subarray(9 * at), shading, splits[m].corners, 3);
    open.set(openSides(mesh, splits[m]), at);
    if (inks[m]?.names) names!.set(inks[m].names, 3 * at);
    if (inks[m]?.colours) colours!.set(inks[m].colours, 9 * at);
    at += splits[m].faces.length;
  });
  const bvh = buildBvh(positions, indices);
  return { tree: widen(bvh), bvh, normals, open, names, colours };
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
