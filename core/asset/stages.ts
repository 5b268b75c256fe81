/** The nine stages of the route, in the order that artists work. */
export const STAGES = [
  "intake",
  "survey",
  "reduce",
  "edges",
  "unwrap",
  "bake",
  "finish",
  "collide",
  "ship",
] as const;

export type Stage = (typeof STAGES)[number];

export const STAGE_TITLES: Record<Stage, string> = {
  intake: "Intake",
  survey: "Survey",
  reduce: "Reduce",
  edges: "Edges",
  unwrap: "Unwrap",
  bake: "Bake",
  finish: "Finish",
  collide: "Collide",
  ship: "Ship",
};
