import type { Asset } from "../../asset/asset";
import { BONE, Drawing } from "../../asset/drawing";
import type { BakedMap } from "../../base/pictures";
import { spaced } from "../../base/wording";
import { toBase64 } from "../../formats/base64";
import { inEightBits } from "../../formats/dither";
import { flipGreen, writePng } from "../../formats/png";
import type { Mesh } from "../../mesh/mesh";
import { udimOf } from "../../mesh/tiles";
import type { Check } from "./check-list";
import { REPORT_SHOTS } from "./shots";

export interface PageContents {
  asset: Asset;
  meshes: readonly Mesh[];
  maps: readonly BakedMap[];
  greenUp: boolean;
  profile: string;
  checks: readonly Check[];
  /** Whether what failed was shipped all the same. */
  waived: boolean;
  files: readonly { name: string; bytes: number }[];
  levels: readonly number[];
  /** PNGs from a view, by the names of the shots; what is null is drawn. */
  pictures: ReadonlyMap<string, Uint8Array> | null;
}

/** Edge of a map on the page, px. */
const MAP = 256;

/**
 * The page that is handed over with a delivery: one file without scripts, pictures inside.
 * In one piece: the page from top to bottom.
 * @param check is called between pictures, and throws where the work is cancelled
 */
export function reportPage(contents: PageContents, check: () => void): string {
  const { asset, meshes, maps, checks, files, profile, levels } = contents;
  const upright = maps.map((map) =>
    map.kind === "normal" && !contents.greenUp ? flipGreen(map) : map,
  );
  const { width, height, shots } = REPORT_SHOTS;
  const pictures = contents.pictures ?? drawnPictures(meshes, upright, check);
  const looks = shots.map(({ name }) =>
    figure(name, pictures.get(name)!, width, height),
  );
  const several = maps.some(({ tile }) => tile);
  const shown = maps.map((map) => {
    check();
    const small = smaller(map, MAP);
    const tile = several ? ` ${udimOf(map.tile ?? 0)}` : "";
    return figure(
      `${map.kind}${tile}, ${map.width} × ${map.height}, ${map.depth} bit`,
      writePng(small),
      small.width,
      small.height,
    );
  });
  const failed = checks.filter(({ ok, stops }) => !ok && stops);
  const verdict = failed.length
    ? `${failed.length} ${failed.length === 1 ? "check" : "checks"} failed${contents.waived ? ", and it was shipped all the same" : ""}`
    : "Everything that stops a delivery is met";
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${escaped(asset.name)}: delivery</title>
<style>${STYLE}</style>
<header><h1>${escaped(asset.name)}</h1><p>${escaped(profile)}</p></header>
<p class="${failed.length ? "bad" : "good"} verdict">${escaped(verdict)}</p>
<section class="pictures">
${looks.join("\n")}
</section>
<h2>Check list</h2>
<table><thead><tr><th>What<th>Found<th>Allowed<th></tr></thead><tbody>
${checks.map(row).join("\n")}
</tbody></table>
<h2>Levels of detail</h2>
<table><thead><tr><th>Level<th>Triangles<th>Of the first</tr></thead><tbody>
${levels.map((triangles, l) => `<tr><td>${l}<td>${spaced(triangles)}<td>${Math.round((100 * triangles) / Math.max(1, levels[0]))} %`).join("\n")}
</tbody></table>
${shown.length ? `<h2>Maps</h2>\n<section class="pictures">\n${shown.join("\n")}\n</section>` : ""}
<h2>Files</h2>
<table><thead><tr><th>File<th>Size</tr></thead><tbody>
${files.map(({ name, bytes }) => `<tr><td>${escaped(name)}<td>${spaced(Math.ceil(bytes / 1024))} kB`).join("\n")}
</tbody></table>
<footer>Made by Arnik. Pictures ${contents.pictures ? "from its view" : "drawn without a view"}.</footer>
</html>
`;
}

/** The pictures as they are drawn where there is no view. */
function drawnPictures(
  meshes: readonly Mesh[],
  maps: readonly BakedMap[],
  check: () => void,
): ReadonlyMap<string, Uint8Array> {
  const drawing = new Drawing(
    meshes.map((mesh) => ({ mesh, tint: BONE })),
    maps.filter(({ kind }) => kind === "normal" || kind === "ao"),
  );
  const { width, height, shots } = REPORT_SHOTS;
  return new Map(
    shots.map(({ name, back, look }) => {
      check();
      const pixels = drawing.draw({ back, look, width, height });
      const png = writePng({
        ...{ kind: "normal", width, height, channels: 3, depth: 8 },
        pixels,
      });
      return [name, png];
    }),
  );
}

function row({ name, figure, limit, ok, stops }: Check): string {
  const [tone, word] = ok
    ? ["good", "ok"]
    : stops
      ? ["bad", "failed"]
      : ["warn", "look"];
  return `<tr><td>${escaped(name)}<td>${escaped(figure)}<td>${escaped(limit)}<td class="${tone}">${word}`;
}

const figure = (name: string, png: Uint8Array, width: number, height: number) =>
  `<figure><img alt="${escaped(name)}" width="${width}" height="${height}" src="data:image/png;base64,${toBase64(png)}"><figcaption>${escaped(name)}</figcaption></figure>`;

const escaped = (text: string): string =>
  text.replace(/[&<>"']/g, (char) => `&#${char.charCodeAt(0)};`);

/** A map made smaller by whole steps, each pixel the mean of those it stands for; 8 bits. */
function smaller(given: BakedMap, edge: number): BakedMap {
  const map = inEightBits(given);
  const step = Math.ceil(Math.max(map.width, map.height) / edge);
  if (step <= 1) return map;
  const width = Math.floor(map.width / step);
  const height = Math.floor(map.height / step);
  const { channels } = map;
  const pixels = new Uint8Array(channels * width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let k = 0; k < channels; k++) {
        let sum = 0;
        for (let v = 0; v < step; v++)
          for (let u = 0; u < step; u++)
            sum +=
              map.pixels[
                channels * ((y * step + v) * map.width + x * step + u) + k
              ];
        pixels[channels * (y * width + x) + k] = Math.round(
          sum / (step * step),
        );
      }
  return { ...map, width, height, pixels };
}

const STYLE = `
body{margin:0 auto;max-width:1200px;padding:24px;background:#fbfaf7;color:#1e2328;font:14px/1.5 system-ui,sans-serif}
header{display:flex;align-items:baseline;gap:16px;border-bottom:1px solid #d3ccbd}
header p{color:#4a5258}
h1{font:600 28px Georgia,serif;margin:0 0 8px}
h2{font:600 18px Georgia,serif;margin:32px 0 8px}
.pictures{display:flex;flex-wrap:wrap;gap:12px}
figure{margin:0}
img{display:block;border:1px solid #d3ccbd;max-width:100%}
figcaption{color:#4a5258}
table{border-collapse:collapse}
th,td{text-align:left;padding:3px 24px 3px 0;border-bottom:1px solid #e7e2d7;font-variant-numeric:tabular-nums}
th{color:#4a5258;font-weight:400}
.good{color:#3d6a2b}.bad{color:#b4432b}.warn{color:#8a5f12}
.verdict{font-size:16px}
footer{margin-top:32px;color:#4a5258}
`;
