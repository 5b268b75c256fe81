import type { Asset } from "../../asset/asset";
import { profileOf } from "../../asset/profile";
import type { Context } from "../../base/context";
import type { BakedMap } from "../../base/pictures";
import { inEightBits } from "../../formats/dither";
import type { PlainPicture } from "../../formats/encode-picture";
import { encodePicture } from "../../formats/encode-picture";
import type { GltfImages } from "../../formats/gltf-materials";
import { flipGreen, whiteWith, writePng } from "../../formats/png";
import type { PictureMeaning } from "../../formats/write-ktx2";
import type { Mesh } from "../../mesh/mesh";
import type { Names } from "./names";
import { packedMap } from "./packed-map";
import type { ShipOptions } from "./ship-options";
import { materialOnTile } from "./tiled";

export interface DeliveredPictures {
  /** Pictures that glTF has a place for, by tile. */
  inside: GltfImages[];
  files: { name: string; bytes: Uint8Array }[];
}

/** Pictures that glTF has a place for, of one tile at most. */
const MOST = 3;

/** A map in 8 bits, as pictures inside have it. */
const plain = (map: BakedMap) => inEightBits(map) as BakedMap & PlainPicture;

/** Each map as a file of its own, at its full depth. */
function mapFiles(
  maps: readonly BakedMap[],
  names: Names,
  context: Pick<Context, "check" | "progress">,
): DeliveredPictures["files"] {
  const numbered = maps.some(({ tile }) => tile);
  return maps.map((map, m) => {
    context.check();
    context.progress((0.5 * m) / maps.length, `writing the ${map.kind} map`);
    return {
      name: names.map(map.kind, numbered ? (map.tile ?? 0) : null),
      bytes: writePng(map),
    };
  });
}

/**
 * The maps of a delivery: as files, at their full depth, and inside glTF, which knows normal maps, occlusion and masks.
 * @param maps those that are delivered
 * @param meshes the game meshes, with their UVs on their tiles
 * @param tiles those that they lie on
 */
export async function deliveredPictures(
  asset: Asset,
  options: ShipOptions,
  maps: readonly BakedMap[],
  meshes: readonly Mesh[],
  tiles: readonly number[],
  names: Names,
  context: Pick<Context, "check" | "progress">,
): Promise<DeliveredPictures> {
  const { brief, looks } = asset;
  const { greenUp } = profileOf(brief);
  const several = tiles.some((tile) => tile > 0);
  const files = options.mapFiles ? mapFiles(maps, names, context) : [];
  let begun = 0;
  const encode = (picture: PlainPicture, meaning: PictureMeaning = "data") => {
    begun++;
    return encodePicture(
      picture,
      options.pictures,
      options.quality,
      meaning,
      (done) => {
        context.check();
        context.progress(
          0.5 + (0.5 * (begun - 1 + done)) / (MOST * tiles.length),
          "packing pictures",
        );
      },
    );
  };
  const laidOut = meshes.some(({ uvs }) => uvs);
  const inside: GltfImages[] = [];
  for (const [t, tile] of tiles.entries()) {
    begun = MOST * t;
    context.check();
    context.progress(0.5 + (0.5 * t) / tiles.length, "packing pictures");
    const of = (kind: BakedMap["kind"]) =>
      maps.find((map) => map.kind === kind && (map.tile ?? 0) === tile);
    const [normal, ao, opacity] = [of("normal"), of("ao"), of("opacity")];
    const own: GltfImages = {
      ending: several ? materialOnTile("", tile) : "",
    };
    // glTF's green channel points up whatever the profile wants. It has no place for the other maps. What shows a GLB
    // reads 8 bits: 16 would only make it heavy.
    if (normal)
      own.normal = await encode(
        plain(greenUp ? normal : flipGreen(normal)),
        "normal",
      );
    if (options.packed && laidOut) {
      const size = ao ?? {
        width: brief.sheetSize,
        height: brief.sheetHeight || brief.sheetSize,
      };
      const picture = packedMap(
        meshes,
        looks,
        ao ?? null,
        tile,
        size.width,
        size.height,
        brief.padding,
      );
      own.occlusion = await encode(picture);
      own.packed = true;
      if (options.mapFiles)
        files.push({
          name: names.map("packed", several ? tile : null),
          bytes: writePng({ ...picture, kind: "colour", depth: 8 }),
        });
    } else if (ao) own.occlusion = await encode(plain(ao));
    if (opacity) own.mask = await encode(whiteWith(opacity), "alpha");
    inside.push(own);
  }
  return { inside, files };
}
