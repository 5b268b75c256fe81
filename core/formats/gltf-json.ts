import type { JSONDocument } from "@gltf-transform/core";
import { HULL_KINDS } from "../mesh/hull";
import type { GltfLooks } from "./gltf-looks";
import { GltfLooksCheck } from "./gltf-looks";
import type { Json } from "./json-check";
import { JsonCheck, shown, text } from "./json-check";
import type { KeptExtras } from "./kept-extras";
import { readKept } from "./kept-extras";
import { attributeOf, FACE_MARKS } from "./marks";
import { MOST_ELEMENTS, checkPartCount } from "./limits";

type Checked = JSONDocument["json"];

interface Accessor {
  componentType: number;
  type: string;
  count: number;
}

const COMPONENT_BYTES: Record<number, number> = {
  5120: 1,
  5121: 1,
  5122: 2,
  5123: 2,
  5125: 4,
  5126: 4,
};
const COMPONENTS: Record<string, number> = {
  SCALAR: 1,
  VEC2: 2,
  VEC3: 3,
  VEC4: 4,
  MAT2: 4,
  MAT3: 9,
  MAT4: 16,
};
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
/** Bytes of elements, all accessors together, that a file may stand for whatever it holds: zeros cost it nothing. */
const DECODED_FREE = 64 * 1024 * 1024;
/** Beyond that, how many times as many as it holds: accessors may share bytes. */
const DECODED_TIMES = 4;
/** Corners that placing meshes several times may make of a file that holds fewer. */
const PLACED_FREE = 6_000_000;
/** Beyond that, how many times as many as it holds. */
const PLACED_TIMES = 8;

/** Beyond that for compressed data: so many times what is compressed. */
const UNPACKED_TIMES = 64;
const MESHOPT = "EXT_meshopt_compression";
const DRACO = "KHR_draco_mesh_compression";
const MESHOPT_MODES = ["ATTRIBUTES", "TRIANGLES", "INDICES"] as const;
const MESHOPT_FILTERS = ["NONE", "OCTAHEDRAL", "QUATERNION", "EXPONENTIAL"];

/** A buffer view that is compressed, by EXT_meshopt_compression. */
export interface PackedView {
  view: number;
  buffer: number;
  byteOffset: number;
  byteLength: number;
  count: number;
  byteStride: number;
  mode: (typeof MESHOPT_MODES)[number];
  filter: string;
}

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

class GltfCheck extends JsonCheck {
  private readonly views: PackedView[] = [];
  private readonly primitives: PackedPrimitive[] = [];
  /** Buffers that stand only for what others hold compressed. */
  private readonly standIns = new Set<number>();

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
    const nodes = given.map((node, i) => this.node(node, i, meshes.length));
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
    const used = onlyUsed(accessors, meshes);
    this.decoded(used, buffers);
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

  private buffer(
    buffer: Json,
    i: number,
    held: (buffer: Json, at: number) => number,
  ) {
    const path = `buffers[${i}]`;
    if (buffer.uri !== undefined && typeof buffer.uri !== "string")
      this.fail(`${path}.uri`, "a text is expected");
    const byteLength = this.whole(buffer.byteLength, `${path}.byteLength`, 1);
    if (this.extension(buffer, MESHOPT, path)?.fallback === true) {
      this.standIns.add(i);
      return { byteLength: 1 };
    }
    const there = held(buffer, i);
    if (byteLength > there)
      this.fail(
        `${path}.byteLength`,
        `it promises ${byteLength} bytes, there are ${there}`,
      );
    return { uri: buffer.uri as string | undefined, byteLength };
  }

  private view(view: Json, i: number, buffers: { byteLength: number }[]) {
    const path = `bufferViews[${i}]`;
    const buffer = this.index(view.buffer, `${path}.buffer`, buffers.length);
    const byteOffset = this.whole(
      view.byteOffset ?? 0,
      `${path}.byteOffset`,
      0,
    );
    const byteLength = this.whole(view.byteLength, `${path}.byteLength`, 1);
    const packed = this.extension(view, MESHOPT, path);
    if (packed)
      return this.packedView(packed, i, byteLength, view.byteStride, buffers);
    if (this.standIns.has(buffer))
      this.fail(path, `buffers[${buffer}] holds only what is compressed`);
    if (byteOffset + byteLength > buffers[buffer].byteLength)
      this.fail(
        path,
        `it reaches to byte ${byteOffset + byteLength}, the buffer has ${buffers[buffer].byteLength}`,
      );
    const byteStride =
      view.byteStride === undefined
        ? undefined
        : this.whole(view.byteStride, `${path}.byteStride`, 1);
    if (byteStride !== undefined && byteStride > 252)
      this.fail(`${path}.byteStride`, `${byteStride} is over 252`);
    return { buffer, byteOffset, byteLength, byteStride };
  }

  /** Compressed bytes and what they are to become (EXT_meshopt_compression, "JSON schema updates"). */
  private packedView(
    packed: Json,
    i: number,
    whole: number,
    stride: unknown,
    buffers: { byteLength: number }[],
  ) {
    const path = `bufferViews[${i}].extensions.${MESHOPT}`;
    const buffer = this.index(packed.buffer, `${path}.buffer`, buffers.length);
    const byteOffset = this.whole(
      packed.byteOffset ?? 0,
      `${path}.byteOffset`,
      0,
    );
    const byteLength = this.whole(packed.byteLength, `${path}.byteLength`, 1);
    if (
      this.standIns.has(buffer) ||
      byteOffset + byteLength > buffers[buffer].byteLength
    )
      this.fail(
        path,
        `it reaches to byte ${byteOffset + byteLength}, the buffer has ${this.standIns.has(buffer) ? "none" : buffers[buffer].byteLength}`,
      );
    const count = this.whole(packed.count, `${path}.count`, 1);
    const byteStride = this.whole(packed.byteStride, `${path}.byteStride`, 1);
    const mode = MESHOPT_MODES.find((each) => each === packed.mode);
    if (!mode)
      this.fail(`${path}.mode`, `${shown(packed.mode)} is none that is known`);
    const filter = packed.filter ?? "NONE";
    if (!MESHOPT_FILTERS.some((each) => each === filter))
      this.fail(`${path}.filter`, `${shown(filter)} is none that is known`);
    if (
      count > MOST_ELEMENTS ||
      (mode === "ATTRIBUTES"
        ? byteStride % 4 || byteStride > 256
        : byteStride !== 2 && byteStride !== 4) ||
      (mode === "TRIANGLES" && count % 3)
    )
      this.fail(path, `${count} elements of ${byteStride} bytes can't be so`);
    if (count * byteStride !== whole)
      this.fail(
        `${path}.count`,
        `${count} elements of ${byteStride} bytes are not the ${whole} of the view`,
      );
    if (whole > Math.max(DECODED_FREE, UNPACKED_TIMES * byteLength))
      this.fail(
        `${path}.count`,
        `${whole} bytes can't come of ${byteLength} compressed ones`,
      );
    this.views.push({
      view: i,
      buffer,
      byteOffset,
      byteLength,
      count,
      byteStride,
      mode,
      filter: filter as string,
    });
    return {
      buffer: 0,
      byteOffset: 0,
      byteLength: whole,
      byteStride:
        stride === undefined
          ? undefined
          : this.whole(stride, `bufferViews[${i}].byteStride`, 1),
    };
  }

  private accessor(
    accessor: Json,
    i: number,
    views: { byteLength: number; byteStride?: number }[],
  ) {
    const path = `accessors[${i}]`;
    const { componentType, type } = accessor;
    const bytes = COMPONENT_BYTES[componentType as number];
    if (!bytes)
      this.fail(
        `${path}.componentType`,
        `${shown(componentType)} is none that glTF knows`,
      );
    const components = COMPONENTS[String(type)];
    if (!components)
      this.fail(`${path}.type`, `${shown(type)} is none that glTF knows`);
    const count = this.whole(accessor.count, `${path}.count`, 1);
    const size = bytes * components;
    if (count > MOST_ELEMENTS)
      this.fail(
        `${path}.count`,
        `${count} elements; up to ${MOST_ELEMENTS} are read`,
      );
    const view = this.fits(accessor, path, count, size, views);
    return {
      bufferView: view,
      byteOffset: accessor.byteOffset as number | undefined,
      componentType: componentType as number,
      normalized: accessor.normalized === true,
      count,
      type: type as string,
      ...(accessor.sparse === undefined
        ? {}
        : { sparse: this.sparse(accessor.sparse, path, count, size, views) }),
    };
  }

  /** The buffer view that holds `count` elements, where one is named. */
  private fits(
    holder: Json,
    path: string,
    count: number,
    size: number,
    views: { byteLength: number; byteStride?: number }[],
  ): number | undefined {
    const byteOffset = this.whole(
      holder.byteOffset ?? 0,
      `${path}.byteOffset`,
      0,
    );
    if (holder.bufferView === undefined) return undefined;
    const at = this.index(
      holder.bufferView,
      `${path}.bufferView`,
      views.length,
    );
    const { byteLength, byteStride } = views[at];
    const needed = byteOffset + (byteStride ?? size) * (count - 1) + size;
    if (needed > byteLength)
      this.fail(
        `${path}.count`,
        `${count} elements need ${needed} bytes, bufferViews[${at}] has ${byteLength}`,
      );
    return at;
  }

  private sparse(
    value: unknown,
    parent: string,
    most: number,
    size: number,
    views: { byteLength: number; byteStride?: number }[],
  ) {
    const path = `${parent}.sparse`;
    const sparse = this.object(value, path);
    const count = this.whole(sparse.count, `${path}.count`, 1);
    if (count > most)
      this.fail(
        `${path}.count`,
        `${count} of ${most} elements can't be replaced`,
      );
    const indices = this.object(sparse.indices, `${path}.indices`);
    const bytes = [5121, 5123, 5125].includes(indices.componentType as number)
      ? COMPONENT_BYTES[indices.componentType as number]
      : this.fail(`${path}.indices.componentType`, "5121, 5123 or 5125");
    const values = this.object(sparse.values, `${path}.values`);
    const place = (holder: Json, name: string, width: number) => {
      const view = this.fits(holder, `${path}.${name}`, count, width, views);
      if (view === undefined) this.fail(`${path}.${name}`, "it has no data");
      return { bufferView: view, byteOffset: holder.byteOffset };
    };
    return {
      count,
      indices: {
        ...place(indices, "indices", bytes),
        componentType: indices.componentType,
      },
      values: place(values, "values", size),
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

  private node(node: Json, i: number, meshes: number) {
    const path = `nodes[${i}]`;
    const place = {
      matrix: this.numbers(node.matrix, `${path}.matrix`, 16),
      translation: this.numbers(node.translation, `${path}.translation`, 3),
      rotation: this.numbers(node.rotation, `${path}.rotation`, 4),
      scale: this.numbers(node.scale, `${path}.scale`, 3),
    };
    return {
      name: text(node.name),
      ...hullMark(node.extras),
      ...Object.fromEntries(
        Object.entries(place).filter(([, value]) => value !== undefined),
      ),
      ...(node.mesh === undefined
        ? {}
        : { mesh: this.index(node.mesh, `${path}.mesh`, meshes) }),
      children: (node.children ?? []) as number[],
    };
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

  /** What is read into memory must be in some proportion to what the file holds. */
  private decoded(accessors: Accessor[], buffers: { byteLength: number }[]) {
    const held = buffers.reduce((sum, { byteLength }) => sum + byteLength, 0);
    const packed = this.views.length + this.primitives.length > 0;
    const times = packed ? UNPACKED_TIMES : DECODED_TIMES;
    const most = Math.max(DECODED_FREE, times * held);
    let sum = 0;
    accessors.forEach((accessor, i) => {
      sum += bytesOf(accessor);
      if (sum > most)
        this.fail(
          `accessors[${i}].count`,
          `with it ${sum} bytes are to be made of the ${held} that the file holds`,
        );
    });
  }

  /** What the nodes make of the meshes must be in some proportion to what the file holds. */
  private placed(
    nodes: { mesh?: number }[],
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
    const placing = nodes.flatMap(({ mesh }) =>
      mesh === undefined ? [] : [mesh],
    );
    const held = counts.reduce((sum, count) => sum + count, 0);
    const made = placing.reduce((sum, mesh) => sum + elementsOf[mesh], 0);
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

const bytesOf = (accessor: Accessor) =>
  accessor.count *
  COMPONENT_BYTES[accessor.componentType] *
  COMPONENTS[accessor.type];

/** The mark of a collision hull, as core/formats/write-gltf.ts leaves it; all other extras are left out. */
function hullMark(extras: unknown): object {
  const { hull, of } = ((extras as Json | null)?.arnik ?? {}) as Json;
  return typeof of === "string" && HULL_KINDS.some((kind) => kind === hull)
    ? { extras: { kind: hull, of } }
    : {};
}

/** Accessors that nothing read uses stand for nothing. */
function onlyUsed(
  accessors: Accessor[],
  meshes: {
    primitives: { attributes: Record<string, number>; indices?: number }[];
  }[],
): Accessor[] {
  const used = new Set(
    meshes.flatMap(({ primitives }) =>
      primitives.flatMap(({ attributes, indices }) => [
        ...Object.values(attributes),
        indices,
      ]),
    ),
  );
  return accessors.map((accessor, i) =>
    used.has(i) ? accessor : { componentType: 5121, type: "SCALAR", count: 1 },
  );
}
