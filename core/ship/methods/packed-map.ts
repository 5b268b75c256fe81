import type { BakedMap, SurfaceLook } from "../../base/pictures";
import { inEightBits } from "../../formats/dither";
import type { PlainPicture } from "../../formats/encode-picture";
import type { Mesh } from "../../mesh/mesh";
import { tileAt } from "../../mesh/tiles";
import { triangulate } from "../../mesh/triangulate";
import { dilate } from "../../space/dilate";
import { rasterizeTriangle } from "../../space/raster";

/** What a surface without a look is taken for, as in GLB. */
const PLAIN = { roughness: 0.7, metalness: 0 };

/**
 * Occlusion, roughness and metalness of a sheet in the red, green and blue of one picture: roughness and metalness as
 * the looks of the materials say, run on round every island.
 * @param occlusion of the tile; white where there is none
 * @param padding texels that looks run on by
 */
export function packedMap(
  meshes: readonly Mesh[],
  looks: readonly SurfaceLook[],
  occlusion: BakedMap | null,
  tile: number,
  width: number,
  height: number,
  padding: number,
): PlainPicture {
  // 0 is the plain one, then each look; what comes after so many is plain.
  const known = looks.slice(0, 254);
  const own = new Uint8Array(width * height);
  const covered = new Uint8Array(width * height);
  const [right, up] = tileAt(tile);
  for (const mesh of meshes) {
    const { uvs } = mesh;
    if (!uvs) continue;
    const numbers = mesh.materials.map(
      (name) => 1 + known.findIndex(({ material }) => material === name),
    );
    const { corners, faces } = triangulate(mesh);
    for (let t = 0; t < faces.length; t++) {
      const number = numbers[mesh.faceMaterials?.[faces[t]] ?? 0];
      const at = [0, 1, 2].flatMap((k) => {
        const c = 2 * corners[3 * t + k];
        return [(uvs[c] - right) * width, (1 - (uvs[c + 1] - up)) * height];
      }) as [number, number, number, number, number, number];
      rasterizeTriangle(...at, width, height, (row, from, to) => {
        own.fill(number, row * width + from, row * width + to);
        covered.fill(1, row * width + from, row * width + to);
      });
    }
  }
  dilate(own, 1, covered, width, height, padding, true);
  const inBytes = [PLAIN, ...known].map(({ roughness, metalness }) => [
    Math.round(255 * roughness),
    Math.round(255 * metalness),
  ]);
  const shade = occlusion && inEightBits(occlusion).pixels;
  const pixels = new Uint8Array(3 * width * height);
  for (let i = 0; i < own.length; i++) {
    pixels[3 * i] = shade ? shade[i] : 255;
    pixels[3 * i + 1] = inBytes[own[i]][0];
    pixels[3 * i + 2] = inBytes[own[i]][1];
  }
  return { width, height, channels: 3, pixels };
}
