import { encode } from "fast-png";
import type { PaletteEntry } from "../../../base/pictures";
import { buildEdges } from "../../../mesh/edges";
import type { Mesh } from "../../../mesh/mesh";
import { faceOfCorners } from "../../../mesh/mesh";
import { nextCorners } from "../../../mesh/normals";
import { triangulate } from "../../../mesh/triangulate";
import { rasterizeTriangle } from "../../../space/raster";
import { TemplateCanvas, rgbOf } from "./canvas";
import { strokesOf, widthOf } from "./glyphs";

export type LinesBy = "island" | "seam" | "hard";

export interface TemplateOptions {
  /** px */
  width: number;
  height: number;
  lines: LinesBy;
  /** Inner edges too, thin. */
  wire: boolean;
  fillIds: boolean;
  names: boolean;
  /** Which tile, 0 for the first. */
  tile: readonly [number, number];
}

export interface TemplatePart {
  name: string;
  colour: string;
  mesh: Mesh;
}

/** A line on the sheet: [u0, v0, u1, v1] within the tile. */
interface Line {
  at: [number, number, number, number];
  kind: "inner" | "border" | "seam" | "hard";
  colour: string;
}

const INK = "#2a2f36";
const HARD = "#34489a";
const SEAM = "#b4432b";

/** The lines of a template: island borders, seams where UVs part, hard edges, and what lies within. */
function linesOf(
  parts: readonly TemplatePart[],
  options: TemplateOptions,
): Line[] {
  const [du, dv] = options.tile;
  const inner: Line[] = [];
  const outer: Line[] = [];
  for (const { mesh, colour } of parts) {
    const uvs = mesh.uvs!;
    const edges = buildEdges(mesh);
    const next = nextCorners(mesh.faceStarts, mesh.corners.length);
    const faces = faceOfCorners(mesh);
    for (let c = 0; c < mesh.corners.length; c++) {
      if (mesh.copies?.[faces[c]]) continue;
      const e = edges.ofCorner[c];
      const d = next[c];
      const at: Line["at"] = [
        uvs[2 * c] - du,
        uvs[2 * c + 1] - dv,
        uvs[2 * d] - du,
        uvs[2 * d + 1] - dv,
      ];
      const u = (at[0] + at[2]) / 2;
      const v = (at[1] + at[3]) / 2;
      if (u < -0.01 || v < -0.01 || u > 1.01 || v > 1.01) continue;
      const seam = edges.second[e] >= 0 && mesh.seams?.[c] === 1;
      const border = seam || edges.second[e] < 0;
      const hard = mesh.hard?.[c] === 1;
      if (border) {
        const by =
          options.lines === "island"
            ? colour
            : options.lines === "hard"
              ? hard
                ? HARD
                : INK
              : seam
                ? SEAM
                : INK;
        outer.push({
          at,
          kind: hard ? "hard" : seam ? "seam" : "border",
          colour: by,
        });
      } else if (
        edges.first[e] === c &&
        (options.wire || (hard && options.lines === "hard"))
      )
        inner.push({
          at,
          kind: "inner",
          colour:
            hard && options.lines === "hard"
              ? HARD
              : options.lines === "island"
                ? colour
                : "#7b8288",
        });
    }
  }
  return [...inner, ...outer];
}

/** Middle of each part's largest run of triangles, to put its name there. */
function labelsOf(parts: readonly TemplatePart[], { tile }: TemplateOptions) {
  return parts.flatMap(({ name, mesh }) => {
    const { corners } = triangulate(mesh);
    let best = 0;
    let at: [number, number] | null = null;
    for (let t = 0; t < corners.length; t += 3) {
      const q = [0, 1, 2].flatMap((k) => [
        mesh.uvs![2 * corners[t + k]] - tile[0],
        mesh.uvs![2 * corners[t + k] + 1] - tile[1],
      ]);
      const size = Math.abs(
        (q[2] - q[0]) * (q[5] - q[1]) - (q[4] - q[0]) * (q[3] - q[1]),
      );
      const middle: [number, number] = [
        (q[0] + q[2] + q[4]) / 3,
        (q[1] + q[3] + q[5]) / 3,
      ];
      if (size <= best || Math.min(...middle) < 0 || Math.max(...middle) > 1)
        continue;
      best = size;
      at = middle;
    }
    return at ? [{ name, at }] : [];
  });
}

/** UVs as a transparent PNG. */
export function templatePng(
  parts: readonly TemplatePart[],
  palette: readonly PaletteEntry[],
  options: TemplateOptions,
): Uint8Array {
  const { width, height } = options;
  const canvas = new TemplateCanvas(width, height);
  if (options.fillIds)
    for (const { mesh } of parts) {
      const { corners, faces } = triangulate(mesh);
      for (let t = 0; t < faces.length; t++) {
        const id = mesh.ids?.[faces[t]] ?? 0;
        const colour = palette[id - 1]?.colour;
        if (!colour || mesh.copies?.[faces[t]]) continue;
        const [a, b, c] = [0, 1, 2].map((k) => {
          const corner = corners[3 * t + k];
          return [
            (mesh.uvs![2 * corner] - options.tile[0]) * width,
            (mesh.uvs![2 * corner + 1] - options.tile[1]) * height,
          ];
        });
        rasterizeTriangle(
          a[0],
          a[1],
          b[0],
          b[1],
          c[0],
          c[1],
          width,
          height,
          (row, from, to) => {
            for (let x = from; x < to; x++)
              canvas.blend(x, row, rgbOf(colour), 0.55);
          },
        );
      }
    }
  const thick = Math.max(1, Math.max(width, height) / 1024);
  for (const { at, kind, colour } of linesOf(parts, options))
    canvas.line(
      at[0] * width,
      at[1] * height,
      at[2] * width,
      at[3] * height,
      kind === "inner" ? 0.6 * thick : 1.5 * thick,
      rgbOf(colour),
    );
  if (options.names) {
    const size = Math.max(7, height / 90);
    for (const { name, at } of labelsOf(parts, options)) {
      const x = at[0] * width - widthOf(name, size) / 2;
      for (const line of strokesOf(name, x, at[1] * height - size / 2, size))
        canvas.line(...line, Math.max(1, size / 7), rgbOf(INK));
    }
  }
  return encode({ width, height, data: canvas.pixels, channels: 4 });
}

/** UVs as an SVG. */
export function templateSvg(
  parts: readonly TemplatePart[],
  palette: readonly PaletteEntry[],
  options: TemplateOptions,
): string {
  const { width, height } = options;
  const x = (u: number) => (u * width).toFixed(2);
  const y = (v: number) => ((1 - v) * height).toFixed(2);
  const rows: string[] = [];
  if (options.fillIds)
    for (const { mesh } of parts)
      for (let f = 0; f + 1 < mesh.faceStarts.length; f++) {
        const colour = palette[(mesh.ids?.[f] ?? 0) - 1]?.colour;
        if (!colour || mesh.copies?.[f]) continue;
        const points: string[] = [];
        for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
          points.push(
            `${x(mesh.uvs![2 * c] - options.tile[0])},${y(mesh.uvs![2 * c + 1] - options.tile[1])}`,
          );
        rows.push(
          `<polygon points="${points.join(" ")}" fill="${colour}" fill-opacity="0.55"/>`,
        );
      }
  const thick = Math.max(1, Math.max(width, height) / 1024);
  const paths = new Map<string, string[]>();
  for (const { at, kind, colour } of linesOf(parts, options)) {
    const key = `${colour}|${(kind === "inner" ? 0.6 * thick : 1.5 * thick).toFixed(2)}`;
    paths.set(key, [
      ...(paths.get(key) ?? []),
      `M${x(at[0])} ${y(at[1])}L${x(at[2])} ${y(at[3])}`,
    ]);
  }
  for (const [key, lines] of paths) {
    const [colour, wide] = key.split("|");
    rows.push(
      `<path d="${lines.join("")}" stroke="${colour}" stroke-width="${wide}" stroke-linecap="round" fill="none"/>`,
    );
  }
  if (options.names)
    for (const { name, at } of labelsOf(parts, options))
      rows.push(
        `<text x="${x(at[0])}" y="${y(at[1])}" font-family="sans-serif" font-size="${(height / 80).toFixed(1)}" text-anchor="middle" fill="${INK}">${escaped(name)}</text>`,
      );
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">\n${rows.join("\n")}\n</svg>\n`;
}

const escaped = (text: string) =>
  text.replace(
    /[&<>"]/g,
    (each) =>
      ({ "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" })[each]!,
  );
