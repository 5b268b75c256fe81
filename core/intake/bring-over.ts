import type { Asset, BakedMap, Part } from "../asset/asset";
import { partOf } from "../asset/asset";
import { MissingInputError } from "../errors";
import { distinctNames } from "../formats/raw-mesh";
import type { Mesh } from "../mesh/mesh";
import { triangulate } from "../mesh/triangulate";
import { tileAt } from "../mesh/tiles";
import { defineOperation, field } from "../operation";
import { rasterizeTriangle } from "../space/raster";

class BringOverOptions {
  @field({
    kind: "integer",
    label: "Asset",
    help: "Number of the asset the part comes from.",
    min: 1,
    max: 1000000000,
  })
  asset = 1;

  @field({
    kind: "text",
    label: "Part",
    help: "Name of the part there.",
    max: 80,
  })
  part = "";
}

/** Texels copied beyond an island's rim, so that its padding comes along. */
const RIM = 2;

export const bringOver = defineOperation({
  id: "intake/bring-over",
  stage: "intake",
  title: "Bring a part over",
  about:
    "Copies a part of another asset here, with its game mesh, UVs, hulls, looks and what was baked for it.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: BringOverOptions,
  async run(asset, options, context) {
    if (!context.assetById)
      throw new MissingInputError(
        "there is no store of assets to bring a part over from",
      );
    const other = await context.assetById(options.asset);
    const found = partOf(other, options.part);
    const name = distinctNames([
      ...asset.parts.map((part) => part.name),
      found.name,
    ]).at(-1)!;
    const part: Part = {
      ...found,
      name,
      locked: false,
      repeat: null,
      hulls: found.hulls.map((hull) => ({
        ...hull,
        name: hull.name.replace(found.name, name),
      })),
      source: found.source && withPalette(found.source),
      game: found.game && withPalette(found.game),
    };
    const known = new Set(asset.looks.map((look) => look.material));
    const materials = new Set(
      [part.source, part.game].flatMap((mesh) => mesh?.materials ?? []),
    );
    const looks = other.looks.filter(
      ({ material }) => materials.has(material) && !known.has(material),
    );
    const { maps, texels } = part.game?.uvs
      ? bakesOver(asset, other, part.game)
      : { maps: asset.maps, texels: 0 };
    return {
      asset: {
        ...asset,
        parts: [...asset.parts, part],
        looks: [...asset.looks, ...looks],
        maps,
      },
      headline: "",
      report: {
        part: name,
        game: part.game !== null,
        uvs: !!part.game?.uvs,
        texels,
        summary: `${name} came over${part.game ? " with its game mesh" : ""}${texels ? " and its bakes" : ""}`,
      },
    };
  },
});

/** IDs name the other asset's palette, which stays there. */
const withPalette = (mesh: Mesh): Mesh => ({ ...mesh, ids: null });

/**
 * The asset's maps with the texels of one mesh's islands from the other asset's. Maps the asset does not have yet
 * are taken over empty but for these islands.
 */
function bakesOver(asset: Asset, other: Asset, mesh: Mesh) {
  let texels = 0;
  const maps = [...asset.maps];
  for (const from of other.maps) {
    const at = maps.findIndex(
      ({ kind, tile }) =>
        kind === from.kind && (tile ?? 0) === (from.tile ?? 0),
    );
    const into = at >= 0 ? maps[at] : { ...from, pixels: emptyPixels(from) };
    const copied = { ...into, pixels: into.pixels.slice() };
    texels += copyIslands(mesh, from, copied);
    if (at >= 0) maps[at] = copied;
    else maps.push(copied);
  }
  return { maps, texels };
}

function emptyPixels(map: BakedMap): BakedMap["pixels"] {
  const pixels = map.pixels.slice().fill(0);
  const full = map.depth === 16 ? 65535 : 255;
  for (let i = 0; i < pixels.length; i++)
    if (map.kind === "ao") pixels[i] = full;
    else pixels[i] = i % 3 === 2 ? full : (full + 1) / 2;
  return pixels;
}

function copyIslands(mesh: Mesh, from: BakedMap, into: BakedMap): number {
  const { width, height, channels } = into;
  const taken = new Uint8Array(width * height);
  const { corners } = triangulate(mesh);
  const uv = mesh.uvs!;
  const [right, up] = tileAt(from.tile ?? 0);
  const x = (c: number) => (uv[2 * c] - right) * width;
  const y = (c: number) => (1 - uv[2 * c + 1] + up) * height;
  for (let t = 0; t < corners.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => corners[t + k]);
    rasterizeTriangle(
      x(a),
      y(a),
      x(b),
      y(b),
      x(c),
      y(c),
      width,
      height,
      (row, start, end) =>
        taken.fill(1, row * width + start, row * width + end),
    );
  }
  widen(taken, width, height);
  const shift = from.depth === into.depth ? 0 : into.depth === 16 ? 8 : -8;
  let count = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (!taken[y * width + x]) continue;
      count++;
      const sx = Math.floor(((x + 0.5) * from.width) / width);
      const sy = Math.floor(((y + 0.5) * from.height) / height);
      for (let k = 0; k < channels; k++) {
        const value = from.pixels[from.channels * (sy * from.width + sx) + k];
        into.pixels[channels * (y * width + x) + k] =
          shift > 0 ? value << shift : value >> -shift;
      }
    }
  return count;
}

function widen(taken: Uint8Array, width: number, height: number): void {
  for (let round = 0; round < RIM; round++) {
    const before = taken.slice();
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        if (before[y * width + x]) continue;
        const near =
          (x > 0 && before[y * width + x - 1]) ||
          (x + 1 < width && before[y * width + x + 1]) ||
          (y > 0 && before[(y - 1) * width + x]) ||
          (y + 1 < height && before[(y + 1) * width + x]);
        if (near) taken[y * width + x] = 1;
      }
  }
}
