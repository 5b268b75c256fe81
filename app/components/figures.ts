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

/** Metres in the unit that reads best. */
export function length(metres: number): string {
  if (metres >= 1) return `${metres.toFixed(2)} m`;
  return metres >= 0.01
    ? `${(100 * metres).toFixed(1)} cm`
    : `${(1000 * metres).toFixed(2)} mm`;
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
