import { fillHoles } from "../mesh/fill-holes";
import { areaOf } from "../mesh/area";
import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import { keepFaces } from "../mesh/change-faces";
import type { Part } from "./asset";
import { facesStandingFor } from "../mesh/standing-for";

/** A part's game mesh without a detail, and what that frees. */
export interface WithoutDetail {
  /** null where nothing is left. */
  mesh: Mesh | null;
  /** Triangles that stood for it, and those that close what opened. */
  triangles: number;
  closing: number;
  /** Area of both, m². */
  area: number;
  closingArea: number;
}

/**
 * A part's game mesh (its source where it has none) without what stands for a detail of the source.
 * @param marks faceCount of the source: 1 for faces of the detail
 * @param close fills the holes that the detail leaves
 */
export function withoutDetail(
  part: Pick<Part, "source" | "game">,
  marks: Uint8Array,
  close: boolean,
): WithoutDetail {
  const mesh = part.game ?? part.source!;
  const gone = part.game
    ? facesStandingFor(part.source!, marks, part.game)
    : marks;
  const keep = gone.map((mark) => 1 - mark);
  const left = keep.some((k) => k) ? keepFaces(mesh, keep) : null;
  const closed = left && close ? onlyNewHoles(mesh, left) : null;
  const own = keepFaces(mesh, gone);
  return {
    mesh: closed ?? left,
    triangles: triangleCount(own),
    closing: closed && left ? triangleCount(closed) - triangleCount(left) : 0,
    area: areaOf(own),
    closingArea: closed && left ? areaOf(closed) - areaOf(left) : 0,
  };
}

/** Closes the holes of a mesh that was closed before; one that had borders keeps what it now has. */
function onlyNewHoles(before: Mesh, left: Mesh): Mesh {
  const was = fillHoles(before).holes;
  const filled = fillHoles(left);
  return filled.holes > was ? filled.mesh : left;
}
