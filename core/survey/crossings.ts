import { faceComponents } from "../mesh/components";
import { crossingFaces } from "../mesh/crossings";
import type { CrossingFaces } from "../mesh/crossings";
import { fillHoles } from "../mesh/fill-holes";
import { LookedAt } from "../mesh/looked-at";
import type { Mesh } from "../mesh/mesh";
import { faceCount, faceOfCorners, keepFaces } from "../mesh/mesh";
import { grow } from "../mesh/select";
import type { Named } from "./finding";
import { dropDuplicateFaces, weldTargets } from "./leftovers";
import { splitNonManifold } from "../mesh/settle/sheets";

export interface Crossings
  extends Named, Pick<CrossingFaces, "crossingPieces" | "piercing"> {}

/** Faces of one piece that pass through each other, see core/mesh/crossings.ts. */
export function findCrossings(
  look: LookedAt,
  check: () => void = () => {},
): Crossings {
  const { mesh, split } = look;
  const target = weldTargets(look);
  const { ofFace } = faceComponents({
    ...mesh,
    corners: mesh.corners.map((v) => target[v]),
  });
  const found = crossingFaces(
    mesh.positions,
    split.vertices,
    split.faces,
    ofFace,
    target,
    check,
  );
  return { ...found, count: found.faces.length };
}

/**
 * Takes faces that pass through others of their piece out and closes the holes, a ring wider each time where that
 * was not enough (after Attene 2010, "A lightweight approach to repairing digitized polygon meshes").
 * @returns the mesh and how many crossing faces are left
 */
export function mendCrossings(
  mesh: Mesh,
  check: () => void = () => {},
): { mesh: Mesh; mended: number; left: number } {
  const before = findCrossings(new LookedAt(mesh, 0), check).count;
  let { mesh: best, left } = withoutSpikes(mesh, before, check);
  for (let ring = 0; ring < 5 && left > 0; ring++) {
    const { faces = [] } = findCrossings(new LookedAt(best, 0), check);
    let marks = new Uint8Array(faceCount(best));
    for (const f of faces) marks[f] = 1;
    for (let k = 0; k < ring; k++) marks = grow(best, marks) as typeof marks;
    const keep = marks.map((mark) => 1 - mark);
    if (!keep.some((kept) => kept)) break;
    const open = splitNonManifold(withoutCrumbs(keepFaces(best, keep))).mesh;
    const closed = fillHoles(open).mesh;
    const now = findCrossings(new LookedAt(closed, 0), check).count;
    if (now >= left) continue;
    best = closed;
    left = now;
  }
  if (best !== mesh) {
    const { mesh: single } = dropDuplicateFaces(best, 0);
    best = fillHoles(splitNonManifold(single).mesh).mesh;
    left = findCrossings(new LookedAt(best, 0), check).count;
  }
  return { mesh: best, mended: before - left, left };
}

/** Takes out the vertex whose edges pierce most, with its faces, as long as that leaves fewer crossings. */
function withoutSpikes(
  mesh: Mesh,
  crossings: number,
  check: () => void,
): { mesh: Mesh; left: number } {
  let best = mesh;
  let left = crossings;
  for (let round = 0; round < 40 && left > 0; round++) {
    const { piercing } = findCrossings(new LookedAt(best, 0), check);
    const better = piercing.slice(0, 4).some((vertex) => {
      const keep = new Uint8Array(faceCount(best)).fill(1);
      faceOfCorners(best).forEach((f, c) => {
        if (best.corners[c] === vertex) keep[f] = 0;
      });
      if (!keep.some((kept) => kept)) return false;
      const closed = fillHoles(keepFaces(best, keep)).mesh;
      const now = findCrossings(new LookedAt(closed, 0), check).count;
      if (now >= left) return false;
      best = closed;
      left = now;
      return true;
    });
    if (!better) break;
  }
  return { mesh: best, left };
}

/** Leaves out pieces of fewer than four faces, which cutting left behind. */
function withoutCrumbs(mesh: Mesh): Mesh {
  const { count, ofFace } = faceComponents(mesh);
  const size = new Uint32Array(count);
  for (const c of ofFace) size[c]++;
  const keep = Uint8Array.from(ofFace, (c) => (size[c] >= 4 ? 1 : 0));
  return keep.every((kept) => kept) || !keep.some((kept) => kept)
    ? mesh
    : keepFaces(mesh, keep);
}
