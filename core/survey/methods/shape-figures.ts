import type { MeshAnalysis } from "../../mesh/mesh-analysis";

export interface ShapeFigures {
  /** Triangles whose quality 4√3·area / Σ edge² is under 0.1. */
  slivers: number;
  shortestEdge: number;
  longestEdge: number;
}

export interface EdgeLengths {
  /** Lower ends of the bins, metres, and how many edges each has. */
  from: number[];
  counts: number[];
}

/** Slivers and the shortest and the longest edge, metres. */
export function measureShape({
  mesh,
  split,
  edges,
}: MeshAnalysis): ShapeFigures {
  const p = mesh.positions;
  const v = split.vertices;
  let slivers = 0;
  for (let i = 0; i < v.length; i += 3) {
    const a = 3 * v[i];
    const b = 3 * v[i + 1];
    const c = 3 * v[i + 2];
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const wx = p[c] - p[a];
    const wy = p[c + 1] - p[a + 1];
    const wz = p[c + 2] - p[a + 2];
    const x = uy * wz - uz * wy;
    const y = uz * wx - ux * wz;
    const z = ux * wy - uy * wx;
    const sides =
      ux * ux +
      uy * uy +
      uz * uz +
      wx * wx +
      wy * wy +
      wz * wz +
      (wx - ux) ** 2 +
      (wy - uy) ** 2 +
      (wz - uz) ** 2;
    const double = Math.sqrt(x * x + y * y + z * z);
    if (!(2 * Math.sqrt(3) * double >= 0.1 * sides)) slivers++;
  }
  let shortest = Infinity;
  let longest = 0;
  for (let e = 0; e < edges.count; e++) {
    const length2 = edgeLength2(p, edges.vertices, e);
    if (length2 < shortest) shortest = length2;
    if (length2 > longest) longest = length2;
  }
  return {
    slivers,
    shortestEdge: edges.count ? Math.sqrt(shortest) : 0,
    longestEdge: Math.sqrt(longest),
  };
}

const edgeLength2 = (p: Float32Array, vertices: Uint32Array, e: number) => {
  const a = 3 * vertices[2 * e];
  const b = 3 * vertices[2 * e + 1];
  return (
    (p[a] - p[b]) ** 2 + (p[a + 1] - p[b + 1]) ** 2 + (p[a + 2] - p[b + 2]) ** 2
  );
};

const BINS = 24;

/** Edge lengths of several meshes in bins of equal ratio between the shortest and the longest. */
export function edgeLengths(
  looks: readonly MeshAnalysis[],
  shortest: number,
  longest: number,
): EdgeLengths {
  const low = Math.log(Math.max(shortest, longest * 1e-5, 1e-9));
  const high = Math.max(low + 0.05, Math.log(Math.max(longest, 1e-9)));
  const counts = new Array<number>(BINS).fill(0);
  const scale = BINS / (high - low);
  for (const { mesh, edges } of looks)
    for (let e = 0; e < edges.count; e++) {
      const log = Math.log(edgeLength2(mesh.positions, edges.vertices, e)) / 2;
      const bin = Math.floor((log - low) * scale);
      counts[Math.max(0, Math.min(BINS - 1, bin || 0))]++;
    }
  return {
    from: counts.map((_, i) => Math.exp(low + i / scale)),
    counts,
  };
}
