import {
  BufferAttribute,
  DoubleSide,
  FrontSide,
  MeshStandardMaterial,
  NoColorSpace,
  RepeatWrapping,
  SRGBColorSpace,
  Texture,
} from "three";
import type { BufferGeometry } from "three";
import type { PictureUse } from "../../core/base/pictures";
import type {
  AssetDocument,
  LookDocument,
  PictureDocument,
} from "../../core/asset/document";
import { toLinear } from "../../core/formats/colours";
import type { Mesh } from "../../core/mesh/mesh";
import { cornerNormals } from "../../core/mesh/normals";
import type { StreamLoader } from "./stream-loader";
import { groupByMaterial, surfaceGeometry } from "./geometry";
import { splitOf } from "./split";

/** Pixels along an edge that a picture on a source is drawn with at most. */
const MOST = 2048;

/** How sources look by the materials, pictures and vertex colours that they came with. */
export class OwnLooks {
  private looks: readonly LookDocument[] = [];
  private readonly textures = new Map<string, Promise<Texture | null>>();
  private readonly made = new Map<string, MeshStandardMaterial>();
  private key = "";
  /** Counts how often the looks were others. */
  version = 0;

  constructor(private readonly loader: StreamLoader) {}

  /** Takes the looks of a document; pictures are opened once they are drawn. */
  update({ looks }: AssetDocument): void {
    const key = JSON.stringify(looks);
    if (key === this.key) return;
    this.key = key;
    this.version++;
    this.looks = looks;
    for (const material of this.made.values()) material.dispose();
    this.made.clear();
    const wanted = new Set(
      looks.flatMap((look) =>
        Object.entries(look.pictures ?? {}).map(([use, picture]) =>
          keyOf(use as PictureUse, picture),
        ),
      ),
    );
    for (const [at, texture] of this.textures) {
      if (wanted.has(at)) continue;
      void texture.then((each) => each?.dispose());
      this.textures.delete(at);
    }
  }

  /** A mesh as it came, with the materials of its groups. @param ready is told when a picture has been opened */
  applyStyle(
    mesh: Mesh,
    ready: () => void,
  ): { geometry: BufferGeometry; materials: MeshStandardMaterial[] } {
    const geometry = surfaceGeometry({
      ...mesh,
      normals: mesh.normals ?? cornerNormals(mesh),
    });
    const split = splitOf(mesh);
    groupByMaterial(geometry, mesh, split.faces);
    const { colours } = mesh;
    if (colours) {
      const light = new Float32Array(3 * split.corners.length);
      for (let i = 0; i < split.corners.length; i++)
        for (let k = 0; k < 3; k++)
          light[3 * i + k] = LIGHT[colours[3 * split.corners[i] + k]];
      geometry.setAttribute("color", new BufferAttribute(light, 3));
    }
    return {
      geometry,
      materials: mesh.materials.map((name) =>
        this.material(name, !!colours, !!mesh.uvs, ready),
      ),
    };
  }

  private material(
    name: string,
    coloured: boolean,
    unwrapped: boolean,
    ready: () => void,
  ): MeshStandardMaterial {
    const key = `${coloured} ${unwrapped} ${name}`;
    const known = this.made.get(key);
    if (known) return known;
    const look = this.looks.find((each) => each.material === name);
    const { opacity = 1, cutOff, pictures = {} } = look ?? {};
    const masked = !!pictures.opacity || !!cutOff;
    const material = new MeshStandardMaterial({
      color: look?.colour ?? (coloured ? "#ffffff" : "#b8b2a6"),
      roughness: look?.roughness ?? 0.85,
      metalness: look?.metalness ?? 0,
      vertexColors: coloured,
      opacity,
      transparent: opacity < 1 || cutOff === 0,
      alphaTest: masked ? cutOff || 0.5 : 0,
      side: masked || cutOff === 0 ? DoubleSide : FrontSide,
      polygonOffset: true,
      polygonOffsetFactor: 1,
      polygonOffsetUnits: 1,
    });
    this.made.set(key, material);
    const slots = {
      colour: "map",
      normal: "normalMap",
      opacity: "alphaMap",
    } as const;
    if (unwrapped)
      for (const [use, picture] of Object.entries(pictures) as [
        PictureUse,
        PictureDocument,
      ][])
        void this.texture(use, picture).then((texture) => {
          material[slots[use]] = texture;
          material.needsUpdate = true;
          ready();
        });
    return material;
  }

  private texture(
    use: PictureUse,
    picture: PictureDocument,
  ): Promise<Texture | null> {
    const key = keyOf(use, picture);
    let found = this.textures.get(key);
    if (!found) {
      found = this.open(use, picture).catch(() => null);
      this.textures.set(key, found);
    }
    return found;
  }

  private async open(
    use: PictureUse,
    { bytes, kind, width, height, placing }: PictureDocument,
  ): Promise<Texture> {
    const data = (await this.loader.load<Uint8Array>(bytes))!;
    const scale = Math.min(1, MOST / Math.max(width, height));
    const bitmap = await createImageBitmap(
      new Blob([data.slice()], { type: `image/${kind}` }),
      {
        imageOrientation: "flipY",
        premultiplyAlpha: "none",
        resizeWidth: Math.max(1, Math.round(scale * width)),
        resizeHeight: Math.max(1, Math.round(scale * height)),
      },
    );
    const texture = new Texture(bitmap);
    texture.colorSpace = use === "colour" ? SRGBColorSpace : NoColorSpace;
    texture.wrapS = texture.wrapT = RepeatWrapping;
    texture.anisotropy = 4;
    if (placing) {
      const [a, b, c, d, e, f] = placing;
      texture.matrixAutoUpdate = false;
      texture.matrix.set(a, b, c, d, e, f, 0, 0, 1);
    }
    texture.needsUpdate = true;
    return texture;
  }
}

const keyOf = (use: PictureUse, { bytes, placing }: PictureDocument) =>
  JSON.stringify([use, bytes.hash, placing]);

/** Linear light of each byte of sRGB. */
const LIGHT = Float32Array.from({ length: 256 }, (_, byte) =>
  toLinear(byte / 255),
);
