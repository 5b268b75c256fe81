import type { Place } from "./messages";

import { spaced } from "../../core/base/wording";

export {
  area,
  bytes,
  extents,
  length,
  time,
  volume,
} from "../../core/base/units";
export { spaced };

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

export const percent = (share: number, digits = 1) =>
  `${(100 * share).toFixed(digits)}\u2009%`;

/** A number with its word, one or several: `1 face`, `2 faces`. */
export const counted = (n: number, one: string, several = `${one}s`) =>
  `${spaced(n)} ${n === 1 ? one : several}`;

/** How long something may take: whole seconds, from a minute and a half on whole minutes. */
export const aboutTime = (seconds: number) =>
  seconds > 90
    ? `about ${Math.round(seconds / 60)} min`
    : `about ${Math.max(1, Math.round(seconds))} s`;
