export const TRIALS = [
  "placed",
  "dropped",
  "pushed",
  "rolled",
  "stacked",
  "slope",
  "steps",
] as const;
export type TrialName = (typeof TRIALS)[number];

export interface Trial {
  name: TrialName;
  /** When it came to rest and stayed so, seconds; null where it never did. */
  restSeconds: number | null;
  /** How deep it lay in what it met at most, once at rest and on the way there; metres. */
  penetration: number;
  deepest: number;
  /** How far it still moved in the last second, metres. */
  jitter: number;
  fellThrough: boolean;
  /** Degrees between how it stood and how it lies at the end. */
  tilt: number;
  /** How far it went from where it began, level, metres. */
  moved: number;
}

export interface DropOptions {
  /** Degrees. */
  slope: number;
  friction: number;
}
