import type { Mesh } from "./mesh";
import { faceCount } from "./mesh";
import { withFaces } from "./change-faces";

/** Faces that are put to a mesh, and what they are like. */
export interface MoreFaces {
  /** Coordinates of new vertices, three each, metres: they are numbered on from the mesh's own. */
  points: readonly number[];
  /** The vertices of all new faces, one face after the other, and where each face ends among them. */
  corners: readonly number[];
  ends: readonly number[];
  /** For each new corner the corner that it takes its UV, normal and colour from. */
  oldCorner: readonly number[];
  /** For each new face the face that it takes its material, ID and marks from. */
  oldFace: readonly number[];
}

/** A mesh with more faces, which come last. Their edges have no marks. */
export function withMoreFaces(
  mesh: Mesh,
  { points, corners, ends, oldCorner, oldFace }: MoreFaces,
): Mesh {
  const before = mesh.corners.length;
  const more = withFaces(
    { ...mesh, positions: longer(mesh.positions, points) },
    longer(
      mesh.faceStarts,
      ends.map((end) => before + end),
    ),
    longer(upTo(before), oldCorner),
    longer(upTo(faceCount(mesh)), oldFace),
    longer(mesh.corners, corners),
  );
  const { seams, hard, creases, seamOverrides } = more;
  for (const marks of [seams, hard, creases, seamOverrides])
    marks?.fill(0, before);
  return more;
}

const upTo = (count: number) => new Uint32Array(count).map((_, i) => i);

function longer<T extends Float32Array | Uint32Array>(
  values: T,
  more: readonly number[],
): T {
  const next = new (values.constructor as new (n: number) => T)(
    values.length + more.length,
  );
  next.set(values);
  next.set(more, values.length);
  return next;
}
