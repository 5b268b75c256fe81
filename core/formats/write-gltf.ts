import { toLinear } from "./colours";
import { Accessor, Document, WebIO } from "@gltf-transform/core";
import type { Material } from "@gltf-transform/core";
import type { SurfaceLook } from "../base/pictures";
import type { Hull } from "../mesh/hull";
import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import { toBase64 } from "./base64";
import type { KeptExtras } from "./kept-extras";
import { writeKept } from "./kept-extras";
import { inCacheOrder } from "./cache-order";
import { flattenMesh } from "./flatten-mesh";
import { LevelsExtension, screenCoverage } from "./gltf-levels";
import { attributeOf } from "./marks";
import type { NamedMesh } from "./raw-mesh";

export interface GltfImages {
  normal?: Uint8Array;
  ao?: Uint8Array;
  /** White, with what is see-through in its alpha. */
  mask?: Uint8Array;
  /** What the names of the materials end in that take them; all where left out. */
  ending?: string;
}

export interface GltfExtras {
  looks?: readonly SurfaceLook[];
  /** For each material the first that its name ends like. */
  images?: readonly GltfImages[];
  /** Hulls, with the part that each stands for. */
  hulls?: readonly (Hull & { of: string })[];
  /** Materials of cards, which take the mask and are seen from both sides. */
  cards?: readonly string[];
  /** Whether to write tangents; needs UVs. */
  tangents?: boolean;
  /** Levels of detail of parts, by the part's name, nearest first. */
  levels?: ReadonlyMap<string, readonly Mesh[]>;
  /** Whether levels stand in for their part (MSFT_lod), or are nodes of the scene called NAME_lod1 and so on. */
  levelsBy?: "extension" | "name";
  /** Whether triangles and vertices are ordered for the cache of a graphics card. */
  ordered?: boolean;
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
  return writer().writeBinary(document);
}

/** The same as one glTF file, with its data inside as base64. */
export async function writeGltf(
  name: string,
  parts: readonly NamedMesh[],
  extras: GltfExtras = {},
): Promise<Uint8Array> {
  const { json, resources } = await writer().writeJSON(
    await gltfDocument(name, parts, extras),
  );
  for (const item of [...(json.buffers ?? []), ...(json.images ?? [])]) {
    const data = item.uri ? resources[item.uri] : undefined;
    if (!data) continue;
    const type =
      "mimeType" in item ? item.mimeType : "application/octet-stream";
    item.uri = `data:${type};base64,${toBase64(data)}`;
  }
  return new TextEncoder().encode(JSON.stringify(json));
}

const writer = () => new WebIO().registerExtensions([LevelsExtension]);

/** What a level of detail of a part is called, from 1 on. */
export const levelName = (part: string, level: number) => `${part}_lod${level}`;

/**
 * The document of what is written, as glTF and as GLB.
 * In one piece: one document, whose lists point into each other.
 */
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
  const buffer = document.createBuffer();
  const scene = document.createScene(name);
  document.getRoot().setDefaultScene(scene);
  const texture = (label: string, image: Uint8Array | undefined) =>
    image
      ? document
          .createTexture(label)
          .setImage(image as Uint8Array<ArrayBuffer>)
          .setMimeType("image/png")
      : null;
  const textures = (extras.images ?? []).map(
    ({ normal, ao, mask, ending = "" }) => ({
      ending,
      normal: texture(`normal${ending}`, normal),
      ao: texture(`occlusion${ending}`, ao),
      mask: extras.cards?.length ? texture(`mask${ending}`, mask) : null,
    }),
  );
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
      const { opacity = 1 } = look;
      material.setBaseColorFactor([r, g, b, opacity]);
      if (opacity < 1) material.setAlphaMode("BLEND");
    }
    const own = textures.find(({ ending }) => label.endsWith(ending));
    if (own?.normal) material.setNormalTexture(own.normal);
    if (own?.ao) material.setOcclusionTexture(own.ao);
    if (extras.cards?.includes(label)) {
      material.setDoubleSided(true);
      if (own?.mask)
        // Blended as in the view: a cut-off would lose what is thinner than a pixel.
        material.setBaseColorTexture(own.mask).setAlphaMode("BLEND");
    }
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
  const nodeOf = async (part: NamedMesh) => {
    const mesh = document.createMesh(part.name);
    const how = { tangents: extras.tangents, marks: !!extras.marks };
    const flat = flattenMesh(part, how);
    for (const piece of extras.ordered ? await inCacheOrder(flat) : flat) {
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
      if (piece.colours)
        primitive.setAttribute("COLOR_0", accessor(piece.colours, "VEC3"));
      for (const [name, values] of piece.marks)
        primitive.setAttribute(attributeOf(name), accessor(values, "SCALAR"));
      mesh.addPrimitive(primitive);
    }
    return document.createNode(part.name).setMesh(mesh);
  };
  const levels = extras.levels?.size
    ? document.createExtension(LevelsExtension)
    : null;
  for (const part of parts) {
    const node = await nodeOf(part);
    scene.addChild(node);
    const own = extras.levels?.get(part.name) ?? [];
    if (!own.length) continue;
    const standing = extras.levelsBy === "name" ? null : levels!.create();
    for (const [l, mesh] of own.entries()) {
      const name = levelName(part.name, l + 1);
      const level = await nodeOf({ name, mesh });
      if (standing) standing.addLevel(level);
      else scene.addChild(level);
    }
    if (!standing) continue;
    node.setExtension(LevelsExtension.EXTENSION_NAME, standing).setExtras({
      MSFT_screencoverage: screenCoverage(
        [part.mesh, ...own].map((mesh) => triangleCount(mesh)),
      ),
    });
  }
  for (const hull of extras.hulls ?? []) {
    const primitive = document
      .createPrimitive()
      .setIndices(accessor(hull.triangles, "SCALAR"))
      .setAttribute("POSITION", accessor(hull.positions, "VEC3"));
    scene.addChild(
      document
        .createNode(hull.name)
        .setExtras({ arnik: { hull: hull.kind, of: hull.of } })
        .setMesh(document.createMesh(hull.name).addPrimitive(primitive)),
    );
  }
  return document;
}
