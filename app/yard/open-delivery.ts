import type {
  Material,
  InstancedMesh,
  Mesh as ThreeMesh,
  Object3D,
  Texture,
} from "three";
import { Box3, Matrix4 } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import type { GLTFParser } from "three/examples/jsm/loaders/GLTFLoader.js";
import { MeshoptDecoder } from "meshoptimizer";
import { ArnikError } from "../../core/base/errors";
import { isArchive, unzipFiles } from "../../core/formats/archive";
import { readMeshFiles } from "../../core/formats/index";
import type { Hull } from "../../core/mesh/hull";
import { triangulate } from "../../core/mesh/triangulate";
import { BlockPictureLoader } from "./block-pictures";
import type { Batch, PlacedGeometry } from "./batches";
import { batchesOf } from "./batches";
import type { Facts, GltfJson } from "./facts";
import { drawnParts, factsOf, sourceOf } from "./facts";
import { sharesOf } from "./levels";

/** A delivery, ready to be drawn. */
export interface Delivery {
  name: string;
  /** What is drawn at each level, nearest first. */
  levels: Batch[][];
  /** From which share of the screen on each level is drawn. */
  shares: number[];
  box: Box3;
  hulls: Hull[];
  facts: Facts;
}

export interface GivenBytes {
  name: string;
  bytes: ArrayBuffer;
}

/** The GLBs of what was given: themselves, and those in shipped archives. @throws ArnikError where there is none */
export function glbsOf(
  given: readonly GivenBytes[],
): { name: string; bytes: Uint8Array }[] {
  const found = given.flatMap(({ name, bytes }) => {
    const all = new Uint8Array(bytes);
    if (/\.glb$/i.test(name)) return [{ name, bytes: all }];
    if (!isArchive(name)) return [];
    const files = unzipFiles(name, all);
    if (files["project.json"])
      throw new ArnikError(
        `${name}: it is a project. The yard opens what was shipped from it`,
      );
    return Object.keys(files)
      .filter((each) => /\.glb$/i.test(each))
      .sort()
      .map((each) => ({ name: each, bytes: files[each] }));
  });
  if (!found.length)
    throw new ArnikError(
      `${given[0]?.name ?? "nothing"}: there is no GLB in it. The yard opens GLB files and shipped archives`,
    );
  return found;
}

/**
 * Opens what was shipped as an engine does: by a general loader that knows nothing of Arnik's documents.
 * @throws ArnikError, or the loader's error
 */
export async function openDelivery({
  name,
  bytes,
}: {
  name: string;
  bytes: Uint8Array;
}): Promise<Delivery> {
  const loader = new GLTFLoader()
    .setMeshoptDecoder(MeshoptDecoder)
    .setKTX2Loader(new BlockPictureLoader() as never);
  const buffer = bytes.slice().buffer;
  let loaded: { scene: Object3D; parser: GLTFParser };
  try {
    loaded = await loader.parseAsync(buffer, "");
  } catch (error) {
    throw new ArnikError(
      `${name}: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
  const { scene, parser } = loaded;
  scene.updateMatrixWorld(true);
  const json = parser.json as GltfJson;
  const parts = drawnParts(json);
  const most = Math.max(0, ...parts.map(({ nodes }) => nodes.length));
  const levels: Batch[][] = [];
  for (let l = 0; l < most; l++) {
    const placed: PlacedGeometry[] = [];
    for (const { nodes } of parts)
      placed.push(
        ...(await meshesOf(
          parser,
          nodes[0],
          nodes[Math.min(l, nodes.length - 1)],
        )),
      );
    levels.push(batchesOf(placed));
  }
  const box = new Box3();
  for (const { geometry } of levels[0] ?? []) {
    geometry.computeBoundingBox();
    box.union(geometry.boundingBox!);
  }
  if (box.isEmpty())
    throw new ArnikError(`${name}: there is nothing in it that is drawn`);
  const facts = factsOf(json, await sizesOf(parser, json), {
    min: box.min.toArray(),
    max: box.max.toArray(),
  });
  return {
    name,
    levels,
    shares: sharesOf(
      parts,
      facts.levels.map(({ triangles }) => triangles),
    ),
    box,
    hulls: await hullsIn(name, bytes, facts),
    facts,
  };
}

/** The meshes of a node in their places; a level stands where the part does that it is one of. */
async function meshesOf(
  parser: GLTFParser,
  first: number,
  node: number,
): Promise<PlacedGeometry[]> {
  const [part, object] = (await Promise.all(
    [first, node].map((at) => parser.getDependency("node", at)),
  )) as Object3D[];
  if (object !== part) {
    object.updateMatrix();
    object.matrixWorld.multiplyMatrices(
      part.parent?.matrixWorld ?? new Matrix4(),
      object.matrix,
    );
    for (const child of object.children) child.updateMatrixWorld(true);
  }
  const own = (object as ThreeMesh).isMesh
    ? [object]
    : object.children.filter(
        (child) => parser.associations.get(child)?.nodes === undefined,
      );
  return own.flatMap((each) => {
    const mesh = each as ThreeMesh & Partial<InstancedMesh>;
    if (!mesh.isMesh) return [];
    const { geometry, matrixWorld } = mesh;
    const material = mesh.material as Material;
    const count = mesh.isInstancedMesh ? mesh.count! : 1;
    return Array.from({ length: count }, (_, i) => {
      const matrix = matrixWorld.clone();
      if (mesh.isInstancedMesh) {
        const at = new Matrix4();
        (mesh as InstancedMesh).getMatrixAt(i, at);
        matrix.multiply(at);
      }
      return { geometry, material, matrix };
    });
  });
}

async function sizesOf(
  parser: GLTFParser,
  json: GltfJson,
): Promise<[number, number][]> {
  const sizes = (json.images ?? []).map((): [number, number] => [0, 0]);
  for (const [i, given] of (json.textures ?? []).entries()) {
    const source = sourceOf(given);
    if (source === undefined) continue;
    const texture = (await parser.getDependency("texture", i)) as Texture<{
      width: number;
      height: number;
    }> | null;
    if (texture?.image)
      sizes[source] = [texture.image.width, texture.image.height];
  }
  return sizes;
}

/** The hulls of a file as physics takes them; a file that can't be read for them is drawn all the same. */
async function hullsIn(
  name: string,
  bytes: Uint8Array,
  facts: Facts,
): Promise<Hull[]> {
  try {
    const { parts } = await readMeshFiles([{ name, bytes }]);
    return parts.flatMap(({ hull, mesh, written }) =>
      // What stands for a level lies in the same place as what stands for all.
      hull && !hull.level
        ? [
            {
              name: written,
              kind: hull.kind,
              positions: mesh.positions,
              triangles: triangulate(mesh).vertices,
            },
          ]
        : [],
    );
  } catch (error) {
    facts.findings.push({
      tone: "warn",
      text: `its hulls could not be read: ${error instanceof Error ? error.message : String(error)}`,
    });
    return [];
  }
}
