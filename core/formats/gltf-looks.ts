import type { SurfacePicture } from "../base/pictures";
import { bytesOfDataUri } from "./data-uri";
import { hexColour, toSrgb } from "./colours";
import type { Json } from "./json-check";
import { JsonCheck, shown, text } from "./json-check";
import type { FoundLook, PictureShelf } from "./looks";

/** A picture as a material uses it: its number, and where UVs lie on it as `SurfacePicture.placing` says. */
type TextureUse =
  { image: number; placing?: readonly number[] } | { unread: "kind" | "UVs" };

export interface GltfMaterial {
  name: string;
  look: FoundLook;
  colour?: TextureUse;
  normal?: TextureUse;
}

export type GltfImage = { name: string } & ({ uri: string } | { view: number });

/** Materials and pictures of a glTF, in the order of the file. */
export interface GltfLooks {
  materials: GltfMaterial[];
  images: GltfImage[];
}

const TRANSFORM = "KHR_texture_transform";

/**
 * The looks of a glTF 2.0 JSON, checked clause by clause (Khronos glTF 2.0, sections 3.8 and 3.9, and
 * KHR_texture_transform). Pictures on a second set of UVs are left out: only one set is read.
 */
export class GltfLooksCheck extends JsonCheck {
  /** @param views how many buffer views the file has */
  read(json: Json, views: number): GltfLooks {
    const images = this.list(json, "images").map((image, i): GltfImage => {
      const path = `images[${i}]`;
      const name = text(image.name) || `picture ${i + 1}`;
      if (image.bufferView !== undefined)
        return {
          name,
          view: this.index(image.bufferView, `${path}.bufferView`, views),
        };
      if (typeof image.uri !== "string")
        this.fail(`${path}.uri`, `a text is expected, not ${shown(image.uri)}`);
      return { name, uri: image.uri };
    });
    const sources = this.list(json, "textures").map(({ source }, i) =>
      source === undefined
        ? -1
        : this.index(source, `textures[${i}].source`, images.length),
    );
    const given = this.list(json, "materials");
    const materials = given.map((material, i): GltfMaterial => {
      const path = `materials[${i}]`;
      const pbrPath = `${path}.pbrMetallicRoughness`;
      const own = material.pbrMetallicRoughness;
      const pbr = own === undefined ? {} : this.object(own, pbrPath);
      const factor = this.numbers(
        pbr.baseColorFactor,
        `${pbrPath}.baseColorFactor`,
        4,
      ) ?? [1, 1, 1, 1];
      const use = (holder: Json, name: string, at: string) =>
        holder[name] === undefined
          ? undefined
          : this.use(holder[name], `${at}.${name}`, sources);
      const colour = use(pbr, "baseColorTexture", pbrPath);
      const normal = use(material, "normalTexture", path);
      const clear = material.alphaMode === "BLEND";
      const cut = material.alphaMode === "MASK";
      return {
        // Unnamed materials are told apart where there are several.
        name:
          text(material.name) ||
          (given.length > 1 ? `surface ${i + 1}` : "surface"),
        look: {
          colour: hexColour(factor.slice(0, 3).map(toSrgb)),
          ...((clear || cut) && factor[3] < 1 && { opacity: factor[3] }),
          ...(colour && clear && { cutOff: 0 }),
          ...(colour && cut && { cutOff: this.cutOff(material, path) }),
        },
        ...(colour && { colour }),
        ...(normal && { normal }),
      };
    });
    return { materials, images };
  }

  private cutOff(material: Json, path: string): number {
    const value = material.alphaCutoff ?? 0.5;
    if (!Number.isFinite(value))
      this.fail(`${path}.alphaCutoff`, "a number is expected");
    return Math.max(0.001, Math.min(1, value as number));
  }

  private use(
    value: unknown,
    path: string,
    sources: readonly number[],
  ): TextureUse {
    const info = this.object(value, path);
    const image =
      sources[this.index(info.index, `${path}.index`, sources.length)];
    const moved = this.extension(info, TRANSFORM, path);
    const set = moved?.texCoord ?? info.texCoord ?? 0;
    if (set !== 0) return { unread: "UVs" };
    // Only an extension knows its picture, whose kind is none of glTF's own.
    if (image < 0) return { unread: "kind" };
    return { image, ...(moved && { placing: this.placing(moved, path) }) };
  }

  /** The affine map of KHR_texture_transform, whose v runs down, for v up. */
  private placing(moved: Json, path: string): number[] {
    const at = `${path}.extensions.${TRANSFORM}`;
    const [x, y] = this.numbers(moved.offset, `${at}.offset`, 2) ?? [0, 0];
    const [sx, sy] = this.numbers(moved.scale, `${at}.scale`, 2) ?? [1, 1];
    const turn = moved.rotation ?? 0;
    if (!Number.isFinite(turn))
      this.fail(`${at}.rotation`, "a number is expected");
    const cos = Math.cos(turn as number);
    const sin = Math.sin(turn as number);
    // Down: u' = cos·sx·u + sin·sy·v + x, v' = −sin·sx·u + cos·sy·v + y; with v = 1 − V and v' = 1 − V':
    return [
      cos * sx,
      -sin * sy,
      sin * sy + x,
      sin * sx,
      cos * sy,
      1 - cos * sy - y,
    ];
  }
}

/**
 * The look of one of a file's materials with its pictures.
 * @param bytesOf the bytes of a buffer view
 */
export function lookOf(
  file: string,
  { look, ...uses }: GltfMaterial,
  images: readonly GltfImage[],
  bytesOf: (view: number) => Uint8Array,
  shelf: PictureShelf,
): FoundLook {
  const picture = (use?: TextureUse): SurfacePicture | null => {
    if (!use) return null;
    if ("unread" in use) return shelf.unread(use.unread);
    const { image: at, placing } = use;
    const image = images[at];
    const within = (key: string, bytes: Uint8Array) =>
      shelf.within(`${key} of ${file}`, image.name, bytes);
    const found =
      "view" in image
        ? within(`view ${image.view}`, bytesOf(image.view))
        : image.uri.startsWith("data:")
          ? within(`image ${at}`, bytesOfDataUri(image.uri) ?? new Uint8Array())
          : shelf.named(image.uri);
    return found && { ...found, ...(placing && { placing }) };
  };
  const colour = picture(uses.colour);
  const normal = picture(uses.normal);
  if (!colour && !normal) return look;
  const pictures = { ...(colour && { colour }), ...(normal && { normal }) };
  return { ...look, pictures };
}
