import { Accessor, Document, Primitive, WebIO } from "@gltf-transform/core";
import type {
  JSONDocument,
  Material,
  Node as GltfNode,
} from "@gltf-transform/core";
import type { Hull, SurfaceLook } from "../asset/asset";
import { MeshFormatError } from "../errors";
import { cornerNormals } from "../mesh/normals";
import { tangentsOf } from "../mesh/tangents";
import { triangulate } from "../mesh/triangulate";
import { hashPair } from "../mesh/edges";
import { cofactorOf, determinant } from "../space/transform";
import { hexColour } from "./obj";
import type { NamedMesh, RawPart } from "./raw-mesh";

/** Extensions that change only looks, so that a mesh can be read without them. */
const HARMLESS =
  /^(KHR_materials_|KHR_texture_transform$|KHR_lights_punctual$)/;

export interface GltfContents {
  parts: RawPart[];
  /** Base colour by material name. */
  colours: Map<string, string>;
  /** Opacity by material name, where it is under 1. */
  opacities: Map<string, number>;
  notes: Map<string, number>;
}

/**
 * Reads GLB, or glTF with the files that came along. Every node with a mesh becomes a part; its place, turn and
 * scale go into the vertices.
 * @param others files given together with a .gltf, by name
 * @throws MeshFormatError for damage, for what needs an extension, for data outside the given files
 */
export async function readGltf(
  file: string,
  bytes: Uint8Array,
  others: ReadonlyMap<string, Uint8Array>,
): Promise<GltfContents> {
  let document: Document;
  try {
    document = isGlb(bytes)
      ? await readContainer(file, bytes)
      : await readLoose(file, bytes, others);
  } catch (error) {
    if (error instanceof MeshFormatError) throw error;
    throw new MeshFormatError(
      file,
      `damaged glTF: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
  const found: GltfContents = {
    parts: [],
    colours: new Map(),
    opacities: new Map(),
    notes: new Map(),
  };
  const scenes = document.getRoot().listScenes();
  const scene = document.getRoot().getDefaultScene() ?? scenes[0];
  const nodes: GltfNode[] = [];
  if (scene) scene.traverse((node) => nodes.push(node));
  else nodes.push(...document.getRoot().listNodes());
  for (const node of nodes) {
    const part = partOf(file, node, found);
    if (part) found.parts.push(part);
  }
  if (!found.parts.length)
    throw new MeshFormatError(
      file,
      "there is no mesh of triangles in its scene",
    );
  return found;
}

const isGlb = (bytes: Uint8Array) =>
  bytes[0] === 0x67 &&
  bytes[1] === 0x6c &&
  bytes[2] === 0x54 &&
  bytes[3] === 0x46;

async function readContainer(
  file: string,
  bytes: Uint8Array,
): Promise<Document> {
  const length =
    bytes.length >= 12
      ? new DataView(bytes.buffer, bytes.byteOffset).getUint32(8, true)
      : 0;
  if (length > bytes.length || bytes.length < 20)
    throw new MeshFormatError(
      file,
      `the container promises ${length} bytes, the file has ${bytes.length}`,
    );
  const io = new WebIO();
  const json = await io.binaryToJSON(bytes);
  refuseForeign(file, json.json, new Map());
  return io.readJSON(json);
}

async function readLoose(
  file: string,
  bytes: Uint8Array,
  others: ReadonlyMap<string, Uint8Array>,
): Promise<Document> {
  let json: JSONDocument["json"];
  try {
    json = JSON.parse(new TextDecoder().decode(bytes)) as JSONDocument["json"];
  } catch {
    throw new MeshFormatError(file, "neither a GLB container nor JSON");
  }
  if (!json || typeof json !== "object" || !json.asset)
    throw new MeshFormatError(file, 'JSON without the "asset" that glTF needs');
  const resources = refuseForeign(file, json, others);
  return new WebIO().readJSON({ json, resources });
}

/** Checks extensions and that all data lies in the files given; returns that data by URI. */
function refuseForeign(
  file: string,
  json: JSONDocument["json"],
  others: ReadonlyMap<string, Uint8Array>,
) {
  for (const name of json.extensionsRequired ?? [])
    if (!HARMLESS.test(name))
      throw new MeshFormatError(
        file,
        `it needs the extension ${name}, which is not supported: export it without`,
      );
  const resources: Record<string, Uint8Array<ArrayBuffer>> = {};
  for (const { uri } of [...(json.buffers ?? []), ...(json.images ?? [])]) {
    if (!uri || uri.startsWith("data:")) continue;
    let name: string;
    try {
      name = decodeURIComponent(uri).replace(/^\.\//, "");
    } catch {
      name = uri;
    }
    if (/^[a-z][a-z0-9+.-]*:|^[/\\]|(^|[/\\])\.\.([/\\]|$)/i.test(name))
      throw new MeshFormatError(
        file,
        `"${uri}" points outside the files given`,
      );
    const data = others.get(name) ?? others.get(name.split("/").pop()!);
    const isImage = json.images?.some((image) => image.uri === uri);
    if (!data && !isImage)
      throw new MeshFormatError(
        file,
        `"${uri}" is missing: give it together with the file`,
      );
    resources[uri] = (data ?? new Uint8Array(0)) as Uint8Array<ArrayBuffer>;
  }
  return resources;
}

function partOf(
  file: string,
  node: GltfNode,
  found: GltfContents,
): RawPart | null {
  const mesh = node.getMesh();
  if (!mesh) return null;
  const name = node.getName() || mesh.getName();
  const matrix = node.getWorldMatrix();
  const pieces = mesh.listPrimitives().flatMap((primitive) => {
    const mode = primitive.getMode();
    if (mode === Primitive.Mode.TRIANGLES) return [primitive];
    found.notes.set(
      "primitives that are no plain triangles left out",
      (found.notes.get("primitives that are no plain triangles left out") ??
        0) + 1,
    );
    return [];
  });
  const materials: string[] = [];
  const indices: number[][] = [];
  let vertices = 0;
  let corners = 0;
  for (const primitive of pieces) {
    const position = primitive.getAttribute("POSITION");
    if (!position)
      throw new MeshFormatError(
        file,
        `a primitive of "${name}" has no positions`,
      );
    if (position.getElementSize() !== 3)
      throw new MeshFormatError(
        file,
        `positions of "${name}" are not made of 3 numbers`,
      );
    const list =
      primitive.getIndices()?.getArray() ??
      Uint32Array.from({ length: position.getCount() }, (_, i) => i);
    if (list.length % 3)
      throw new MeshFormatError(
        file,
        `a primitive of "${name}" has ${list.length} indices, which make no whole triangles`,
      );
    indices.push(Array.from(list));
    vertices += position.getCount();
    corners += list.length;
  }
  if (!corners) return null;
  const part: RawPart = {
    name,
    positions: new Float32Array(3 * vertices),
    faceStarts: new Uint32Array(corners / 3 + 1).map((_, f) => 3 * f),
    corners: new Uint32Array(corners),
    uvs: pieces.every((p) => p.getAttribute("TEXCOORD_0"))
      ? new Float32Array(2 * corners)
      : null,
    normals: pieces.every((p) => p.getAttribute("NORMAL"))
      ? new Float32Array(3 * corners)
      : null,
    hard: null,
    faceMaterials: new Uint16Array(corners / 3),
    materials,
  };
  const mirrored = determinant(matrix) < 0;
  const scale = [0, 4, 8].map((k) =>
    Math.hypot(matrix[k], matrix[k + 1], matrix[k + 2]),
  ) as [number, number, number];
  if (mirrored || Math.max(...scale) > 1.001 * Math.min(...scale))
    part.nodeScale = mirrored ? [-scale[0], scale[1], scale[2]] : scale;
  let base = 0;
  let at = 0;
  pieces.forEach((primitive, k) => {
    const material = materialIndex(primitive.getMaterial(), materials, found);
    base = copyPrimitive(
      file,
      part,
      primitive,
      indices[k],
      matrix,
      mirrored,
      base,
      at,
    );
    part.faceMaterials!.fill(material, at / 3, (at + indices[k].length) / 3);
    at += indices[k].length;
  });
  return part;
}

/** Copies one primitive into the part; returns the next free vertex. */
function copyPrimitive(
  file: string,
  part: RawPart,
  primitive: Primitive,
  indices: number[],
  m: ArrayLike<number>,
  mirrored: boolean,
  base: number,
  at: number,
): number {
  const position = primitive.getAttribute("POSITION")!;
  const count = position.getCount();
  const element: number[] = [];
  for (let v = 0; v < count; v++) {
    position.getElement(v, element);
    const [x, y, z] = element;
    for (let k = 0; k < 3; k++)
      part.positions[3 * (base + v) + k] =
        m[k] * x + m[4 + k] * y + m[8 + k] * z + m[12 + k];
  }
  const uv = primitive.getAttribute("TEXCOORD_0");
  const normal = primitive.getAttribute("NORMAL");
  const cofactor = cofactorOf(m);
  for (let i = 0; i < indices.length; i++) {
    // A mirrored node turns its triangles inside out; the order of corners is turned back.
    const c = at + (mirrored && i % 3 ? i + (i % 3 === 1 ? 1 : -1) : i);
    const v = indices[i];
    if (v >= count)
      throw new MeshFormatError(
        file,
        `"${part.name}" has an index ${v}, but ${count} vertices`,
      );
    part.corners[c] = base + v;
    if (uv && part.uvs) {
      uv.getElement(v, element);
      part.uvs[2 * c] = element[0];
      part.uvs[2 * c + 1] = 1 - element[1];
    }
    if (normal && part.normals) {
      normal.getElement(v, element);
      const [x, y, z] = element;
      const way = mirrored ? -1 : 1;
      for (let k = 0; k < 3; k++)
        part.normals[3 * c + k] =
          way * (cofactor[k] * x + cofactor[3 + k] * y + cofactor[6 + k] * z);
    }
  }
  return base + count;
}

function materialIndex(
  material: Material | null,
  names: string[],
  { colours, opacities }: Pick<GltfContents, "colours" | "opacities">,
): number {
  const name = material?.getName() || "surface";
  if (material) {
    const [r, g, b, alpha] = material.getBaseColorFactor();
    colours.set(name, hexColour([r, g, b].map(toSrgb)));
    if (material.getAlphaMode() !== "OPAQUE" && alpha < 1)
      opacities.set(name, alpha);
  }
  const at = names.indexOf(name);
  return at >= 0 ? at : names.push(name) - 1;
}

const toSrgb = (x: number) =>
  x <= 0.0031308 ? 12.92 * x : 1.055 * Math.max(0, x) ** (1 / 2.4) - 0.055;
const toLinear = (x: number) =>
  x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4;

export interface GltfImages {
  normal?: Uint8Array;
  ao?: Uint8Array;
}

export interface GltfExtras {
  looks?: readonly SurfaceLook[];
  images?: GltfImages;
  hulls?: readonly Hull[];
  /** Whether to write tangents; needs UVs. */
  tangents?: boolean;
}

/** Writes parts, with maps as their materials and hulls as nodes of their own, as one GLB. */
export async function writeGlb(
  name: string,
  parts: readonly NamedMesh[],
  extras: GltfExtras = {},
): Promise<Uint8Array> {
  return new WebIO().writeBinary(gltfDocument(name, parts, extras));
}

/** The same as one glTF file, with its data inside as base64. */
export async function writeGltf(
  name: string,
  parts: readonly NamedMesh[],
  extras: GltfExtras = {},
): Promise<Uint8Array> {
  const { json, resources } = await new WebIO().writeJSON(
    gltfDocument(name, parts, extras),
  );
  for (const item of [...(json.buffers ?? []), ...(json.images ?? [])]) {
    const data = item.uri ? resources[item.uri] : undefined;
    if (!data) continue;
    let text = "";
    for (let i = 0; i < data.length; i += 8192)
      text += String.fromCharCode(...data.subarray(i, i + 8192));
    const type =
      "mimeType" in item ? item.mimeType : "application/octet-stream";
    item.uri = `data:${type};base64,${btoa(text)}`;
  }
  return new TextEncoder().encode(JSON.stringify(json));
}

function gltfDocument(
  name: string,
  parts: readonly NamedMesh[],
  extras: GltfExtras,
): Document {
  const document = new Document();
  document.getRoot().getAsset().generator = "Arnik";
  const buffer = document.createBuffer();
  const scene = document.createScene(name);
  document.getRoot().setDefaultScene(scene);
  const normalTexture = extras.images?.normal
    ? document
        .createTexture("normal")
        .setImage(extras.images.normal as Uint8Array<ArrayBuffer>)
        .setMimeType("image/png")
    : null;
  const aoTexture = extras.images?.ao
    ? document
        .createTexture("occlusion")
        .setImage(extras.images.ao as Uint8Array<ArrayBuffer>)
        .setMimeType("image/png")
    : null;
  const materials = new Map<string, Material>();
  const materialFor = (label: string) => {
    let material = materials.get(label);
    if (material) return material;
    const look = extras.looks?.find((each) => each.material === label);
    material = document
      .createMaterial(label)
      .setRoughnessFactor(look?.roughness ?? 0.7)
      .setMetallicFactor(look?.metalness ?? 0);
    if (look) {
      const [r, g, b] = [1, 3, 5].map((at) =>
        toLinear(parseInt(look.colour.slice(at, at + 2), 16) / 255),
      );
      material.setBaseColorFactor([r, g, b, 1]);
    }
    if (normalTexture) material.setNormalTexture(normalTexture);
    if (aoTexture) material.setOcclusionTexture(aoTexture);
    materials.set(label, material);
    return material;
  };
  const accessor = (
    array: Float32Array | Uint32Array | Uint16Array,
    type: "SCALAR" | "VEC2" | "VEC3" | "VEC4",
  ) =>
    document
      .createAccessor()
      .setArray(array as Float32Array<ArrayBuffer>)
      .setType(Accessor.Type[type])
      .setBuffer(buffer);
  for (const part of parts) {
    const mesh = document.createMesh(part.name);
    for (const piece of flattenMesh(part, extras.tangents ?? false)) {
      const primitive = document
        .createPrimitive()
        .setIndices(accessor(piece.indices, "SCALAR"))
        .setAttribute("POSITION", accessor(piece.positions, "VEC3"))
        .setAttribute("NORMAL", accessor(piece.normals, "VEC3"))
        .setMaterial(materialFor(piece.material));
      if (piece.uvs)
        primitive.setAttribute("TEXCOORD_0", accessor(piece.uvs, "VEC2"));
      if (piece.tangents)
        primitive.setAttribute("TANGENT", accessor(piece.tangents, "VEC4"));
      mesh.addPrimitive(primitive);
    }
    scene.addChild(document.createNode(part.name).setMesh(mesh));
  }
  for (const hull of extras.hulls ?? []) {
    const primitive = document
      .createPrimitive()
      .setIndices(accessor(hull.triangles, "SCALAR"))
      .setAttribute("POSITION", accessor(hull.positions, "VEC3"));
    scene.addChild(
      document
        .createNode(hull.name)
        .setMesh(document.createMesh(hull.name).addPrimitive(primitive)),
    );
  }
  return document;
}

interface FlatPiece {
  material: string;
  positions: Float32Array;
  normals: Float32Array;
  uvs: Float32Array | null;
  tangents: Float32Array | null;
  indices: Uint32Array | Uint16Array;
}

/** A mesh as engines take it: one vertex for each different position, normal, UV and tangent, by material. */
export function flattenMesh(
  { mesh }: NamedMesh,
  withTangents: boolean,
): FlatPiece[] {
  const split = triangulate(mesh);
  const normals = mesh.normals ?? cornerNormals(mesh);
  const tangents =
    withTangents && mesh.uvs ? tangentsOf(mesh, normals, split) : null;
  return mesh.materials.flatMap((material, m) => {
    const words = 3 + 3 + (mesh.uvs ? 2 : 0) + (tangents ? 4 : 0);
    const picked: number[] = [];
    for (let t = 0; t < split.faces.length; t++)
      if ((mesh.faceMaterials ? mesh.faceMaterials[split.faces[t]] : 0) === m)
        picked.push(3 * t, 3 * t + 1, 3 * t + 2);
    if (!picked.length) return [];
    const values = new Float32Array(words * picked.length);
    picked.forEach((i, k) => {
      const at = words * k;
      const v = 3 * split.vertices[i];
      const c = split.corners[i];
      for (let d = 0; d < 3; d++) {
        values[at + d] = mesh.positions[v + d];
        values[at + 3 + d] = normals[3 * c + d];
      }
      if (mesh.uvs) {
        values[at + 6] = mesh.uvs[2 * c];
        values[at + 7] = 1 - mesh.uvs[2 * c + 1];
      }
      if (tangents)
        for (let d = 0; d < 4; d++)
          values[at + words - 4 + d] = tangents[4 * i + d];
    });
    const { indices, unique } = uniqueRows(values, words);
    const column = (from: number, width: number) => {
      const out = new Float32Array(width * unique.length);
      unique.forEach((row, k) => {
        for (let d = 0; d < width; d++)
          out[width * k + d] = values[words * row + from + d];
      });
      return out;
    };
    return [
      {
        material,
        positions: column(0, 3),
        normals: column(3, 3),
        uvs: mesh.uvs ? column(6, 2) : null,
        tangents: tangents ? column(words - 4, 4) : null,
        indices: unique.length < 65535 ? Uint16Array.from(indices) : indices,
      },
    ];
  });
}

function uniqueRows(values: Float32Array, words: number) {
  const bits = new Int32Array(values.buffer);
  const rows = values.length / words;
  const size = 1 << Math.max(4, Math.ceil(Math.log2(rows * 1.6 + 1)));
  const table = new Int32Array(size).fill(-1);
  const indices = new Uint32Array(rows);
  const unique: number[] = [];
  for (let row = 0; row < rows; row++) {
    let h = 0;
    for (let k = 0; k < words; k++) h = hashPair(h, bits[words * row + k]);
    let slot = h & (size - 1);
    for (;;) {
      const at = table[slot];
      if (at < 0) {
        table[slot] = unique.length;
        indices[row] = unique.push(row) - 1;
        break;
      }
      let same = true;
      for (let k = 0; k < words && same; k++)
        same = bits[words * unique[at] + k] === bits[words * row + k];
      if (same) {
        indices[row] = at;
        break;
      }
      slot = (slot + 1) & (size - 1);
    }
  }
  return { indices, unique };
}
