import type { LookedAt } from "../mesh/looked-at";
import type { Named } from "./finding";

/** Open edges. */
export function findBorders({ edges }: LookedAt): Named {
  const found: number[] = [];
  for (let e = 0; e < edges.count; e++) if (edges.uses[e] === 1) found.push(e);
  return { count: found.length, edges: found };
}
