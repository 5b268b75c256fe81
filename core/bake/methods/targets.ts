import type { Asset, Part } from "../../asset/asset";
import { toLinear } from "../../formats/colours";
import { meshFromTriangles } from "../../mesh/change-faces";
import { buildEdges } from "../../mesh/edges";
import { hardAbove } from "../../mesh/hard-angle";
import type { Mesh } from "../../mesh/mesh";
import { cornerNormals, nextCorners } from "../../mesh/normals";
import type { Triangulation } from "../../mesh/triangulate";
import { triangulate } from "../../mesh/triangulate";
import type { Bounds } from "../../space/bounds";
import { diagonalOf } from "../../space/bounds";
import type { Bvh } from "../../space/bvh";
import { buildBvh } from "../../space/bvh";
import type { WideBvh } from "../../space/ray-scene";
import { widen } from "../../space/ray-scene";
import type { Channel } from "./channels";
import { gather } from "./mixing";
import type { ColourPicture } from "./source-pictures";

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
  /** triangleCount: 1 + place among the scene's pictures, 0 for none, and 6 × triangleCount UVs on them; null likewise. */
  pictures: Uint8Array | null;
  uvs: Float32Array | null;
}

/** Pictures that materials of one bake may have: a byte tells them apart. */
export const MOST_PICTURES = 255;

/** The targets of a bake, each made once. */
export class TargetList {
  readonly targets: Target[] = [];
  private readonly known = new Map<string, number>();
  private readonly inks: (part: Part) => Ink;
  private readonly floor: Mesh | null;

  /**
   * @param pictures on the sources' materials
   * @param floor bounds of what stands on a floor; null for none
   * @param made targets that were made before of the same sources, by what they are of; new ones are put in
   */
  constructor(
    asset: Asset,
    channels: readonly Channel[],
    pictures: readonly ColourPicture[],
    floor: Bounds | null,
    private readonly made = new Map<string, Target>(),
  ) {
    this.inks = inksOf(asset, channels, pictures);
    this.floor = floor && floorUnder(floor);
  }

  /** The target of the sources of some parts, and where rays look round with the floor; −1 for none. */
  of(parts: readonly Part[], looksRound = false): number {
    const more = looksRound && this.floor ? [this.floor] : [];
    if (!parts.length && !more.length) return -1;
    return this.keep(
      JSON.stringify([parts.map(({ name }) => name), more.length]),
      () =>
        targetOf(
          [...parts.map((part) => part.source!), ...more],
          [...parts.map((part) => this.inks(part)), ...more.map(() => null)],
        ),
    );
  }

  /** The target of a piece of a part's source; −1 where there is none. */
  ofPiece(part: Part, source: Mesh | null, piece: number): number {
    return source
      ? this.keep(JSON.stringify([part.name, piece]), () =>
          targetOf([source], [this.inks({ ...part, source })]),
        )
      : -1;
  }

  private keep(key: string, make: () => Target): number {
    let at = this.known.get(key);
    if (at === undefined) {
      const target = this.made.get(key) ?? make();
      this.made.set(key, target);
      at = this.targets.push(target) - 1;
      this.known.set(key, at);
    }
    return at;
  }
}

/** Names of all materials of the sources, in the order of the parts. */
export const materialsOf = (asset: Asset): string[] => [
  ...new Set(asset.parts.flatMap(({ source }) => source?.materials ?? [])),
];

/** What the faces of a part's source are called, and what colour they have, as far as maps ask for it. */
type Ink = Pick<Target, "names" | "colours" | "pictures" | "uvs">;

/** @returns what a triangle of a part's source is inked with, in the order of its triangulation */
function inksOf(
  asset: Asset,
  channels: readonly Channel[],
  shown: readonly ColourPicture[],
): (part: Part) => Ink {
  const named = (["id", "material", "part"] as const).some((name) =>
    channels.includes(name),
  );
  if (!named && !channels.includes("colour"))
    return () => ({ names: null, colours: null, pictures: null, uvs: null });
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
    return { names, colours, ...picturesOn(source!, shown) };
  };
}

/** Which picture lies on each triangle of a source, and where. */
function picturesOn(
  mesh: Mesh,
  shown: readonly ColourPicture[],
): Pick<Target, "pictures" | "uvs"> {
  const of = mesh.materials.map(
    (name) => 1 + shown.findIndex(({ material }) => material === name),
  );
  if (!mesh.uvs || !of.some((place) => place > 0))
    return { pictures: null, uvs: null };
  const { faces, corners } = triangulate(mesh);
  const uvs = new Float32Array(2 * corners.length);
  gather(uvs, mesh.uvs, corners, 2);
  return {
    pictures: Uint8Array.from(
      faces,
      (f) => of[mesh.faceMaterials?.[f] ?? 0] ?? 0,
    ),
    uvs,
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
  const pictures = inks.some((ink) => ink?.pictures)
    ? new Uint8Array(count)
    : null;
  const uvs = pictures && new Float32Array(6 * count);
  let at = 0;
  meshes.forEach((mesh, m) => {
    const shading = sourceNormals(mesh);
    gather(positions.subarray(9 * at), mesh.positions, splits[m].vertices, 3);
    gather(normals.subarray(9 * at), shading, splits[m].corners, 3);
    open.set(openSides(mesh, splits[m]), at);
    if (inks[m]?.names) names!.set(inks[m].names, 3 * at);
    if (inks[m]?.colours) colours!.set(inks[m].colours, 9 * at);
    if (inks[m]?.pictures) {
      pictures!.set(inks[m].pictures, at);
      uvs!.set(inks[m].uvs!, 6 * at);
    }
    at += splits[m].faces.length;
  });
  const bvh = buildBvh(positions, indices);
  return {
    tree: widen(bvh),
    bvh,
    normals,
    open,
    names,
    colours,
    pictures,
    uvs,
  };
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
