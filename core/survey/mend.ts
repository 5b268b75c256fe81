import type { Mesh } from "../mesh/mesh";
import { mergeVertices } from "../mesh/weld";
import { fillHoles } from "../mesh/fill-holes";
import { mendCrossings } from "./crossings";
import { dropDuplicateFaces, dropLoose, weldTargets } from "./leftovers";
import { LookedAt } from "../mesh/looked-at";
import { splitNonManifold } from "../mesh/settle/sheets";
import { renewNormals } from "./stored-normals";
import { setWindingRight } from "./winding";
import { dissolveZeroArea } from "./zero-area";

/** Mends, in the order they have to be done: each one leaves a mesh that the next can rely on. */
export const MENDS = [
  { value: "coincident", label: "weld coincident vertices" },
  { value: "zeroArea", label: "dissolve faces without area" },
  { value: "duplicateFaces", label: "drop duplicate faces" },
  { value: "nonManifold", label: "part non-manifold edges and vertices" },
  { value: "winding", label: "set winding right" },
  { value: "borders", label: "close holes" },
  { value: "selfIntersections", label: "redo faces that cross" },
  { value: "loose", label: "drop loose vertices" },
  { value: "storedNormals", label: "renew normals that disagree" },
] as const;

export type Mend = (typeof MENDS)[number]["value"];

/** How many of what were mended, by mend; 0 where there was nothing to do. */
export type Mended = Record<Mend, number>;

/**
 * Mends a mesh. No face moves farther than the tolerance; new faces only close holes.
 * @param tolerance metres, for vertices that count as coincident
 */
export function mendMesh(
  mesh: Mesh,
  mends: ReadonlySet<Mend>,
  tolerance: number,
  check: () => void = () => {},
): { mesh: Mesh; mended: Mended } {
  const mended = Object.fromEntries(
    MENDS.map(({ value }) => [value, 0]),
  ) as Mended;
  let at = mesh;
  const steps: Record<Mend, (from: Mesh) => { mesh: Mesh; count: number }> = {
    coincident: (from) => {
      const { mesh: next, verticesGone } = mergeVertices(
        from,
        weldTargets(new LookedAt(from, tolerance)),
      );
      return { mesh: next, count: verticesGone };
    },
    zeroArea: (from) => {
      const { mesh: next, gone } = dissolveZeroArea(from);
      return { mesh: next, count: gone };
    },
    duplicateFaces: (from) => {
      const { mesh: next, gone } = dropDuplicateFaces(from, tolerance);
      return { mesh: next, count: gone };
    },
    nonManifold: (from) => {
      const { mesh: next, edges, vertices } = splitNonManifold(from);
      return { mesh: next, count: edges + vertices };
    },
    winding: (from) => {
      const { mesh: next, turned } = setWindingRight(from);
      return { mesh: next, count: turned };
    },
    borders: (from) => {
      const { mesh: next, holes } = fillHoles(from);
      return { mesh: next, count: holes };
    },
    selfIntersections: (from) => {
      const { mesh: next, mended: count } = mendCrossings(from, check);
      return { mesh: next, count };
    },
    loose: (from) => {
      const { mesh: next, gone } = dropLoose(from);
      return { mesh: next, count: gone };
    },
    storedNormals: (from) => {
      const { mesh: next, renewed } = renewNormals(
        from,
        new LookedAt(from, tolerance),
      );
      return { mesh: next, count: renewed };
    },
  };
  for (const { value } of MENDS) {
    if (!mends.has(value)) continue;
    check();
    const { mesh: next, count } = steps[value](at);
    at = next;
    mended[value] = count;
  }
  return { mesh: at, mended };
}
