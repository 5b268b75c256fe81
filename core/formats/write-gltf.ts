import {
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  EXTTextureWebP,
  KHRMeshQuantization,
  KHRTextureBasisu,
} from "@gltf-transform/extensions";
import { Document, MathUtils, WebIO } from "@gltf-transform/core";
import type { Node } from "@gltf-transform/core";
import { MeshoptEncoder } from "meshoptimizer";
import { shapeOf } from "../mesh/collider-shape";
import type { Hull } from "../mesh/hull";
import { triangleCount } from "../mesh/mesh";
import type { Matrix } from "../mesh/transform";
import { toBase64 } from "./base64";
import type { KeptExtras } from "./kept-extras";
import { writeKept } from "./kept-extras";
import { LevelsExtension, screenCoverage } from "./gltf-levels";
import type { MaterialExtras } from "./gltf-materials";
import { materialsOf } from "./gltf-materials";
import type { Frame, MeshExtras } from "./gltf-meshes";
import { frameOf, MeshWriter } from "./gltf-meshes";
import { PhysicsExtension, setCollider } from "./gltf-physics";
import type { NamedMesh } from "./raw-mesh";

export interface GltfExtras extends MaterialExtras, Omit<MeshExtras, "marked"> {
  /** Hulls, with the part that each stands for. */
  hulls?: readonly (Hull & { of: string })[];
  /** Whether hulls are nodes with meshes, or what physics engines read (KHR_physics_rigid_bodies). */
  hullsAs?: "name" | "physics";
  /** Levels of detail of parts, by the part's name, nearest first. */
  levels?: ReadonlyMap<string, readonly NamedMesh[]>;
  /** Whether levels stand in for their part (MSFT_lod), or are nodes of the scene by their names. */
  levelsBy?: "extension" | "name";
  /** Where parts are drawn, by their names (EXT_mesh_gpu_instancing); parts that are missing are where they are. */
  places?: ReadonlyMap<string, readonly Matrix[]>;
  /** Whether positions and UVs are kept in 16 bits (KHR_mesh_quantization). */
  quantised?: boolean;
  /** Whether data is compressed without loss (EXT_meshopt_compression). */
  compressed?: boolean;
  /** Whether to write marks of faces (IDs, density and the like), and what else is kept of the asset. */
  marks?: Partial<KeptExtras>;
}

/** Writes parts, with maps as their materials and hulls as nodes of their own, as one GLB. */
export async function writeGlb(
  name: string,
  parts: readonly NamedMesh[],
  extras: GltfExtras = {},
): Promise<Uint8Array> {
  const document = await gltfDocument(name, parts, extras);
  return (await writer()).writeBinary(document);
}

/** The same as one glTF file, with its data inside as base64. */
export async function writeGltf(
  name: string,
  parts: readonly NamedMesh[],
  extras: GltfExtras = {},
): Promise<Uint8Array> {
  const { json, resources } = await (
    await writer()
  ).writeJSON(await gltfDocument(name, parts, extras));
  for (const item of [...(json.buffers ?? []), ...(json.images ?? [])]) {
    const data = item.uri ? resources[item.uri] : undefined;
    if (!data) continue;
    const type =
      "mimeType" in item ? item.mimeType : "application/octet-stream";
    item.uri = `data:${type};base64,${toBase64(data)}`;
  }
  return new TextEncoder().encode(JSON.stringify(json));
}

async function writer(): Promise<WebIO> {
  await MeshoptEncoder.ready;
  return new WebIO()
    .registerExtensions([
      LevelsExtension,
      PhysicsExtension,
      EXTMeshGPUInstancing,
      EXTMeshoptCompression,
      EXTTextureWebP,
      KHRMeshQuantization,
      KHRTextureBasisu,
    ])
    .registerDependencies({ "meshopt.encoder": MeshoptEncoder });
}

/** The document of what is written, as glTF and as GLB. */
async function gltfDocument(
  name: string,
  parts: readonly NamedMesh[],
  extras: GltfExtras,
): Promise<Document> {
  const document = new Document();
  document.getRoot().getAsset().generator = "Arnik";
  const { marks } = extras;
  const kept = marks && writeKept(marks);
  if (kept) document.getRoot().getAsset().extras = { arnik: kept };
  const meshes = new MeshWriter(document, materialsOf(document, extras), {
    tangents: extras.tangents,
    ordered: extras.ordered,
    marked: !!marks,
  });
  const scene = document.createScene(name);
  document.getRoot().setDefaultScene(scene);
  for (const part of parts)
    for (const node of await partNodes(document, meshes, part, extras))
      scene.addChild(node);
  for (const hull of extras.hulls ?? [])
    scene.addChild(hullNode(document, meshes, hull, extras.hullsAs));
  if (extras.compressed)
    document
      .createExtension(EXTMeshoptCompression)
      .setRequired(true)
      // Filters would lose what quantising keeps.
      .setEncoderOptions({
        method: EXTMeshoptCompression.EncoderMethod.QUANTIZE,
      });
  return document;
}

/** A part's node, and those of its levels where they stand beside it. */
async function partNodes(
  document: Document,
  meshes: MeshWriter,
  part: NamedMesh,
  extras: GltfExtras,
): Promise<Node[]> {
  const levels = extras.levels?.get(part.name) ?? [];
  const places = extras.places?.get(part.name);
  const frame = extras.quantised
    ? frameOf([part, ...levels].map(({ mesh }) => mesh))
    : null;
  const nodeOf = async (each: NamedMesh) => {
    const node = document
      .createNode(each.name)
      .setMesh(await meshes.mesh(each, frame));
    if (places) placeInstances(document, meshes, node, places, frame);
    else if (frame)
      node
        .setTranslation(frame.offset)
        .setScale([frame.scale, frame.scale, frame.scale]);
    return node;
  };
  const node = await nodeOf(part);
  const further: Node[] = [];
  for (const level of levels) further.push(await nodeOf(level));
  if (extras.levelsBy === "name")
    further.forEach((each, l) =>
      each.setExtras({ arnik: { level: l + 1, of: part.name } }),
    );
  if (!further.length || extras.levelsBy === "name") return [node, ...further];
  const standing = document.createExtension(LevelsExtension).create();
  for (const level of further) standing.addLevel(level);
  node.setExtension(LevelsExtension.EXTENSION_NAME, standing).setExtras({
    MSFT_screencoverage: screenCoverage(
      [part, ...levels].map(({ mesh }) => triangleCount(mesh)),
    ),
  });
  return [node];
}

/** Draws a node in several places. The frame of its mesh goes into each: a node's own place comes before them. */
function placeInstances(
  document: Document,
  meshes: MeshWriter,
  node: Node,
  places: readonly Matrix[],
  frame: Frame | null,
): void {
  const translations = new Float32Array(3 * places.length);
  const rotations = new Float32Array(4 * places.length);
  const scales = new Float32Array(3 * places.length);
  places.forEach((matrix, i) => {
    const [t, r, s] = partsOfMatrix(matrix);
    const { offset, scale } = frame ?? { offset: [0, 0, 0], scale: 1 };
    for (let k = 0; k < 3; k++) {
      translations[3 * i + k] =
        t[k] +
        matrix[k] * offset[0] +
        matrix[4 + k] * offset[1] +
        matrix[8 + k] * offset[2];
      scales[3 * i + k] = s[k] * scale;
    }
    rotations.set(r, 4 * i);
  });
  const instanced = document
    .createExtension(EXTMeshGPUInstancing)
    .setRequired(true)
    .createInstancedMesh()
    .setAttribute("TRANSLATION", meshes.accessor(translations, "VEC3"))
    .setAttribute("ROTATION", meshes.accessor(rotations, "VEC4"))
    .setAttribute("SCALE", meshes.accessor(scales, "VEC3"));
  node.setExtension(EXTMeshGPUInstancing.EXTENSION_NAME, instanced);
}

function partsOfMatrix(matrix: Matrix) {
  const t: [number, number, number] = [0, 0, 0];
  const r: [number, number, number, number] = [0, 0, 0, 1];
  const s: [number, number, number] = [1, 1, 1];
  MathUtils.decompose(
    [...matrix] as Parameters<typeof MathUtils.decompose>[0],
    t,
    r,
    s,
  );
  return [t, r, s] as const;
}

/** Whether a matrix is a place, a turn and scales along the axes, as instances have them: nothing slants. */
export function isPlace(matrix: Matrix): boolean {
  const [t, r, s] = partsOfMatrix(matrix);
  const again = MathUtils.compose(t, r, s, new Array<number>(16) as never);
  const size = Math.max(...matrix.map(Math.abs));
  return matrix.every((x, k) => Math.abs(x - again[k]) <= 1e-6 * size);
}

function hullNode(
  document: Document,
  meshes: MeshWriter,
  hull: Hull & { of: string },
  as: GltfExtras["hullsAs"],
): Node {
  const mesh = () => meshes.bare(hull.name, hull.positions, hull.triangles);
  const node = document.createNode(hull.name).setExtras({
    arnik: {
      hull: hull.kind,
      of: hull.of,
      ...(hull.contact && { contact: hull.contact }),
      ...(hull.level && { ofLevel: hull.level }),
    },
  });
  if (as !== "physics") return node.setMesh(mesh());
  const collider = document
    .createExtension(PhysicsExtension)
    .create()
    .setContact(hull.contact ?? null);
  setCollider(node, collider, shapeOf(hull), mesh);
  return node;
}
