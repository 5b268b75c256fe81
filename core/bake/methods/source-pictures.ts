import type { Asset } from "../../asset/asset";
import type { SurfacePicture } from "../../base/pictures";
import { toLinear } from "../../formats/colours";
import { picturePixels } from "../../formats/picture-pixels";
import type { PicturePixels } from "../../formats/picture-pixels";

/** A picture on a material of the sources, and what its colours are multiplied with. */
export interface ColourPicture extends PicturePixels {
  material: string;
  /** Linear red, green and blue. */
  tint: readonly number[];
  /** Where UVs lie on it, as `SurfacePicture.placing` says. */
  placing: readonly number[];
}

const AS_IT_IS = [1, 0, 0, 0, 1, 0];

/** Colour pictures of the materials of an asset's sources, by material. */
export function colourPictures(asset: Asset): ColourPicture[] {
  const used = new Set(
    asset.parts.flatMap(({ source }) => (source?.uvs ? source.materials : [])),
  );
  const opened = new Map<Uint8Array, PicturePixels>();
  const open = ({ name, bytes }: SurfacePicture): PicturePixels => {
    const known = opened.get(bytes) ?? picturePixels(name, bytes);
    opened.set(bytes, known);
    return known;
  };
  return asset.looks.flatMap(({ material, colour, pictures }) =>
    pictures?.colour && used.has(material)
      ? [
          {
            ...open(pictures.colour),
            material,
            tint: [1, 3, 5].map((k) =>
              toLinear(parseInt(colour.slice(k, k + 2), 16) / 255),
            ),
            placing: pictures.colour.placing ?? AS_IT_IS,
          },
        ]
      : [],
  );
}

/** Linear light of each step of sRGB. */
const LINEAR = Float64Array.from({ length: 256 }, (_, i) => toLinear(i / 255));

/**
 * The colour of a picture at a place, mixed of its four nearest pixels as light; it goes on beyond its edges.
 * @param into 3 numbers per colour: linear red, green and blue, 0 … 1
 */
export function colourAt(
  { width, height, pixels, tint, placing: m }: ColourPicture,
  u: number,
  v: number,
  into: Float64Array,
): void {
  const right = m[0] * u + m[1] * v + m[2];
  const up = m[3] * u + m[4] * v + m[5];
  const x = (right - Math.floor(right)) * width - 0.5;
  const y = (1 - (up - Math.floor(up))) * height - 0.5;
  const left = Math.floor(x);
  const top = Math.floor(y);
  const fx = x - left;
  const fy = y - top;
  const x0 = (left + width) % width;
  const x1 = (left + 1) % width;
  const y0 = ((top + height) % height) * width;
  const y1 = ((top + 1) % height) * width;
  for (let k = 0; k < 3; k++)
    into[k] =
      tint[k] *
      ((1 - fy) *
        ((1 - fx) * LINEAR[pixels[3 * (y0 + x0) + k]] +
          fx * LINEAR[pixels[3 * (y0 + x1) + k]]) +
        fy *
          ((1 - fx) * LINEAR[pixels[3 * (y1 + x0) + k]] +
            fx * LINEAR[pixels[3 * (y1 + x1) + k]]));
}
