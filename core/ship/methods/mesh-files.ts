import type { Asset } from "../../asset/asset";
import { profileOf } from "../../asset/profile";
import {
  hullMeshes,
  writeMeshFile,
  writeMtl,
  writeObj,
} from "../../formats/index";
import type { GltfImages } from "../../formats/gltf-materials";
import { frameOf, slackOf } from "../../formats/gltf-meshes";
import type { NamedMesh } from "../../formats/raw-mesh";
import type { GltfExtras } from "../../formats/write-gltf";
import { isPlace, writeGlb, writeGltf } from "../../formats/write-gltf";
import type { Matrix } from "../../mesh/transform";
import { IDENTITY, transformMesh } from "../../mesh/transform";
import { withFaces } from "../../mesh/change-faces";
import { triangulate } from "../../mesh/triangulate";
import type { Delivery } from "./delivery";
import type { Names } from "./names";
import { orientFor } from "./orient-for";
import type { Written } from "./read-back";
import type { ShipOptions } from "./ship-options";
import { looksOnTiles, materialOnTile, onOneSheet } from "./tiled";

export interface ShippedFile {
  name: string;
  bytes: Uint8Array;
}

/** What is the same for all files of a delivery. */
export interface Common {
  asset: Asset;
  options: ShipOptions;
  names: Names;
  images: readonly GltfImages[];
  tiles: readonly number[];
}

/** A file, and what it is held against when it is read again. */
export type MeshFile = ShippedFile & { written: Written | null };

/** The mesh files of a delivery: the GLB last, as it comes first in the list. */
export async function meshFiles(
  delivery: Delivery,
  common: Common,
): Promise<MeshFile[]> {
  const { name, parts } = delivery;
  const { asset, options } = common;
  const profile = profileOf(asset.brief);
  const unwrapped = parts.every(({ mesh }) => mesh.uvs);
  const oriented = (list: readonly NamedMesh[]) =>
    list.map((part) => orientFor(part, profile));
  const files: MeshFile[] = [];
  for (const ending of ["stl", "ply"] as const)
    if (options[ending]) {
      const meshes = oriented(parts);
      const file = `${name}.${ending}`;
      files.push({
        name: file,
        bytes: await writeMeshFile(file, meshes),
        written: {
          parts: meshes,
          uvs: ending === "ply" && unwrapped,
          materials: false,
          parted: false,
        },
      });
    }
  const { meshes, extras, written } = asGltf(delivery, common, unwrapped);
  if (options.gltf)
    files.push({
      name: `${name}.gltf`,
      bytes: await writeGltf(name, meshes, extras),
      written,
    });
  if (options.obj) files.push(...objFiles(delivery, common, oriented));
  files.push({
    name: `${name}.glb`,
    bytes: await writeGlb(name, meshes, extras),
    written,
  });
  return files;
}

/** What goes into GLB and glTF. */
function asGltf(
  delivery: Delivery,
  { asset, options, images, tiles }: Common,
  unwrapped: boolean,
): { meshes: NamedMesh[]; extras: GltfExtras; written: Written } {
  const several = tiles.some((tile) => tile > 0);
  const onSheet = (part: NamedMesh): NamedMesh =>
    several ? { ...part, mesh: onOneSheet(part.mesh) } : part;
  const all = asBaked(delivery).map(onSheet);
  const places = placesOf(options.instances ? delivery.repeats : []);
  const instanced = new Map(
    [...places].flatMap(([of, { names }]) =>
      names
        .slice(1)
        .map((name, i): [string, string] => [name, `${of}.${i + 2}`]),
    ),
  );
  const levels = new Map(
    [...delivery.levels].map(([part, list]) => [part, list.map(onSheet)]),
  );
  const meshes = all.filter(({ name }) => !instanced.has(name));
  const { hulls } = delivery;
  const frames = options.quantised
    ? meshes.map((part) =>
        frameOf(
          [part, ...(levels.get(part.name) ?? [])].map(({ mesh }) => mesh),
        ),
      )
    : [];
  return {
    meshes,
    extras: {
      looks: several ? looksOnTiles(asset.looks, tiles) : asset.looks,
      images: unwrapped ? images : [],
      hulls,
      hullsAs: options.hullsAs === "physics" ? "physics" : "name",
      tangents: unwrapped && options.tangents,
      levels: new Map([...levels].filter(([name]) => !instanced.has(name))),
      levelsBy: options.levels === "name" ? "name" : "extension",
      ordered: options.ordered,
      quantised: options.quantised,
      compressed: options.compressed,
      places: new Map([...places].map(([of, { matrices }]) => [of, matrices])),
      cards: several
        ? delivery.cards.flatMap((card) =>
            tiles.map((tile) => materialOnTile(card, tile)),
          )
        : delivery.cards,
      ...(options.cards === "mask" && { cutOff: options.cutOff }),
    },
    written: {
      parts: all.map((part) => ({
        ...part,
        name: instanced.get(part.name) ?? part.name,
      })),
      levels: new Map(
        [...levels].map(([name, list]) => [instanced.get(name) ?? name, list]),
      ),
      hulls: hulls.map(({ name }) => name),
      uvs: unwrapped,
      materials: true,
      parted: true,
      slack: Math.max(
        instanced.size ? 1e-6 * frameOf(all.map(({ mesh }) => mesh)).scale : 0,
        ...frames.map(slackOf),
      ),
    },
  };
}

/**
 * The parts of a delivery, those that repeat another one in the triangles of that one, which was baked: by themselves
 * quads could be parted along the other diagonal.
 */
const asBaked = ({ parts, repeats }: Delivery): NamedMesh[] =>
  parts.map((part) => {
    const repeat = repeats.find(({ name }) => name === part.name);
    const origin = parts.find(({ name }) => name === repeat?.of);
    if (!repeat || !origin) return part;
    const { corners, faces } = triangulate(origin.mesh);
    const starts = Uint32Array.from(
      { length: faces.length + 1 },
      (_, f) => 3 * f,
    );
    return {
      ...part,
      mesh: transformMesh(
        withFaces(origin.mesh, starts, corners, faces),
        repeat.matrix,
      ),
    };
  });

/** Where parts are drawn that others repeat, by the name of their mesh; the first place is their own. */
function placesOf(repeats: Delivery["repeats"]) {
  const places = new Map<string, { names: string[]; matrices: Matrix[] }>();
  for (const { name, of, matrix } of repeats) {
    if (!isPlace(matrix)) continue;
    const known = places.get(of) ?? { names: [of], matrices: [IDENTITY] };
    known.names.push(name);
    known.matrices.push(matrix);
    places.set(of, known);
  }
  return places;
}

/** An OBJ with its material library, and one for each level. */
function objFiles(
  { name, parts, levels, hulls }: Delivery,
  { asset, names }: Common,
  oriented: (list: readonly NamedMesh[]) => NamedMesh[],
): MeshFile[] {
  const library = `${name}.mtl`;
  const most = Math.max(0, ...[...levels.values()].map((list) => list.length));
  const files: MeshFile[] = [];
  const add = (file: string, meshes: NamedMesh[], own: NamedMesh[]) =>
    files.unshift({
      name: `${file}.obj`,
      bytes: writeObj([...meshes, ...own], library),
      written: {
        parts: meshes.map((part) => ({ ...part, name: inObj(part.name) })),
        hulls: own.map((hull) => inObj(hull.name)),
        uvs: meshes.every(({ mesh }) => mesh.uvs),
        materials: true,
        parted: true,
      },
    });
  const first = oriented(parts);
  add(name, first, oriented(hullMeshes(hulls)));
  for (let l = 0; l < most; l++) {
    add(
      names.levelFile(name, l + 1),
      // Each is a file of its own, where a part has its own name.
      oriented(
        [...levels].flatMap(([of, list]) =>
          list[l] ? [{ name: of, mesh: list[l].mesh }] : [],
        ),
      ),
      [],
    );
  }
  const plain = new Set(first.flatMap(({ mesh }) => mesh.materials));
  if (hulls.length) plain.add("hull");
  for (const { material } of asset.looks) plain.delete(material);
  files.unshift({
    name: library,
    bytes: writeMtl([
      ...asset.looks,
      ...[...plain].map((material) => ({ material, colour: "#b8b2a6" })),
    ]),
    written: null,
  });
  return files;
}

/** OBJ has no spaces in names. */
const inObj = (name: string) => name.replace(/\s+/g, "_");
