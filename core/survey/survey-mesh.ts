import { faceComponents } from "../mesh/components";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { faceCount, triangleCount, vertexCount } from "../mesh/mesh";
import { nextCorners } from "../mesh/normals";
import { triangulate } from "../mesh/triangulate";
import { coincident } from "../mesh/weld";
import { boundsOf } from "../space/bounds";
import { triangleArea } from "../space/sample";

/** Counts and defects of one mesh. */
export interface MeshSurvey {
  triangles: number;
  quads: number;
  ngons: number;
  vertices: number;
  /** Edges that one face uses, and that more than two use. */
  borderEdges: number;
  nonManifoldEdges: number;
  /** Faces without area. */
  degenerateFaces: number;
  /** Faces wound against a neighbour, or of a closed shell turned inside out. */
  flippedFaces: number;
  /** Vertices within the tolerance of an earlier one. */
  duplicateVertices: number;
  components: number;
  closed: boolean;
  /** Extent along x, y and z, metres. */
  size: number[];
}

/** Counts a mesh. `tolerance` in metres decides which vertices coincide. */
export function surveyMesh(mesh: Mesh, tolerance: number): MeshSurvey {
  const edges = buildEdges(mesh);
  let borderEdges = 0;
  let nonManifoldEdges = 0;
  for (const uses of edges.uses) {
    if (uses === 1) borderEdges++;
    if (uses > 2) nonManifoldEdges++;
  }
  let quads = 0;
  let ngons = 0;
  for (let f = 0; f < faceCount(mesh); f++) {
    const n = mesh.faceStarts[f + 1] - mesh.faceStarts[f];
    if (n === 4) quads++;
    if (n > 4) ngons++;
  }
  const target = coincident(mesh.positions, tolerance);
  let duplicateVertices = 0;
  for (let v = 0; v < target.length; v++)
    if (target[v] !== v) duplicateVertices++;
  const { min, max } = boundsOf(mesh.positions);
  const { degenerate, volume } = measureFaces(mesh);
  return {
    triangles: triangleCount(mesh),
    quads,
    ngons,
    vertices: vertexCount(mesh),
    borderEdges,
    nonManifoldEdges,
    degenerateFaces: degenerate,
    flippedFaces: countFlipped(mesh, volume),
    duplicateVertices,
    components: faceComponents(mesh).count,
    closed: borderEdges === 0 && nonManifoldEdges === 0 && faceCount(mesh) > 0,
    size: min.map((low, k) => Math.max(0, max[k] - low)),
  };
}

/** Faces without area, and each face's share of the enclosed volume (× 6). */
function measureFaces(mesh: Mesh) {
  const { vertices, faces } = triangulate(mesh);
  const p = mesh.positions;
  const areas = new Float64Array(faceCount(mesh));
  const volume = new Float64Array(faceCount(mesh));
  for (let t = 0; t < faces.length; t++) {
    areas[faces[t]] += triangleArea(p, vertices, t);
    const [a, b, c] = [0, 1, 2].map((k) => 3 * vertices[3 * t + k]);
    volume[faces[t]] +=
      p[a] * (p[b + 1] * p[c + 2] - p[b + 2] * p[c + 1]) -
      p[a + 1] * (p[b] * p[c + 2] - p[b + 2] * p[c]) +
      p[a + 2] * (p[b] * p[c + 1] - p[b + 1] * p[c]);
  }
  const total = areas.reduce((sum, area) => sum + area, 0);
  const limit = (1e-9 * total) / Math.max(1, areas.length);
  let degenerate = 0;
  for (const area of areas) if (!(area > limit)) degenerate++;
  return { degenerate, volume };
}

/**
 * Winds each shell consistently from its first face, then counts the smaller side; a closed shell that is
 * consistent but encloses negative volume counts whole.
 */
function countFlipped(mesh: Mesh, volume: Float64Array): number {
  const edges = buildEdges(mesh);
  const next = nextCorners(mesh.faceStarts, mesh.corners.length);
  const faceOf = new Uint32Array(mesh.corners.length);
  for (let f = 0; f < faceCount(mesh); f++)
    faceOf.fill(f, mesh.faceStarts[f], mesh.faceStarts[f + 1]);
  const side = new Int8Array(faceCount(mesh));
  let flipped = 0;
  for (let seed = 0; seed < side.length; seed++) {
    if (side[seed]) continue;
    const shell = [seed];
    side[seed] = 1;
    let open = false;
    for (let k = 0; k < shell.length; k++) {
      const f = shell[k];
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
        const e = edges.ofCorner[c];
        if (edges.uses[e] !== 2) {
          open = true;
          continue;
        }
        const d = edges.first[e] === c ? edges.second[e] : edges.first[e];
        const against = mesh.corners[d] === mesh.corners[next[c]];
        const g = faceOf[d];
        if (side[g]) continue;
        side[g] = against ? side[f] : (-side[f] as 1 | -1);
        shell.push(g);
      }
    }
    const turned = shell.filter((f) => side[f] < 0).length;
    const enclosed = shell.reduce((sum, f) => sum + side[f] * volume[f], 0);
    if (open) flipped += Math.min(turned, shell.length - turned);
    else flipped += enclosed < 0 ? shell.length - turned : turned;
  }
  return flipped;
}
