import type { Place } from "../view/messages";

/** A figure with its limit, as benches list them. */
export interface FigureRow {
  label: string;
  value: string;
  limit?: string;
  state?: "good" | "warn" | "bad";
}

export interface Mend {
  label: string;
  operation: string;
  options: object;
}

/** Something to see to: where, and what mends it. */
export interface Finding {
  /** `note` needs no mend. */
  tone: "note" | "warn" | "bad";
  text: string;
  parts?: string[];
  /** Framed one after the other. */
  places?: Place[];
  /** Faces of game meshes to be chosen, in short form by part. */
  faces?: Record<string, string>;
  /** Places are on the game mesh. */
  onGame?: boolean;
  mend?: Mend;
  /** Other ways to mend it. */
  others?: Mend[];
}

/** Thousands apart by thin spaces. */
export const spaced = (value: number) =>
  Math.round(value)
    .toString()
    .replace(/\B(?=(\d{3})+$)/g, "\u2009");

export const percent = (share: number, digits = 1) =>
  `${(100 * share).toFixed(digits)}\u2009%`;

/** A number of at least two digits and no more than three behind a small one: 88 700, 42.0, 3.1, 0.25. */
function short(value: number): string {
  const amount = Math.abs(value);
  if (amount >= 999.5) return spaced(Number(value.toPrecision(3)));
  return value.toFixed(amount >= 99.95 ? 0 : amount >= 9.995 ? 1 : 2);
}

/** Litres in the unit that reads best. */
export function volume(litres: number): string {
  if (litres >= 1000) return `${short(litres / 1000)} m³`;
  if (litres >= 1) return `${short(litres)} l`;
  return litres > 0 ? `${short(1000 * litres)} cm³` : "0 l";
}

/** Bytes in the unit that reads best, by thousands. */
export function bytes(count: number): string {
  if (count >= 999.5e6) return `${short(count / 1e9)} GB`;
  if (count >= 999.5e3) return `${short(count / 1e6)} MB`;
  return count >= 999.5 ? `${short(count / 1000)} kB` : `${count} B`;
}

/** Metres in the unit that reads best. */
export function length(metres: number): string {
  const amount = Math.abs(metres);
  if (amount >= 1000) return `${(metres / 1000).toFixed(2)} km`;
  if (amount >= 1) return `${metres.toFixed(2)} m`;
  if (amount >= 0.01) return `${(100 * metres).toFixed(1)} cm`;
  if (amount >= 1e-5) return `${(1000 * metres).toFixed(2)} mm`;
  return amount > 0 ? `${Number((1e6 * metres).toPrecision(2))} µm` : "0 mm";
}

/** Square metres in the unit that reads best. */
export function area(square: number): string {
  if (square >= 1) return `${square.toFixed(2)} m²`;
  return square >= 1e-4
    ? `${(1e4 * square).toFixed(1)} cm²`
    : `${(1e6 * square).toFixed(1)} mm²`;
}

/** A number with its word, one or several: `1 face`, `2 faces`. */
export const counted = (n: number, one: string, several = `${one}s`) =>
  `${spaced(n)} ${n === 1 ? one : several}`;

/** Three extents in one unit. */
export function extents(metres: readonly number[]): string {
  const most = Math.max(...metres);
  const [factor, unit, digits] =
    most >= 1 ? [1, "m", 2] : most >= 0.01 ? [100, "cm", 1] : [1000, "mm", 2];
  return `${metres.map((x) => (factor * x).toFixed(digits)).join(" × ")} ${unit}`;
}
