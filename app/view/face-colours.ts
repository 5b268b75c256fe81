import { ANGLE_STEPS } from "../../core/bake/methods/status";
import type { PaletteEntry } from "../../core/base/pictures";
import { toLinear, toSrgb } from "../../core/formats/colours";
import type { Mesh } from "../../core/mesh/mesh";
import { DENSITY_LEFT, strengthOf } from "../../core/decimate/density";
import { faceCount } from "../../core/mesh/mesh";
import { triangulate } from "../../core/mesh/triangulate";
import { triangleArea } from "../../core/space/sample";
import type { Overlay } from "../shared/view-types";

/** Stops of the one ramp: even in lightness, told apart by every kind of colour vision. */
export const RAMP = [
  "#00224e",
  "#2a3f6d",
  "#575d6d",
  "#7d7c78",
  "#a59c74",
  "#d2c060",
  "#fee838",
] as const;
/** Not seen at all, or under the threshold. */
export const UNSEEN = "#c2185b";
export const POLYGONS = {
  triangle: "#d9a441",
  quad: "#ece7dc",
  ngon: "#b4432b",
};
const NO_ID = "#c9c9c4";

type Rgb = readonly [number, number, number];

/** `#rrggbb` as linear light, as vertex colours are taken. */
function linear(colour: string): Rgb {
  const channel = (at: number) =>
    toLinear(parseInt(colour.slice(at, at + 2), 16) / 255);
  return [channel(1), channel(3), channel(5)];
}

const STOPS = RAMP.map(linear);

/** The ramp at 0 … 1. */
export function ramp(share: number): Rgb {
  const at = Math.max(0, Math.min(1, share)) * (STOPS.length - 1);
  const i = Math.min(STOPS.length - 2, Math.floor(at));
  const t = at - i;
  return [0, 1, 2].map(
    (k) => STOPS[i][k] + t * (STOPS[i + 1][k] - STOPS[i][k]),
  ) as unknown as Rgb;
}

/** Where the ramp of angles between look and source ends, degrees. */
export const MOST_OFF = 20;

/** Red, green and blue of a pixel of the map of angles, 0 … 255; black where none was measured. */
export const angleInk = (pixel: number): readonly number[] =>
  pixel
    ? ramp(pixel / ANGLE_STEPS / MOST_OFF).map((x) =>
        Math.round(255 * toSrgb(x)),
      )
    : [0, 0, 0];

/** A convex face is seen from half of all sides at most: the ramp ends there. */
export const MOST_SEEN = 0.5;

/** 3 × faceCount colours in linear light, or null where the mesh has nothing to show. */
export function faceColours(
  mesh: Mesh,
  overlay: Overlay,
  palette: readonly PaletteEntry[],
  threshold: number,
): Float32Array | null {
  const colours = new Float32Array(3 * faceCount(mesh));
  if (overlay === "ids") {
    const own = palette.map(({ colour }) => linear(colour));
    const none = linear(NO_ID);
    for (let f = 0; f < faceCount(mesh); f++)
      colours.set(own[(mesh.ids?.[f] ?? 0) - 1] ?? none, 3 * f);
    return colours;
  }
  if (overlay === "seen") {
    if (!mesh.visibility) return null;
    const limit = Math.floor(255 * threshold);
    const unseen = linear(UNSEEN);
    const shades = Array.from({ length: 256 }, (_, i) =>
      i <= limit ? unseen : ramp(i / 255 / MOST_SEEN),
    );
    for (let f = 0; f < faceCount(mesh); f++)
      colours.set(shades[mesh.visibility[f]], 3 * f);
    return colours;
  }
  if (overlay === "polygons") {
    const [three, four, more] = [
      POLYGONS.triangle,
      POLYGONS.quad,
      POLYGONS.ngon,
    ].map(linear);
    for (let f = 0; f < faceCount(mesh); f++) {
      const n = mesh.faceStarts[f + 1] - mesh.faceStarts[f];
      colours.set(n === 3 ? three : n === 4 ? four : more, 3 * f);
    }
    return colours;
  }
  if (overlay === "density") {
    if (!mesh.density) return null;
    const left = linear(UNSEEN);
    for (let f = 0; f < faceCount(mesh); f++)
      colours.set(
        mesh.density[f] === DENSITY_LEFT
          ? left
          : ramp(0.5 + strengthOf(mesh.density[f]) / 2),
        3 * f,
      );
    return colours;
  }
  if (overlay === "quality") {
    const { vertices, faces } = triangulate(mesh);
    const worst = new Float32Array(faceCount(mesh)).fill(1);
    faces.forEach((f, t) => {
      worst[f] = Math.min(worst[f], qualityOf(mesh.positions, vertices, t));
    });
    worst.forEach((quality, f) => colours.set(ramp(quality), 3 * f));
    return colours;
  }
  return null;
}

/** 1 for an equilateral triangle, 0 for one without area. */
function qualityOf(p: Float32Array, vertices: Uint32Array, t: number): number {
  let sides = 0;
  for (let k = 0; k < 3; k++)
    for (let i = 0; i < 3; i++)
      sides +=
        (p[3 * vertices[3 * t + k] + i] -
          p[3 * vertices[3 * t + ((k + 1) % 3)] + i]) **
        2;
  return sides > 0
    ? (4 * Math.sqrt(3) * triangleArea(p, vertices, t)) / sides
    : 0;
}
