import { holesOf, mayBeMeant } from "../../mesh/fill-holes";
import type { MeshAnalysis } from "../../mesh/mesh-analysis";
import type { Named } from "./finding";

/** Open edges, with a word on holes that mending leaves open unless it is asked to. */
export function findBorders(look: MeshAnalysis): Named {
  const { edges } = look;
  const found: number[] = [];
  for (let e = 0; e < edges.count; e++) if (edges.uses[e] === 1) found.push(e);
  if (!found.length) return { count: 0 };
  const wide = holesOf(look)
    .filter((hole) => mayBeMeant(look.mesh, hole))
    .map(({ width }) => width);
  return {
    count: found.length,
    edges: found,
    ...(wide.length && {
      note: `${found.length} open edges, ${wide.length === 1 ? "one hole" : `${wide.length} holes`} ${(1000 * Math.max(...wide)).toFixed(0)} mm wide`,
      widest: Math.max(...wide),
    }),
  };
}
