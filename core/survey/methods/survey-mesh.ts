import { faceComponents } from "../../mesh/components";
import type { Mesh } from "../../mesh/mesh";
import { faceCount, triangleCount, vertexCount } from "../../mesh/mesh";
import { findBorders } from "./borders";
import { findCrossings } from "./crossings";
import type { FoundDefect } from "./finding";
import { asFinding } from "./finding";
import { findCoincident, findDuplicateFaces, findLoose } from "./leftovers";
import { MeshAnalysis } from "../../mesh/mesh-analysis";
import {
  findNonManifoldEdges,
  findNonManifoldVertices,
} from "../../settle/sheets";
import type { ShadingFigures } from "./shading";
import { measureShading } from "./shading";
import type { ShapeFigures } from "./shape-figures";
import { measureShape } from "./shape-figures";
import { findStoredNormals } from "./stored-normals";
import { findTurned } from "./winding";
import { findZeroArea } from "./zero-area";

/** Counts of one mesh, and how many of each defect it has. */
export interface MeshSurvey extends ShapeFigures {
  triangles: number;
  /** Faces of three, of four and of more corners. */
  threes: number;
  quads: number;
  ngons: number;
  vertices: number;
  /** Edges that one face uses, and that more than two use. */
  borderEdges: number;
  nonManifoldEdges: number;
  nonManifoldVertices: number;
  /** Faces without area. */
  degenerateFaces: number;
  /** Faces wound against their shell, or of a shell turned inside out. */
  flippedFaces: number;
  /** Vertices within the tolerance of an earlier one. */
  duplicateVertices: number;
  duplicateFaces: number;
  looseVertices: number;
  /** Faces of one piece that pass through each other; null where nobody looked. */
  selfIntersections: number | null;
  /** Pairs of pieces that pass through each other; null where nobody looked. */
  crossingPieces: number | null;
  /** Faces whose stored normals disagree with them. */
  disagreeingNormals: number;
  components: number;
  closed: boolean;
  /** Extent along x, y and z, metres. */
  size: number[];
  shading: ShadingFigures;
}

/**
 * Looks a mesh over: counts, defects with their places, shading.
 * @param tolerance metres, decides which vertices coincide
 * @param crossings whether to look for self-intersections, which takes longest
 */
export function surveyMesh(
  part: string,
  mesh: Mesh,
  tolerance: number,
  crossings: boolean,
  check: () => void = () => {},
): { survey: MeshSurvey; findings: FoundDefect[]; look: MeshAnalysis } {
  const look = new MeshAnalysis(mesh, tolerance);
  let threes = 0;
  let quads = 0;
  for (let f = 0; f < faceCount(mesh); f++) {
    const n = mesh.faceStarts[f + 1] - mesh.faceStarts[f];
    if (n === 3) threes++;
    if (n === 4) quads++;
  }
  const found = {
    coincident: findCoincident(look),
    borders: findBorders(look),
    nonManifoldEdges: findNonManifoldEdges(look),
    nonManifoldVertices: findNonManifoldVertices(look),
    winding: findTurned(look),
    zeroArea: findZeroArea(look),
    loose: findLoose(look),
    duplicateFaces: findDuplicateFaces(look),
    storedNormals: findStoredNormals(look),
  };
  check();
  const crossing = crossings ? findCrossings(look, check) : null;
  const findings = [
    ...Object.entries(found).map(([kind, named]) =>
      asFinding(kind as keyof typeof found, part, look, named),
    ),
    crossing && asFinding("selfIntersections", part, look, crossing),
  ].filter((finding) => finding !== null);
  return {
    look,
    findings,
    survey: {
      triangles: triangleCount(mesh),
      threes,
      quads,
      ngons: faceCount(mesh) - threes - quads,
      vertices: vertexCount(mesh),
      borderEdges: found.borders.count,
      nonManifoldEdges: found.nonManifoldEdges.count,
      nonManifoldVertices: found.nonManifoldVertices.count,
      degenerateFaces: found.zeroArea.count,
      flippedFaces: found.winding.count,
      duplicateVertices: found.coincident.count,
      duplicateFaces: found.duplicateFaces.count,
      looseVertices: found.loose.count,
      selfIntersections: crossing && crossing.count,
      crossingPieces: crossing && crossing.crossingPieces,
      disagreeingNormals: found.storedNormals.count,
      components: faceComponents(mesh).count,
      closed:
        found.borders.count === 0 &&
        found.nonManifoldEdges.count === 0 &&
        faceCount(mesh) > 0,
      size: look.bounds.min.map((low, k) =>
        Math.max(0, look.bounds.max[k] - low),
      ),
      ...measureShape(look),
      shading: measureShading(look),
    },
  };
}
