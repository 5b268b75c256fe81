import { MathUtils } from "@gltf-transform/core";
import type { Accessor, vec3, vec4 } from "@gltf-transform/core";
import { meshOfShape } from "../mesh/collider-shape";
import type { Matrix } from "../mesh/transform";
import { multiply, transformHull } from "../mesh/transform";
import { WORLD_AXES } from "../space/principal-axes";
import type { NodeExtras } from "./gltf-nodes";
import type { ImplicitShape } from "./gltf-physics";
import type { RawPart } from "./raw-mesh";

/** Where the instances of a node are (EXT_mesh_gpu_instancing): the place of each goes before that of the node. */
export function placesOf(
  world: Matrix,
  { attributes, count }: NonNullable<NodeExtras["instances"]>,
  accessors: readonly Accessor[],
): Matrix[] {
  const read = (name: keyof typeof attributes, i: number, plain: number[]) => {
    const at = attributes[name];
    return at === undefined ? plain : accessors[at].getElement(i, []);
  };
  return Array.from({ length: count }, (_, i) =>
    multiply(
      world,
      MathUtils.compose(
        read("TRANSLATION", i, [0, 0, 0]) as vec3,
        read("ROTATION", i, [0, 0, 0, 1]) as vec4,
        read("SCALE", i, [1, 1, 1]) as vec3,
        new Array<number>(16) as never,
      ),
    ),
  );
}

/** An implicit shape (KHR_implicit_shapes) in its place, as the mesh of a hull. */
export function implicitHull(
  name: string,
  shape: ImplicitShape,
  matrix: Matrix,
): RawPart {
  const { positions, triangles } = transformHull(
    { name, kind: shape.type, ...meshOfShape(aboutOrigin(shape)) },
    matrix,
    name,
  );
  return {
    name,
    positions,
    faceStarts: Uint32Array.from(
      { length: triangles.length / 3 + 1 },
      (_, f) => 3 * f,
    ),
    corners: triangles,
    uvs: null,
    normals: null,
    hard: null,
    faceMaterials: null,
    materials: ["hull"],
  };
}

function aboutOrigin(shape: ImplicitShape): Parameters<typeof meshOfShape>[0] {
  const centre = [0, 0, 0] as const;
  if (shape.type === "sphere")
    return { type: "sphere", radius: shape.sphere.radius, centre };
  if (shape.type === "capsule")
    return {
      type: "capsule",
      radius: shape.capsule.radiusTop,
      height: shape.capsule.height,
      centre,
      axis: [0, 1, 0],
    };
  const [x, y, z] = shape.box.size;
  return { type: "box", size: [x, y, z], centre, axes: WORLD_AXES };
}
