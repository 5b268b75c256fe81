import { isGlb, readContainer, readLoose } from "./gltf-container";
import type { Opened } from "./gltf-container";
import type { KeptExtras } from "./kept-extras";
import { Primitive } from "@gltf-transform/core";
import type {
  Material,
  Mesh as GltfMesh,
  Node as GltfNode,
} from "@gltf-transform/core";
import { MeshFormatError } from "../base/errors";
import type { Matrix } from "../mesh/transform";
import { cofactorOf, determinant } from "../mesh/transform";
import type { NodeExtras } from "./gltf-nodes";
import { implicitHull, placesOf } from "./gltf-places";
import { colourByte, toSrgb } from "./colours";
import { lookOf } from "./gltf-looks";
import type { FoundLooks, PictureShelf } from "./looks";

import { attributeOf, FACE_MARKS, marksArray, mostOf } from "./marks";
import type { RawPart } from "./raw-mesh";

export interface GltfContents {
  parts: RawPart[];
  /** Looks of the materials that its faces have. */
  looks: FoundLooks;
  notes: Map<string, number>;
  /** Vertices of primitives that are no faces. */
  points: number;
  kept: KeptExtras;
}

/**
 * Reads GLB, or glTF with the files that came along. Every node with a mesh becomes a part; its place, turn and
 * scale go into the vertices.
 * @param others files given together with a .gltf, by name
 * @param shelf the pictures among them
 * @throws MeshFormatError for damage, for what needs an extension, for data outside the given files
 */
export async function readGltf(
  file: string,
  bytes: Uint8Array,
  others: ReadonlyMap<string, Uint8Array>,
  shelf: PictureShelf,
): Promise<GltfContents> {
  let opened: Opened;
  try {
    opened = isGlb(bytes)
      ? await readContainer(file, bytes)
      : await readLoose(file, bytes, others);
  } catch (error) {
    if (error instanceof MeshFormatError) throw error;
    // What is checked before leaves nothing that the library should stumble over.
    throw new MeshFormatError(
      file,
      "its structure is damaged in a way that is not understood: export it again",
    );
  }
  const { document, looks, kept, viewBytes } = opened;
  const found: GltfContents = {
    parts: [],
    looks: new Map(),
    notes: new Map(),
    points: 0,
    kept,
  };
  // Only materials that faces have are looked at, each once.
  const materials = document.getRoot().listMaterials();
  const named = new Map<Material, string>();
  const nameOf = (material: Material | null): string => {
    if (!material) return "surface";
    let name = named.get(material);
    if (name === undefined) {
      const own = looks.materials[materials.indexOf(material)];
      named.set(material, (name = own.name));
      found.looks.set(name, lookOf(file, own, looks.images, viewBytes, shelf));
    }
    return name;
  };
  const scenes = document.getRoot().listScenes();
  const scene = document.getRoot().getDefaultScene() ?? scenes[0];
  const nodes: GltfNode[] = [];
  if (scene) scene.traverse((node) => nodes.push(node));
  else nodes.push(...document.getRoot().listNodes());
  const all = document.getRoot().listNodes();
  const levels = levelsOf(nodes, all);
  const accessors = document.getRoot().listAccessors();
  const meshes = document.getRoot().listMeshes();
  for (const node of new Set([...nodes, ...levels.keys()])) {
    const role = levels.get(node);
    const { instances } = extrasOf(node);
    const places = instances
      ? placesOf(node.getWorldMatrix(), instances, accessors)
      : [node.getWorldMatrix() as Matrix];
    places.forEach((matrix, i) => {
      const mesh = node.getMesh();
      const part = mesh && partOf(file, node, mesh, matrix, found, nameOf);
      if (!part) return;
      const whole = { ...part, ...role };
      // The first place is the part itself; the others are told apart by their number.
      found.parts.push(
        i ? { ...whole, name: `${whole.name}.${i + 1}` } : whole,
      );
    });
    const { collider } = extrasOf(node);
    const hull = collider && hullOf(file, node, collider, meshes, found);
    if (hull) found.parts.push(hull);
  }
  leaveWrapperOut(found.parts);
  if (!found.parts.length)
    throw new MeshFormatError(
      file,
      found.points
        ? `there are no faces in its scene, only ${found.points} points of points and lines`
        : "there is no mesh of triangles in its scene",
    );
  return found;
}

/** The nodes that stand in for others from afar: whose part each is, and how far down. The first that names it has it. */
function levelsOf(
  nodes: readonly GltfNode[],
  all: readonly GltfNode[],
): Map<GltfNode, Pick<RawPart, "name" | "level">> {
  const found = new Map<GltfNode, Pick<RawPart, "name" | "level">>();
  for (const node of nodes) {
    const { levels = [], level, of } = extrasOf(node);
    if (level && of) found.set(node, { name: of, level });
    levels.forEach((id, l) => {
      const level = all[id];
      if (level !== node && !found.has(level))
        found.set(level, { name: nameOfNode(node), level: l + 1 });
    });
  }
  return found;
}

const extrasOf = (node: GltfNode) => node.getExtras() as NodeExtras;

const nameOfNode = (node: GltfNode) =>
  node.getName() || (node.getMesh()?.getName() ?? "");

/** A node that holds everything is no group. */
function leaveWrapperOut(parts: RawPart[]): void {
  const [first] = parts;
  if (parts.every(({ group }) => group === first.group))
    for (const part of parts) delete part.group;
}

/** Name of the nearest node above that has one: parts below it are its group. */
function groupOf(node: GltfNode): string {
  for (let at = node.getParentNode(); at; at = at.getParentNode())
    if (at.getName()) return at.getName();
  return "";
}

/** Ways in which a primitive lists triangles. */
const TRIANGULAR = new Set<number>([
  Primitive.Mode.TRIANGLES,
  Primitive.Mode.TRIANGLE_STRIP,
  Primitive.Mode.TRIANGLE_FAN,
]);

/** Indices as plain triangles, three each (Khronos glTF 2.0, section 3.7.2.1). */
function trianglesOf(mode: number, list: ArrayLike<number>): number[] {
  if (mode === Primitive.Mode.TRIANGLES) return Array.from(list);
  const strip = mode === Primitive.Mode.TRIANGLE_STRIP;
  const triangles: number[] = [];
  for (let i = 0; i + 2 < list.length; i++)
    if (strip)
      triangles.push(list[i], list[i + 1 + (i % 2)], list[i + 2 - (i % 2)]);
    else triangles.push(list[i + 1], list[i + 2], list[0]);
  return triangles;
}

/**
 * The part that a node and its primitives make.
 * In one piece: one walk over the primitives fills all streams at once.
 */
function partOf(
  file: string,
  node: GltfNode,
  mesh: GltfMesh,
  matrix: Matrix,
  found: GltfContents,
  nameOf: (material: Material | null) => string,
): RawPart | null {
  const name = nameOfNode(node);
  const pieces = mesh.listPrimitives().filter((primitive) => {
    if (TRIANGULAR.has(primitive.getMode())) return true;
    const what = "primitives of points or lines left out";
    found.notes.set(what, (found.notes.get(what) ?? 0) + 1);
    found.points += primitive.getAttribute("POSITION")?.getCount() ?? 0;
    return false;
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
    const triangles = trianglesOf(primitive.getMode(), list);
    if (triangles.length % 3)
      throw new MeshFormatError(
        file,
        `a primitive of "${name}" has ${list.length} indices, which make no whole triangles`,
      );
    indices.push(triangles);
    vertices += position.getCount();
    corners += triangles.length;
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
    colours: pieces.some((p) => coloursOf(p))
      ? new Uint8Array(3 * corners).fill(255)
      : null,
    hard: null,
    faceMaterials: new Uint16Array(corners / 3),
    materials,
  };
  const group = groupOf(node);
  if (group) part.group = group;
  const { kind, of, contact, ofLevel } = extrasOf(node);
  const more = hullMore({ contact, ofLevel });
  if (kind && of) part.hull = { kind, of, ...more };
  const mirrored = determinant(matrix) < 0;
  const scale = [0, 4, 8].map((k) =>
    Math.hypot(matrix[k], matrix[k + 1], matrix[k + 2]),
  ) as [number, number, number];
  if (mirrored || Math.max(...scale) > 1.001 * Math.min(...scale))
    part.nodeScale = mirrored ? [-scale[0], scale[1], scale[2]] : scale;
  let base = 0;
  let at = 0;
  pieces.forEach((primitive, k) => {
    const name = nameOf(primitive.getMaterial());
    let material = materials.indexOf(name);
    if (material < 0) material = materials.push(name) - 1;
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
    copyMarks(part, primitive, indices[k], at / 3);
    at += indices[k].length;
  });
  return part;
}

/** What is said of a hull besides its kind and its part. */
const hullMore = ({
  contact,
  ofLevel: level,
}: Pick<NodeExtras, "contact" | "ofLevel">) => ({
  ...(contact && { contact }),
  ...(level && { level }),
});

/** What a node collides as (KHR_physics_rigid_bodies), as a hull of what it belongs to. */
function hullOf(
  file: string,
  node: GltfNode,
  collider: NonNullable<NodeExtras["collider"]>,
  meshes: readonly GltfMesh[],
  found: GltfContents,
): RawPart | null {
  const { kind, of, contact, ofLevel } = extrasOf(node);
  const belongs = of ?? (node.getMesh() ? nameOfNode(node) : groupOf(node));
  const name =
    node.getMesh() || !nameOfNode(node)
      ? `${belongs || "part"}_hull`
      : nameOfNode(node);
  const matrix = node.getWorldMatrix();
  if ("mesh" in collider) {
    const part = partOf(
      file,
      node,
      meshes[collider.mesh],
      matrix,
      found,
      () => "hull",
    );
    return (
      part && {
        ...part,
        name,
        hull: {
          kind: kind ?? (collider.convex ? "convex" : "ground"),
          of: belongs,
          ...hullMore({ contact, ofLevel }),
        },
      }
    );
  }
  return {
    ...implicitHull(name, collider.shape, matrix),
    hull: {
      kind: kind ?? collider.shape.type,
      of: belongs,
      ...hullMore({ contact, ofLevel }),
    },
  };
}

/** Takes marks of faces from the first vertex of each; a mark that is none is 0. */
function copyMarks(
  part: RawPart,
  primitive: Primitive,
  indices: readonly number[],
  at: number,
): void {
  const element: number[] = [];
  for (const name of FACE_MARKS) {
    const given = primitive.getAttribute(attributeOf(name));
    if (given?.getElementSize() !== 1) continue;
    const marks = ((part.marks ??= {})[name] ??= marksArray(
      name,
      part.faceStarts.length - 1,
    ));
    for (let t = 0; t < indices.length / 3; t++) {
      given.getElement(indices[3 * t], element);
      const [mark] = element;
      const sound = Number.isInteger(mark) && mark >= 0 && mark <= mostOf(name);
      marks[at + t] = sound ? mark : 0;
    }
  }
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
  const colour = coloursOf(primitive);
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
    if (colour && part.colours) {
      colour.getElement(v, element);
      for (let k = 0; k < 3; k++)
        part.colours[3 * c + k] = colourByte(toSrgb(element[k]));
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

/** Vertex colours, linear, where they have three or four channels (Khronos glTF 2.0, section 3.7.2.1). */
function coloursOf(primitive: Primitive) {
  const colour = primitive.getAttribute("COLOR_0");
  return colour && colour.getElementSize() >= 3 ? colour : null;
}
