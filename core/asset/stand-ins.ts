import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { joinMeshes } from "../mesh/change-faces";
import { fromRanges, toRanges, indicesOf } from "../base/ranges";
import type { StandInOptions } from "../remesh/stand-in/stand-in";
import { standInFor } from "../remesh/stand-in/stand-in";
import type { Part, PartStandIn } from "./asset";

/** The stand-ins whose faces are still those they were made for. */
export const validStandIns = (part: Part): PartStandIn[] =>
  part.source
    ? part.standIns.filter(({ of }) => of === faceCount(part.source!))
    : [];

/**
 * Makes shapes for faces of a part. null where nothing came of them.
 * @param marks faceCount of the source: 1 for the faces that are stood for
 */
export function makeStandIn(
  source: Mesh,
  marks: Uint8Array,
  options: StandInOptions & { each: boolean },
  check: () => void,
): { mesh: Mesh; entry: PartStandIn } | null {
  const made = standInFor(source, marks, options, options.each, check);
  if (!made) return null;
  const counts = new Map<string, number>();
  for (const shape of made.shapes)
    counts.set(shape, (counts.get(shape) ?? 0) + 1);
  return {
    mesh: made.mesh,
    entry: {
      faces: toRanges(indicesOf(marks)),
      of: faceCount(source),
      shape: options.shape,
      sides: options.sides,
      rings: options.rings,
      capped: options.capped,
      each: options.each,
      made: [...counts]
        .map(([shape, n]) => (n > 1 ? `${n} × ${shape}` : shape))
        .join(", "),
      triangles: made.triangles,
      rms: made.rms,
      max: made.max,
    },
  };
}

/** What of a part's source is left to be reduced beside shapes and what is for the source only; null for nothing. */
export function restOfSource(part: Part): Mesh | null {
  const source = part.source!;
  const found = validStandIns(part);
  if (!found.length)
    return source.sourceOnly?.every((mark) => mark) ? null : source;
  const sourceOnly =
    source.sourceOnly?.slice() ?? new Uint8Array(faceCount(source));
  for (const { faces, of } of found)
    fromRanges(faces, of).forEach((mark, f) => {
      if (mark) sourceOnly[f] = 1;
    });
  return sourceOnly.every((mark) => mark) ? null : { ...source, sourceOnly };
}

/** Whether a card stands for some of a part's source: rays may go through it, and both its sides are seen. */
export const hasCard = ({ standIns = [] }: Pick<Part, "standIns">): boolean =>
  standIns.some(({ shape }) => shape === "card");

/** The shapes that stand for some of a part's source, made anew; null where there are none. */
export function shapesOf(part: Part, check: () => void): Mesh | null {
  const shapes = validStandIns(part).flatMap((entry) => {
    const marks = fromRanges(entry.faces, entry.of);
    return makeStandIn(part.source!, marks, entry, check)?.mesh ?? [];
  });
  return shapes.length ? joinMeshes(shapes) : null;
}
