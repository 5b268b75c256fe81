import { faceNormals } from "../../mesh/normals";
import type { MeshAnalysis } from "../../mesh/mesh-analysis";

/** How a source is shaded, by its stored normals and hard edges. */
export interface ShadingFigures {
  /** What the file says: normals, hard edges (smoothing groups), or nothing. */
  says: "normals" | "hard edges" | "nothing";
  /** Share of the gentle edges (turning 1° to 30°) at which shading breaks: near 1 is a faceted source. */
  faceted: number;
  /** Sharp edges (turning over 60°) across which shading runs smooth. */
  smoothedSharp: number;
}

const GENTLE_LEAST = Math.cos((1 * Math.PI) / 180);
const GENTLE_MOST = Math.cos((30 * Math.PI) / 180);
const SHARP = Math.cos((60 * Math.PI) / 180);
const SAME = Math.cos((2 * Math.PI) / 180);

/** Compares the turn of the surface at each edge with whether its shading breaks there. */
export function measureShading(look: MeshAnalysis): ShadingFigures {
  const { mesh } = look;
  const { normals, hard } = mesh;
  // Without a word from the file there is nothing to be wrong: edges are judged by their angle.
  if (!normals && !hard)
    return { says: "nothing", faceted: 0, smoothedSharp: 0 };
  const { edges, next, face } = look;
  const own = faceNormals(mesh);
  const same = (c: number, d: number) =>
    normals![3 * c] * normals![3 * d] +
      normals![3 * c + 1] * normals![3 * d + 1] +
      normals![3 * c + 2] * normals![3 * d + 2] >
    SAME;
  let gentle = 0;
  let broken = 0;
  let smoothedSharp = 0;
  for (let e = 0; e < edges.count; e++) {
    if (edges.uses[e] !== 2) continue;
    const c = edges.first[e];
    const d = edges.second[e];
    const f = 3 * face[c];
    const g = 3 * face[d];
    const turn =
      own[f] * own[g] + own[f + 1] * own[g + 1] + own[f + 2] * own[g + 2];
    if (turn > GENTLE_LEAST) continue;
    const along = mesh.corners[d] === mesh.corners[next[c]];
    const breaks = normals
      ? !same(c, along ? next[d] : d) || !same(next[c], along ? d : next[d])
      : hard?.[c] === 1;
    if (turn > GENTLE_MOST) {
      gentle++;
      if (breaks) broken++;
    } else if (turn < SHARP && !breaks) smoothedSharp++;
  }
  return {
    says: normals ? "normals" : hard ? "hard edges" : "nothing",
    faceted: gentle ? broken / gentle : 0,
    smoothedSharp,
  };
}
