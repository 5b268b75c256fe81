import type { Mesh, Node, WriterContext } from "@gltf-transform/core";
import {
  Extension,
  ExtensionProperty,
  PropertyType,
} from "@gltf-transform/core";
import type { ColliderShape } from "../mesh/collider-shape";
import type { ContactName } from "../mesh/contacts";
import { CONTACTS } from "../mesh/contacts";

export const PHYSICS = "KHR_physics_rigid_bodies";
export const SHAPES = "KHR_implicit_shapes";

/** A shape as KHR_implicit_shapes says it, about the origin; capsules along y. */
export type ImplicitShape =
  | { type: "box"; box: { size: readonly number[] } }
  | { type: "sphere"; sphere: { radius: number } }
  | {
      type: "capsule";
      capsule: { height: number; radiusBottom: number; radiusTop: number };
    };

interface ColliderFields {
  name: string;
  extras: Record<string, unknown>;
  shape: ImplicitShape | null;
  mesh: Mesh;
  convex: boolean;
  contact: ContactName | null;
}

/** What a node collides as: an implicit shape, or a mesh. */
export class Collider extends ExtensionProperty<ColliderFields> {
  static override EXTENSION_NAME = PHYSICS;
  declare extensionName: string;
  declare propertyType: string;
  declare parentTypes: string[];

  protected init(): void {
    this.extensionName = PHYSICS;
    this.propertyType = "Collider";
    this.parentTypes = [PropertyType.NODE];
  }

  protected override getDefaults() {
    return Object.assign(super.getDefaults(), {
      shape: null,
      mesh: null as unknown as Mesh,
      convex: true,
      contact: null,
    });
  }

  setShape(shape: ImplicitShape): this {
    return this.set("shape", shape);
  }

  getShape(): ImplicitShape | null {
    return this.get("shape");
  }

  setMesh(mesh: Mesh, convex: boolean): this {
    return this.setRef("mesh", mesh).set("convex", convex);
  }

  getMesh(): Mesh | null {
    return this.getRef("mesh");
  }

  isConvex(): boolean {
    return this.get("convex");
  }

  setContact(contact: ContactName | null): this {
    return this.set("contact", contact);
  }

  getContact(): ContactName | null {
    return this.get("contact");
  }
}

/** Colliders of nodes by KHR_physics_rigid_bodies; the shapes that they name are written beside them. */
export class PhysicsExtension extends Extension {
  static override EXTENSION_NAME = PHYSICS;
  override readonly extensionName = PHYSICS;

  create(): Collider {
    return new Collider(this.document.getGraph());
  }

  /** Reading goes by the checked JSON, see gltf-json.ts. */
  read(): this {
    return this;
  }

  override write(context: WriterContext): this {
    const { json } = context.jsonDoc;
    const shapes: ImplicitShape[] = [];
    const contacts: ContactName[] = [];
    const meshes = this.document.getRoot().listMeshes();
    for (const node of this.document.getRoot().listNodes()) {
      const collider = node.getExtension<Collider>(PHYSICS);
      if (!collider) continue;
      const shape = collider.getShape();
      const geometry = shape
        ? { shape: shapes.push(shape) - 1 }
        : {
            mesh: meshes.indexOf(collider.getMesh()!),
            convexHull: collider.isConvex(),
          };
      const written = json.nodes![context.nodeIndexMap.get(node)!];
      const contact = collider.getContact();
      if (contact && !contacts.includes(contact)) contacts.push(contact);
      written.extensions = {
        ...written.extensions,
        [PHYSICS]: {
          collider: {
            geometry,
            ...(contact && { physicsMaterial: contacts.indexOf(contact) }),
          },
        },
      };
    }
    if (contacts.length)
      json.extensions = {
        ...json.extensions,
        [PHYSICS]: { physicsMaterials: contacts.map(physicsMaterial) },
      };
    if (shapes.length) {
      json.extensions = { ...json.extensions, [SHAPES]: { shapes } };
      json.extensionsUsed = [...(json.extensionsUsed ?? []), SHAPES];
    }
    return this;
  }
}

/** A contact material as KHR_physics_rigid_bodies says it. */
const physicsMaterial = (name: ContactName) => ({
  staticFriction: CONTACTS[name].friction,
  dynamicFriction: CONTACTS[name].friction,
  restitution: CONTACTS[name].restitution,
});

/** Puts a node where a shape is, and says what it collides as. @param meshOf makes the mesh of what no shape stands for */
export function setCollider(
  node: Node,
  collider: Collider,
  shape: ColliderShape,
  meshOf: () => Mesh,
): void {
  node.setExtension(PHYSICS, collider);
  if (shape.type === "mesh") {
    collider.setMesh(meshOf(), shape.convex);
    return;
  }
  node.setTranslation([...shape.centre]);
  if (shape.type === "sphere")
    collider.setShape({
      type: "sphere",
      sphere: { radius: shape.radius },
    });
  else if (shape.type === "box") {
    node.setRotation(quaternionOf(shape.axes));
    collider.setShape({ type: "box", box: { size: shape.size } });
  } else {
    node.setRotation(fromUp(shape.axis));
    const { height, radius } = shape;
    collider.setShape({
      type: "capsule",
      capsule: { height, radiusBottom: radius, radiusTop: radius },
    });
  }
}

type Quaternion = [number, number, number, number];

/** The turn that takes x, y and z to three directions (Shepperd 1978). */
function quaternionOf([u, v, w]: readonly (readonly number[])[]): Quaternion {
  const q = [
    1 + u[0] - v[1] - w[2],
    1 - u[0] + v[1] - w[2],
    1 - u[0] - v[1] + w[2],
    1 + u[0] + v[1] + w[2],
  ];
  const largest = q.indexOf(Math.max(...q));
  const parts: Quaternion[] = [
    [q[0], u[1] + v[0], w[0] + u[2], v[2] - w[1]],
    [u[1] + v[0], q[1], v[2] + w[1], w[0] - u[2]],
    [w[0] + u[2], v[2] + w[1], q[2], u[1] - v[0]],
    [v[2] - w[1], w[0] - u[2], u[1] - v[0], q[3]],
  ];
  return unit(parts[largest]);
}

/** The shortest turn that takes y to an axis. */
function fromUp([x, y, z]: readonly number[]): Quaternion {
  if (y < -0.999999) return [1, 0, 0, 0];
  return unit([z, 0, -x, 1 + y]);
}

function unit(q: Quaternion): Quaternion {
  const length = Math.hypot(...q);
  return q.map((x) => x / length) as Quaternion;
}
