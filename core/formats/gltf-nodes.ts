import type { ContactName } from "../mesh/contacts";
import { isContact } from "../mesh/contacts";
import type { HullKind } from "../mesh/hull";
import { HULL_KINDS } from "../mesh/hull";
import type { Accessor } from "./gltf-bytes";
import { GltfBytesCheck } from "./gltf-bytes";
import { LevelsExtension } from "./gltf-levels";
import type { ImplicitShape } from "./gltf-physics";
import { PHYSICS, SHAPES } from "./gltf-physics";
import type { Json } from "./json-check";
import { text } from "./json-check";

const INSTANCES = "EXT_mesh_gpu_instancing";
/** What instances may have, and of how many numbers. */
const OF_INSTANCES = {
  TRANSLATION: "VEC3",
  ROTATION: "VEC4",
  SCALE: "VEC3",
} as const;

/** What a node is besides a mesh in its place. */
export interface NodeExtras {
  /** A collision hull, as core/formats/write-gltf.ts leaves it. */
  kind?: HullKind;
  of?: string;
  contact?: ContactName;
  /** The level of detail that a hull stands for. */
  ofLevel?: number;
  /** A level of detail by its name, from 1 on, of the part called `of`. */
  level?: number;
  /** Nodes that stand in for it from afar. */
  levels?: number[];
  /** What it collides as. */
  collider?: { shape: ImplicitShape } | { mesh: number; convex: boolean };
  /** Accessors that say where it is drawn, and in how many places. */
  instances?: {
    attributes: Partial<Record<keyof typeof OF_INSTANCES, number>>;
    count: number;
  };
}

export interface ReadNode {
  name: string;
  mesh?: number;
  extras?: NodeExtras;
  children: number[];
}

/** What nodes may name. */
interface Named {
  nodes: number;
  meshes: number;
  accessors: readonly Accessor[];
  shapes: readonly (ImplicitShape | null)[];
}

/** Whether a value from outside is the number of a level of detail. */
const isLevel = (value: unknown): value is number =>
  Number.isInteger(value) && (value as number) > 0 && (value as number) < 100;

/** Checks the nodes of a glTF, with what some extensions say of them. All other extras are left out. */
export class GltfNodesCheck extends GltfBytesCheck {
  /** Shapes of KHR_implicit_shapes; null for those of a kind that is not read. */
  protected shapes(json: Json): (ImplicitShape | null)[] {
    const held = this.extension(json, SHAPES, "the JSON");
    if (!held) return [];
    const path = `extensions.${SHAPES}.shapes`;
    return this.list(held, "shapes", path).map((shape, i) => {
      const at = `${path}[${i}]`;
      const own = (name: string) =>
        this.object(shape[name] ?? {}, `${at}.${name}`);
      const length = (holder: Json, name: string, otherwise: number) => {
        const value = holder[name] ?? otherwise;
        if (typeof value !== "number" || !(value >= 0) || value > 1e9)
          this.fail(`${at}.${name}`, "a length from 0 up is expected");
        return value;
      };
      switch (shape.type) {
        case "box": {
          const size = this.numbers(own("box").size, `${at}.box.size`, 3);
          return { type: "box", box: { size: size ?? [1, 1, 1] } };
        }
        case "sphere":
          return {
            type: "sphere",
            sphere: { radius: length(own("sphere"), "radius", 0.5) },
          };
        case "capsule": {
          const capsule = own("capsule");
          // Ends of two radii are taken as wide as the wider one.
          const radius = Math.max(
            length(capsule, "radiusBottom", 0.25),
            length(capsule, "radiusTop", 0.25),
          );
          return {
            type: "capsule",
            capsule: {
              height: length(capsule, "height", 0.5),
              radiusBottom: radius,
              radiusTop: radius,
            },
          };
        }
        default:
          return null;
      }
    });
  }

  protected node(node: Json, i: number, named: Named): ReadNode {
    const path = `nodes[${i}]`;
    const place = {
      matrix: this.numbers(node.matrix, `${path}.matrix`, 16),
      translation: this.numbers(node.translation, `${path}.translation`, 3),
      rotation: this.numbers(node.rotation, `${path}.rotation`, 4),
      scale: this.numbers(node.scale, `${path}.scale`, 3),
    };
    const extras = this.extrasOf(node, path, named);
    return {
      name: text(node.name),
      ...(Object.keys(extras).length && { extras }),
      ...Object.fromEntries(
        Object.entries(place).filter(([, value]) => value !== undefined),
      ),
      ...(node.mesh === undefined
        ? {}
        : { mesh: this.index(node.mesh, `${path}.mesh`, named.meshes) }),
      children: (node.children ?? []) as number[],
    };
  }

  private extrasOf(node: Json, path: string, named: Named): NodeExtras {
    const { hull, of, level, contact, ofLevel } = ((node.extras as Json | null)
      ?.arnik ?? {}) as Json;
    const levels = this.indices(
      this.extension(node, LevelsExtension.EXTENSION_NAME, path)?.ids,
      `${path}.extensions.${LevelsExtension.EXTENSION_NAME}.ids`,
      named.nodes,
    );
    const kind = HULL_KINDS.find((each) => each === hull);
    const collider = this.collider(node, path, named);
    const instances = this.instances(node, path, named.accessors);
    return {
      ...(typeof of === "string" &&
        kind && {
          kind,
          of,
          ...(isContact(contact) && { contact }),
          ...(isLevel(ofLevel) && { ofLevel }),
        }),
      ...(typeof of === "string" && isLevel(level) && { level, of }),
      ...(levels.length && { levels }),
      ...(collider && { collider }),
      ...(instances && { instances }),
    };
  }

  private collider(
    node: Json,
    path: string,
    { meshes, shapes }: Named,
  ): NodeExtras["collider"] {
    const held = this.extension(node, PHYSICS, path)?.collider;
    if (held === undefined) return undefined;
    const at = `${path}.extensions.${PHYSICS}.collider.geometry`;
    const geometry = this.object((held as Json | null)?.geometry, at);
    if (geometry.shape !== undefined) {
      const shape =
        shapes[this.index(geometry.shape, `${at}.shape`, shapes.length)];
      return shape ? { shape } : undefined;
    }
    return geometry.mesh === undefined
      ? undefined
      : {
          mesh: this.index(geometry.mesh, `${at}.mesh`, meshes),
          convex: geometry.convexHull === true,
        };
  }

  private instances(
    node: Json,
    path: string,
    accessors: readonly Accessor[],
  ): NodeExtras["instances"] {
    const held = this.extension(node, INSTANCES, path);
    if (!held) return undefined;
    const at = `${path}.extensions.${INSTANCES}.attributes`;
    const given = this.object(held.attributes, at);
    const attributes: Record<string, number> = {};
    let count: number | null = null;
    for (const [name, type] of Object.entries(OF_INSTANCES)) {
      if (given[name] === undefined) continue;
      const place = this.index(given[name], `${at}.${name}`, accessors.length);
      if (accessors[place].type !== type)
        this.fail(`${at}.${name}`, `it is to be of kind ${type}`);
      if (count !== null && accessors[place].count !== count)
        this.fail(
          `${at}.${name}`,
          `it tells of ${accessors[place].count} places, others of ${count}`,
        );
      count = accessors[place].count;
      attributes[name] = place;
    }
    return count ? { attributes, count } : undefined;
  }
}
