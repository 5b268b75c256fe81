import { KHRMeshQuantization } from "@gltf-transform/extensions";
import { Accessor } from "@gltf-transform/core";
import type {
  Document,
  Material,
  Mesh as GltfMesh,
} from "@gltf-transform/core";
import type { Mesh } from "../mesh/mesh";
import { boundsOf } from "../space/bounds";
import { inCacheOrder } from "./cache-order";
import type { FlatPiece } from "./flatten-mesh";
import { flattenMesh } from "./flatten-mesh";
import { attributeOf } from "./marks";
import type { NamedMesh } from "./raw-mesh";

type Values = Float32Array | Uint32Array | Uint16Array | Int16Array;
type Width = "SCALAR" | "VEC2" | "VEC3" | "VEC4";

/** How positions stand for places: place = offset + scale · position. */
export interface Frame {
  offset: [number, number, number];
  /** Metres. */
  scale: number;
}

export interface MeshExtras {
  tangents?: boolean;
  /** Whether triangles and vertices are ordered for the cache of a graphics card. */
  ordered?: boolean;
  /** Whether to write marks of faces. */
  marked?: boolean;
}

const WHOLE = 65535;
const HALF = 32767;

/** The frame in which some meshes are quantised together, so that they lie alike. */
export function frameOf(meshes: readonly Mesh[]): Frame {
  const { min, max } = boundsOf(...meshes.map(({ positions }) => positions));
  return {
    offset: [min[0], min[1], min[2]],
    scale: Math.max(...max.map((high, k) => high - min[k])) || 1,
  };
}

/** Half of the largest step between two positions of a quantised mesh, with what 32 bits add, metres. */
export const slackOf = ({ offset, scale }: Frame): number =>
  (0.87 * scale) / WHOLE +
  1e-6 * Math.max(scale, ...offset.map((x) => Math.abs(x)));

/** Writes accessors and meshes into a document. */
export class MeshWriter {
  private readonly buffer;

  constructor(
    private readonly document: Document,
    private readonly materialFor: (name: string) => Material,
    private readonly extras: MeshExtras,
  ) {
    this.buffer = document.createBuffer();
  }

  accessor(values: Values, type: Width, normalized = false): Accessor {
    return this.document
      .createAccessor()
      .setArray(values as Float32Array<ArrayBuffer>)
      .setType(Accessor.Type[type])
      .setNormalized(normalized)
      .setBuffer(this.buffer);
  }

  /** A part as a mesh of one primitive a material. @param frame quantises it */
  async mesh(part: NamedMesh, frame: Frame | null): Promise<GltfMesh> {
    const mesh = this.document.createMesh(part.name);
    const { tangents, marked, ordered } = this.extras;
    const flat = flattenMesh(part, { tangents, marks: marked });
    for (const piece of ordered ? await inCacheOrder(flat) : flat)
      mesh.addPrimitive(this.primitive(piece, frame));
    return mesh;
  }

  /** A mesh of bare triangles. @param positions 3 numbers a vertex, metres @param triangles 3 indices each */
  bare(name: string, positions: Float32Array, triangles: Uint32Array) {
    return this.document
      .createMesh(name)
      .addPrimitive(
        this.document
          .createPrimitive()
          .setIndices(this.accessor(triangles, "SCALAR"))
          .setAttribute("POSITION", this.accessor(positions, "VEC3")),
      );
  }

  private primitive(piece: FlatPiece, frame: Frame | null) {
    const { positions, normals, uvs, tangents, colours } = piece;
    const primitive = this.document
      .createPrimitive()
      .setIndices(this.accessor(piece.indices, "SCALAR"))
      .setMaterial(this.materialFor(piece.material));
    const set = (name: string, values: Values, type: Width, packed = false) =>
      primitive.setAttribute(name, this.accessor(values, type, packed));
    if (frame) {
      this.document.createExtension(KHRMeshQuantization).setRequired(true);
      const { offset, scale } = frame;
      set(
        "POSITION",
        Uint16Array.from(positions, (x, i) =>
          Math.round((WHOLE * (x - offset[i % 3])) / scale),
        ),
        "VEC3",
        true,
      );
    } else set("POSITION", positions, "VEC3");
    const signed = (values: Float32Array) =>
      frame ? Int16Array.from(values, (x) => Math.round(HALF * x)) : values;
    set("NORMAL", signed(normals), "VEC3", !!frame);
    if (tangents) set("TANGENT", signed(tangents), "VEC4", !!frame);
    if (uvs) {
      // Beyond the sheet they stay as they are.
      const fits = frame && uvs.every((x) => x >= 0 && x <= 1);
      set(
        "TEXCOORD_0",
        fits ? Uint16Array.from(uvs, (x) => Math.round(WHOLE * x)) : uvs,
        "VEC2",
        !!fits,
      );
    }
    if (colours)
      set(
        "COLOR_0",
        frame
          ? Uint16Array.from(colours, (x) => Math.round(WHOLE * x))
          : colours,
        "VEC3",
        !!frame,
      );
    for (const [name, values] of piece.marks)
      set(attributeOf(name), values, "SCALAR");
    return primitive;
  }
}
