import { EXTTextureWebP, KHRTextureBasisu } from "@gltf-transform/extensions";
import type { Document, Extension, Material } from "@gltf-transform/core";
import type { SurfaceLook } from "../base/pictures";
import { toLinear } from "./colours";
import type { EncodedPicture } from "./encode-picture";

export interface GltfImages {
  normal?: EncodedPicture;
  /** Occlusion in red; where it is packed, roughness in green and metalness in blue. */
  occlusion?: EncodedPicture;
  packed?: boolean;
  /** White, with what is see-through in its alpha. */
  mask?: EncodedPicture;
  /** What the names of the materials end in that take them; all where left out. */
  ending?: string;
}

export interface MaterialExtras {
  looks?: readonly SurfaceLook[];
  /** For each material the first that its name ends like. */
  images?: readonly GltfImages[];
  /** Materials of cards, which take the mask and are seen from both sides. */
  cards?: readonly string[];
  /** Share of the mask under which cards are cut off; where left out they fade. */
  cutOff?: number;
}

/** What glTF itself has no place for. */
const EXTENSIONS: Partial<
  Record<EncodedPicture["mimeType"], new (of: Document) => Extension>
> = { "image/webp": EXTTextureWebP, "image/ktx2": KHRTextureBasisu };

/** Makes the materials of a document as they are asked for, each once, by name. */
export function materialsOf(
  document: Document,
  { looks, images = [], cards = [], cutOff }: MaterialExtras,
): (name: string) => Material {
  const texture = (label: string, picture: EncodedPicture | undefined) => {
    if (!picture) return null;
    const needed = EXTENSIONS[picture.mimeType];
    if (needed) document.createExtension<Extension>(needed).setRequired(true);
    return document
      .createTexture(label)
      .setImage(picture.bytes as Uint8Array<ArrayBuffer>)
      .setMimeType(picture.mimeType);
  };
  const textures = images.map(
    ({ normal, occlusion, packed = false, mask, ending = "" }) => ({
      ending,
      packed,
      normal: texture(`normal${ending}`, normal),
      occlusion: texture(`occlusion${ending}`, occlusion),
      mask: cards.length ? texture(`mask${ending}`, mask) : null,
    }),
  );
  const made = new Map<string, Material>();
  return (name) => {
    let material = made.get(name);
    if (material) return material;
    const look = looks?.find((each) => each.material === name);
    const own = textures.find(({ ending }) => name.endsWith(ending));
    // What a map says of every texel is not said again.
    const packed = own?.packed && own.occlusion;
    material = document
      .createMaterial(name)
      .setRoughnessFactor(packed ? 1 : (look?.roughness ?? 0.7))
      .setMetallicFactor(packed ? 1 : (look?.metalness ?? 0));
    if (look) {
      const [r, g, b] = [1, 3, 5].map((at) =>
        toLinear(parseInt(look.colour.slice(at, at + 2), 16) / 255),
      );
      const { opacity = 1 } = look;
      material.setBaseColorFactor([r, g, b, opacity]);
      if (opacity < 1) material.setAlphaMode("BLEND");
    }
    if (own?.normal) material.setNormalTexture(own.normal);
    if (own?.occlusion) material.setOcclusionTexture(own.occlusion);
    if (packed) material.setMetallicRoughnessTexture(packed);
    if (cards.includes(name)) {
      material.setDoubleSided(true);
      if (own?.mask) {
        material.setBaseColorTexture(own.mask);
        if (cutOff === undefined) material.setAlphaMode("BLEND");
        else material.setAlphaMode("MASK").setAlphaCutoff(cutOff);
      }
    }
    made.set(name, material);
    return material;
  };
}
