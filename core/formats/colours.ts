import type { Mesh } from "../mesh/mesh";
import { pickRows } from "../mesh/streams";

/** A share of full light, sRGB or not, as a byte. */
export const colourByte = (share: number) =>
  Math.round(255 * Math.max(0, Math.min(1, share || 0)));

/** Linear light as sRGB, both 0 … 1 (IEC 61966-2-1). */
export const toSrgb = (x: number) =>
  x <= 0.0031308 ? 12.92 * x : 1.055 * Math.max(0, x) ** (1 / 2.4) - 0.055;

/** `#rrggbb` of three shares of full light, sRGB. */
export const hexColour = (rgb: readonly number[]) =>
  `#${rgb.map((x) => colourByte(x).toString(16).padStart(2, "0")).join("")}`;

/** sRGB as linear light, both 0 … 1 (IEC 61966-2-1). */
export const toLinear = (x: number) =>
  x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4;

/**
 * The colour of entry i: hues apart by the golden angle, in three steps of lightness, so that neighbours in the
 * list, and up to some sixty in all, can be told apart in a map and by a picker.
 */
export function distinctColour(i: number): string {
  const hue = (i * 137.50776405) % 360;
  const light = [0.55, 0.72, 0.38][i % 3];
  const depth = [0.62, 0.5, 0.7][Math.floor(i / 3) % 3];
  const a = depth * Math.min(light, 1 - light);
  const channel = (n: number) => {
    const k = (n + hue / 30) % 12;
    const value = light - a * Math.max(-1, Math.min(k - 3, 9 - k, 1));
    return Math.round(255 * value)
      .toString(16)
      .padStart(2, "0");
  };
  return `#${channel(0)}${channel(8)}${channel(4)}`;
}

/**
 * A mesh as formats hold it that colour vertices and not corners: vertices whose corners differ are parted.
 * @returns null where the mesh has no colours; 3 × vertexCount sRGB otherwise
 */
export function colouredVertices(
  mesh: Mesh,
): { mesh: Mesh; colours: Uint8Array } | null {
  const { colours, positions } = mesh;
  if (!colours) return null;
  const known = new Map<string, number>();
  const from: number[] = [];
  const shades: number[] = [];
  const corners = mesh.corners.map((v, c) => {
    const shade = [...colours.subarray(3 * c, 3 * c + 3)];
    const key = `${v} ${shade.join(" ")}`;
    let at = known.get(key);
    if (at === undefined) {
      known.set(key, (at = from.push(v) - 1));
      shades.push(...shade);
    }
    return at;
  });
  return {
    mesh: { ...mesh, corners, positions: pickRows(positions, from, 3) },
    colours: Uint8Array.from(shades),
  };
}
