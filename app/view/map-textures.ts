import {
  DataTexture,
  LinearFilter,
  LinearMipmapLinearFilter,
  NoColorSpace,
  RepeatWrapping,
  RGBAFormat,
  SRGBColorSpace,
} from "three";
import type { Texture } from "three";
import { profileOf } from "../../core/asset/profile";
import type { AssetDocument, MapDocument } from "../../core/asset/document";
import type { BakedMap, MapKind } from "../../core/base/pictures";
import { SEEN_KINDS } from "../../core/base/pictures";
import { statusInk } from "../../core/bake/methods/status";
import { angleInk } from "./face-colours";
import { coverageMips } from "../../core/space/coverage-mips";
import { tileAt } from "../../core/mesh/tiles";
import type { StreamLoader } from "./stream-loader";
import { asPicture } from "./room";

/** Pixels along an edge that every machine can draw. */
const MOST = 8192;

/** From this share of white on a mask counts as there. */
const CUT_OFF = 0.5;

/** Lets a texture be drawn smoothly from near and from afar. */
function smooth(texture: DataTexture): DataTexture {
  texture.minFilter = LinearMipmapLinearFilter;
  texture.magFilter = LinearFilter;
  texture.generateMipmaps = true;
  texture.anisotropy = 4;
  texture.needsUpdate = true;
  return texture;
}

/** Gives a mask levels of its own, which keep its coverage: thin strands would vanish with distance. */
export function keepCoverage(texture: DataTexture | null): DataTexture | null {
  if (!texture) return null;
  const { data, width, height } = texture.image as {
    data: Uint8Array;
    width: number;
    height: number;
  };
  const mask = new Uint8Array(width * height).map((_, i) => data[4 * i]);
  const levels = coverageMips(mask, width, height, Math.ceil(255 * CUT_OFF));
  texture.mipmaps = levels.map((level) => {
    const pixels = new Uint8Array(4 * level.values.length);
    level.values.forEach((value, i) => pixels.fill(value, 4 * i, 4 * i + 4));
    return { data: pixels, width: level.width, height: level.height };
  }) as unknown as typeof texture.mipmaps;
  texture.generateMipmaps = false;
  return texture;
}

/** The baked maps as textures, and the same as pictures to be looked at on the sheet. */
export class MapTextures {
  normal: Texture | null = null;
  ao: Texture | null = null;
  opacity: Texture | null = null;
  /** What was painted after the sheet, fitted into it. */
  painted: Texture | null = null;
  /** What each map looks like on the sheet. */
  pictures: Partial<Record<MapKind, Texture | null>> = {};
  private document: AssetDocument | null = null;
  private key = "";

  constructor(private readonly loader: StreamLoader) {}

  async update(document: AssetDocument): Promise<void> {
    const key = JSON.stringify([
      document.maps,
      document.painted?.bytes.hash,
      document.brief,
    ]);
    if (key === this.key) return;
    this.key = key;
    this.normal?.dispose();
    this.ao?.dispose();
    this.opacity?.dispose();
    const find = (kind: string) =>
      document.maps.filter((map) => map.kind === kind);
    this.normal = await this.texture(
      find("normal"),
      !profileOf(document.brief).greenUp,
    );
    this.ao = await this.texture(find("ao"), false);
    this.opacity = keepCoverage(await this.texture(find("opacity"), false));
    this.painted?.dispose();
    this.painted = await this.paintedTexture(document);
    for (const kind of SEEN_KINDS)
      if (kind !== "normal" && kind !== "ao") this.pictures[kind]?.dispose();
    this.pictures = { normal: asPicture(this.normal), ao: asPicture(this.ao) };
    this.document = document;
  }

  /** Makes the picture of a map when it is first looked at. @returns whether there is a new one */
  async look(kind: MapKind): Promise<boolean> {
    const { document, pictures } = this;
    if (!document || kind in pictures) return false;
    pictures[kind] = null;
    const maps = document.maps.filter((map) => map.kind === kind);
    const picture = asPicture(await this.texture(maps, false));
    if (this.pictures !== pictures) picture?.dispose();
    else pictures[kind] = picture;
    return this.pictures === pictures && picture !== null;
  }

  /** A painted picture in the middle of the sheet, as large as fits without being squeezed. */
  private async paintedTexture({
    painted,
    brief,
  }: AssetDocument): Promise<Texture | null> {
    if (!painted) return null;
    const bytes = (await this.loader.load<Uint8Array>(painted.bytes))!;
    const bitmap = await createImageBitmap(
      new Blob([bytes.slice()], { type: `image/${painted.kind}` }),
    );
    const width = Math.min(2048, brief.sheetSize);
    const height = Math.round(
      (width * (brief.sheetHeight || brief.sheetSize)) / brief.sheetSize,
    );
    const canvas = new OffscreenCanvas(width, height);
    const draw = canvas.getContext("2d")!;
    draw.fillStyle = "#ece7dc";
    draw.fillRect(0, 0, width, height);
    const scale = Math.min(width / bitmap.width, height / bitmap.height);
    draw.drawImage(
      bitmap,
      (width - scale * bitmap.width) / 2,
      (height - scale * bitmap.height) / 2,
      scale * bitmap.width,
      scale * bitmap.height,
    );
    const { data } = draw.getImageData(0, 0, width, height);
    const turned = new Uint8Array(data.length);
    for (let y = 0; y < height; y++)
      turned.set(
        data.subarray(4 * width * (height - 1 - y), 4 * width * (height - y)),
        4 * width * y,
      );
    const texture = new DataTexture(turned, width, height, RGBAFormat);
    // Every one of several sheets shows it.
    texture.wrapS = texture.wrapT = RepeatWrapping;
    texture.colorSpace = SRGBColorSpace;
    return smooth(texture);
  }

  /** Stored maps of one kind as one texture; null where there is none. */
  private async texture(
    maps: readonly MapDocument[],
    flipGreen: boolean,
  ): Promise<DataTexture | null> {
    const loaded = [];
    for (const map of maps)
      loaded.push({
        ...map,
        pixels: (await this.loader.load<Uint8Array | Uint16Array>(map.pixels))!,
      });
    return sheetsTexture(loaded, flipGreen);
  }
}

/**
 * Maps of one kind as a texture, several sheets side by side as they lie in UV; null where there is none. An image's
 * first row becomes the last, as textures count from the bottom.
 */
export function sheetsTexture(
  maps: readonly BakedMap[],
  flipGreen: boolean,
): DataTexture | null {
  if (!maps.length) return null;
  const places = maps.map((map) => tileAt(map.tile ?? 0));
  const across = Math.max(...places.map(([x]) => x + 1));
  const up = Math.max(...places.map(([, y]) => y + 1));
  // One that was brought in has a size of its own: the finest tells.
  const { width: sheetWidth, height: sheetHeight } = maps.reduce((a, b) =>
    b.width > a.width ? b : a,
  );
  const step = Math.ceil(
    Math.max(across * sheetWidth, up * sheetHeight) / MOST,
  );
  const width = Math.floor(sheetWidth / step);
  const height = Math.floor(sheetHeight / step);
  const data = new Uint8Array(4 * across * up * width * height);
  for (const [i, map] of maps.entries()) {
    const { pixels } = map;
    const shift = map.depth === 16 ? 8 : 0;
    const [byX, byY] = [map.width / width, map.height / height];
    const [right, above] = places[i];
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const from =
          map.channels *
          ((map.height - 1 - Math.floor(byY * y)) * map.width +
            Math.floor(byX * x));
        const row = above * height + y;
        const to = 4 * (row * across * width + right * width + x);
        if (map.kind === "status") data.set(statusInk(pixels[from]), to);
        else if (map.kind === "angle") data.set(angleInk(pixels[from]), to);
        else
          for (let k = 0; k < 3; k++)
            data[to + k] = pixels[from + (map.channels === 3 ? k : 0)] >> shift;
        if (flipGreen) data[to + 1] = 255 - data[to + 1];
        data[to + 3] = 255;
      }
  }
  const texture = new DataTexture(
    data,
    across * width,
    up * height,
    RGBAFormat,
  );
  texture.repeat.set(1 / across, 1 / up);
  texture.colorSpace = NoColorSpace;
  return smooth(texture);
}
