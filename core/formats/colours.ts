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
