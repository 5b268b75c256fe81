import { faceComponents } from "../../mesh/components";
import { crossingFaces } from "../../mesh/crossings";
import type { CrossingFaces } from "../../mesh/crossings";
import { MeshAnalysis } from "../../mesh/mesh-analysis";
import { faceCount } from "../../mesh/mesh";
import type { Named } from "./finding";
import { weldTargets } from "./leftovers";

export interface Crossings
  extends Named, Pick<CrossingFaces, "crossingPieces" | "piercing" | "pairs"> {
  faces: number[];
}

/**
 * Faces of one piece that pass through each other, see core/mesh/crossings.ts.
 * @param onePiece whether all faces are known to be of one piece, joined or not
 * @param asked by face: 1 for those that are looked at, against all others; all where left out
 */
export function findCrossings(
  look: MeshAnalysis,
  check: () => void = () => {},
  onePiece = false,
  asked: ArrayLike<number> | null = null,
): Crossings {
  const { mesh, split } = look;
  const target = weldTargets(look);
  const ofFace = onePiece
    ? new Uint32Array(faceCount(mesh))
    : faceComponents({
        ...mesh,
        corners: mesh.corners.map((v) => target[v]),
      }).ofFace;
  const found = crossingFaces(
    mesh.positions,
    split.vertices,
    split.faces,
    ofFace,
    target,
    check,
    asked,
  );
  return { ...found, count: found.faces.length };
}
