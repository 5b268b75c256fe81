import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import type { Asset, Part } from "./asset";
import { restOfSource } from "./stand-ins";

/** What of an asset's sources a reduction works on. */
export interface WorkedSources {
  /** Sources without what shapes stand for and what is for the source only, by part. */
  worked: { name: string; mesh: Mesh }[];
  /** What shapes and locked parts leave of the budget; below 0 where they are over it. */
  left: number;
  /** How often a part is placed. */
  timesOf(name: string): number;
}

/** Whether a reduction makes a part's game mesh anew, be it that nothing is left of it. */
export const isWorked = ({ source, locked, repeat }: Part): boolean =>
  source !== null && !locked && repeat === null;

/**
 * Repeats are worked once, where they are worked, and count as often as they are placed; locked parts stay.
 * @param inShapes how many triangles the shapes of a part have
 */
export function workedSources(
  asset: Asset,
  budget: number,
  inShapes: (part: Part) => number,
): WorkedSources {
  const placed = new Map<string, number>();
  for (const { repeat } of asset.parts)
    if (repeat) placed.set(repeat.of, (placed.get(repeat.of) ?? 1) + 1);
  const timesOf = (name: string) => placed.get(name) ?? 1;
  let left = budget;
  const worked: WorkedSources["worked"] = [];
  for (const part of asset.parts) {
    if (part.repeat) continue;
    if (isWorked(part)) {
      const mesh = restOfSource(part);
      if (mesh) worked.push({ name: part.name, mesh });
      left -= timesOf(part.name) * inShapes(part);
    } else if (part.game) left -= timesOf(part.name) * triangleCount(part.game);
  }
  return { worked, left, timesOf };
}
