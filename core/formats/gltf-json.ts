import type { JSONDocument } from "@gltf-transform/core";
import type { GltfLooks } from "./gltf-looks";
import { GltfLooksCheck } from "./gltf-looks";
import type { Accessor, PackedView } from "./gltf-bytes";
import type { ReadNode } from "./gltf-nodes";
import { GltfNodesCheck } from "./gltf-nodes";
import type { Json } from "./json-check";
import { shown, text } from "./json-check";
import type { KeptExtras } from "./kept-extras";
import { readKept } from "./kept-extras";
import { attributeOf, FACE_MARKS } from "./marks";
import { MOST_ELEMENTS, checkPartCount } from "./limits";

type Checked = JSONDocument["json"];

/** Attributes that are read. */
const ATTRIBUTES = [
  "POSITION",
  "NORMAL",
  "TEXCOORD_0",
  "COLOR_0",
  ...FACE_MARKS.map(attributeOf),
];
/** Deepest nesting of nodes. */
const DEEPEST = 500;
/** Corners that placing meshes several times may make of a file that holds fewer. */
const PLACED_FREE = 6_000_000;
/** Beyond that, how many times as many as it holds. */
const PLACED_TIMES = 8;

const DRACO = "KHR_draco_mesh_compression";

/** A primitive that is compressed, by KHR_draco_mesh_compression. */
export interface PackedPrimitive {
  mesh: number;
  primitive: number;
  view: number;
  /** The number within the compressed data of each attribute that is read. */
  attributes: Record<string, number>;
  /** Elements that the JSON promises. */
  vertices: number;
  indices: number;
}

export interface Readable {
  json: Checked;
  views: PackedView[];
  primitives: PackedPrimitive[];
  looks: GltfLooks;
  /** What is kept of its asset, where it came from here. */
  kept: KeptExtras;
}

/**
 * The part of a glTF 2.0 JSON that is read, checked clause by clause before anything is made for its counts: every
 * index within its list, every count within the bytes that are there (Khronos glTF 2.0, sections 3.4 to 3.7).
 * What is not read (animations, skins, cameras, most extensions) is left out.
 * @param held bytes of each buffer that are there
 * @throws MeshFormatError naming the place as a JSON path
 */
export function readableGltf(
  file: string,
  json: unknown,
  held: (buffer: Json, at: number) => number,
): Readable {
  return new GltfCheck(file).read(json, held);
}

class GltfCheck extends GltfNodesCheck {
  private readonly primitives: PackedPrimitive[] = [];
  read(value: unknown, held: (buffer: Json, at: number) => number): Readable {
    const json = this.object(value, "the JSON");
    const version = this.object(json.asset, "asset").version;
    if (typeof version !== "string" || !version.startsWith("2."))
      this.fail(
        "asset.version",
        typeof version === "string" && version.startsWith("1")
          ? "this is glTF 1: export it as glTF 2"
          : `${shown(version)} is not read, glTF 2 is`,
      );
    const buffers = this.list(json, "buffers").map((buffer, i) =>
      this.buffer(buffer, i, held),
    );
    const views = this.list(json, "bufferViews").map((view, i) =>
      this.view(view, i, buffers),
    );
    const accessors = this.list(json, "accessors").map((accessor, i) =>
      this.accessor(accessor, i, views),
    );
    const looks = new GltfLooksCheck(this.file).read(json, views.length);
    const materials = looks.materials.map(({ name }) => ({ name }));
    const counts = accessors.map((accessor) => accessor.count);
    const meshes = this.list(json, "meshes").map((mesh, i) =>
      this.mesh(mesh, i, counts, materials.length, views),
    );
    const given = this.list(json, "nodes");
    checkPartCount(
      this.file,
      given.reduce((sum, { mesh }) => sum + (mesh === undefined ? 0 : 1), 0),
    );
    const shapes = this.shapes(json);
    const nodes = given.map((node, i) =>
      this.node(node, i, {
        nodes: given.length,
        meshes: meshes.length,
        accessors,
        shapes,
      }),
    );
    this.tree(nodes);
    const scenes = this.list(json, "scenes").map((scene, i) => ({
      name: text(scene.name),
      nodes: this.indices(scene.nodes, `scenes[${i}].nodes`, nodes.length),
    }));
    const scene =
      json.scene === undefined
        ? undefined
        : this.index(json.scene, "scene", scenes.length);
    this.placed(nodes, meshes, counts);
    const used = onlyUsed(accessors, meshes, nodes);
    this.decoded(used, buffers, this.views.length + this.primitives.length > 0);
    const readable = {
      asset: { version: "2.0" },
      ...(scene === undefined ? {} : { scene }),
      scenes,
      nodes,
      meshes,
      materials,
      accessors: used,
      bufferViews: views,
      buffers,
    } as unknown as Checked;
    return {
      json: readable,
      views: this.views,
      primitives: this.primitives,
      looks,
      kept: readKept((json.asset as Json).extras),
    };
  }

  private mesh(
    mesh: Json,
    i: number,
    counts: number[],
    materials: number,
    views: unknown[],
  ) {
    const path = `meshes[${i}]`;
    const primitives = this.list(mesh, "primitives", `${path}.primitives`);
    return {
      name: text(mesh.name),
      primitives: primitives.map((primitive, p) => {
        const at = `${path}.primitives[${p}]`;
        const given = this.object(primitive.attributes, `${at}.attributes`);
        const attributes: Record<string, number> = {};
        for (const name of ATTRIBUTES)
          if (given[name] !== undefined)
            attributes[name] = this.index(
              given[name],
              `${at}.attributes.${name}`,
              counts.length,
            );
        const vertices = counts[attributes.POSITION] ?? 0;
        const packed = this.extension(primitive, DRACO, at);
        if (packed)
          this.packedPrimitive(packed, i, p, primitive, counts, views.length);
        for (const name of ATTRIBUTES)
          if (
            attributes[name] !== undefined &&
            counts[attributes[name]] < vertices
          )
            this.fail(
              `${at}.attributes.${name}`,
              `it has ${counts[attributes[name]]} elements for ${vertices} vertices`,
            );
        return {
          attributes,
          mode:
            primitive.mode === undefined
              ? 4
              : this.whole(primitive.mode, `${at}.mode`, 0),
          ...(primitive.indices === undefined
            ? {}
            : {
                indices: this.index(
                  primitive.indices,
                  `${at}.indices`,
                  counts.length,
                ),
              }),
          ...(primitive.material === undefined
            ? {}
            : {
                material: this.index(
                  primitive.material,
                  `${at}.material`,
                  materials,
                ),
              }),
        };
      }),
    };
  }

  /** A primitive whose data is compressed (KHR_draco_mesh_compression, "Restrictions on geometry type"). */
  private packedPrimitive(
    packed: Json,
    mesh: number,
    p: number,
    primitive: Json,
    counts: number[],
    views: number,
  ): void {
    const at = `meshes[${mesh}].primitives[${p}]`;
    const path = `${at}.extensions.${DRACO}`;
    const given = this.object(primitive.attributes, `${at}.attributes`);
    const inside = this.object(packed.attributes, `${path}.attributes`);
    const attributes: Record<string, number> = {};
    for (const name of ATTRIBUTES)
      if (given[name] !== undefined && inside[name] !== undefined)
        attributes[name] = this.whole(
          inside[name],
          `${path}.attributes.${name}`,
          0,
        );
    if (attributes.POSITION === undefined)
      this.fail(`${path}.attributes`, "there are no positions");
    if (primitive.indices === undefined)
      this.fail(`${at}.indices`, "compressed faces need them");
    if (![4, 5, undefined].some((mode) => mode === primitive.mode))
      this.fail(`${at}.mode`, "only triangles and strips are compressed");
    this.primitives.push({
      mesh,
      primitive: p,
      view: this.index(packed.bufferView, `${path}.bufferView`, views),
      attributes,
      vertices:
        counts[
          this.index(given.POSITION, `${at}.attributes.POSITION`, counts.length)
        ],
      indices:
        counts[this.index(primitive.indices, `${at}.indices`, counts.length)],
    });
  }

  /** Nodes are a tree: each has one parent, none is below itself, and none lies endlessly deep. */
  private tree(nodes: { children: number[] }[]): void {
    const parent = new Int32Array(nodes.length).fill(-1);
    nodes.forEach((node, i) => {
      node.children = this.indices(
        node.children,
        `nodes[${i}].children`,
        nodes.length,
      );
      for (const child of node.children) {
        if (parent[child] >= 0)
          this.fail(
            `nodes[${i}].children`,
            `node ${child} has a parent already, node ${parent[child]}`,
          );
        parent[child] = i;
      }
    });
    const depth = new Int32Array(nodes.length);
    const waiting = nodes.flatMap((_, i) => (parent[i] < 0 ? [i] : []));
    let reached = 0;
    while (waiting.length) {
      const at = waiting.pop()!;
      reached++;
      if (depth[at] > DEEPEST)
        this.fail(`nodes[${at}]`, `it is nested more than ${DEEPEST} deep`);
      for (const child of nodes[at].children) {
        depth[child] = depth[at] + 1;
        waiting.push(child);
      }
    }
    if (reached < nodes.length) this.fail("nodes", "some are below themselves");
  }

  /** What the nodes make of the meshes must be in some proportion to what the file holds. */
  private placed(
    nodes: readonly ReadNode[],
    meshes: {
      primitives: { attributes: Record<string, number>; indices?: number }[];
    }[],
    counts: number[],
  ): void {
    const elementsOf = meshes.map(({ primitives }) =>
      primitives.reduce((sum, { attributes, indices }) => {
        const vertices = counts[attributes.POSITION] ?? 0;
        return (
          sum + Math.max(vertices, indices === undefined ? 0 : counts[indices])
        );
      }, 0),
    );
    const held = counts.reduce((sum, count) => sum + count, 0);
    const made = nodes.reduce(
      (sum, { mesh, extras = {} }) =>
        sum +
        (mesh === undefined
          ? 0
          : elementsOf[mesh] * (extras.instances?.count ?? 1)) +
        (extras.collider && "mesh" in extras.collider
          ? elementsOf[extras.collider.mesh]
          : 0),
      0,
    );
    const most = Math.min(
      MOST_ELEMENTS,
      Math.max(PLACED_FREE, PLACED_TIMES * held),
    );
    if (made > most)
      this.fail(
        "nodes",
        `they place ${made} corners of a file that holds ${held}; up to ${most} are read`,
      );
  }
}

/** Accessors that nothing read uses stand for nothing. */
function onlyUsed(
  accessors: Accessor[],
  meshes: {
    primitives: { attributes: Record<string, number>; indices?: number }[];
  }[],
  nodes: readonly ReadNode[],
): Accessor[] {
  const used = new Set(
    meshes.flatMap(({ primitives }) =>
      primitives.flatMap(({ attributes, indices }) => [
        ...Object.values(attributes),
        indices,
      ]),
    ),
  );
  for (const { extras } of nodes)
    for (const at of Object.values(extras?.instances?.attributes ?? {}))
      used.add(at);
  return accessors.map((accessor, i) =>
    used.has(i) ? accessor : { componentType: 5121, type: "SCALAR", count: 1 },
  );
}
