import type { UnwrapMesh } from "./unwrap-mesh";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { buildEdges } from "../../mesh/edges";
import { faceNormals, nextCorners } from "../../mesh/normals";
import { faceCount, faceOfCorners } from "../../mesh/mesh";
import { edgeCosts } from "./seams/edge-costs";
import { UnionFind } from "../../base/union-find";

/**
 * @param keep corners at whose edges UVs part whatever else is found: seams that are kept
 * @param hiding how much each face shows as a rank of 0 … 1, and how much that counts
 */
export function prepareUnwrap(
  mesh: Mesh,
  keep: ArrayLike<number> | null = null,
  hiding: { ranks: Float32Array; hide: number } | null = null,
): UnwrapMesh {
  const edges = buildEdges(mesh);
  const split = triangulate(mesh);
  const triangleStarts = new Uint32Array(faceCount(mesh) + 1);
  for (let t = 0; t < split.faces.length; t++)
    triangleStarts[split.faces[t] + 1]++;
  for (let f = 0; f < faceCount(mesh); f++)
    triangleStarts[f + 1] += triangleStarts[f];
  const joins = new Uint8Array(edges.count);
  for (let e = 0; e < edges.count; e++)
    joins[e] =
      edges.uses[e] === 2 &&
      mesh.corners[edges.first[e]] !== mesh.corners[edges.second[e]] &&
      !mesh.hard?.[edges.first[e]] &&
      mesh.seamOverrides?.[edges.first[e]] !== 1 &&
      !keep?.[edges.first[e]]
        ? 1
        : 0;
  const areas = new Float64Array(faceCount(mesh));
  const p = mesh.positions;
  for (let t = 0; t < split.faces.length; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => 3 * split.vertices[3 * t + k]);
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const vx = p[c] - p[a];
    const vy = p[c + 1] - p[a + 1];
    const vz = p[c + 2] - p[a + 2];
    areas[split.faces[t]] +=
      Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2;
  }
  const m: UnwrapMesh = {
    mesh,
    edges,
    next: nextCorners(mesh.faceStarts, mesh.corners.length),
    faceOfCorner: faceOfCorners(mesh),
    split,
    triangleStarts,
    normals: faceNormals(mesh),
    areas,
    joins,
    costs: new Float64Array(0),
    placeInChart: new Int32Array(mesh.corners.length),
  };
  m.costs = edgeCosts(m, hiding?.ranks ?? null, hiding?.hide ?? 0);
  return m;
}

/** The face on the other side of the edge that leaves corner c, or −1. */
export function acrossCorner(m: UnwrapMesh, c: number): number {
  const e = m.edges.ofCorner[c];
  if (!m.joins[e]) return -1;
  const other = m.edges.first[e] === c ? m.edges.second[e] : m.edges.first[e];
  return m.faceOfCorner[other];
}

/** A set of faces, ready to be laid flat where it is a disc but for small holes. */
export interface Chart {
  faces: number[];
  /** cornerCount of all faces, in order: the corner in the mesh, and the chart's vertex there. */
  corners: number[];
  vertexOfCorner: number[];
  vertexCount: number;
  /** 3 × vertexCount, metres. */
  places: Float64Array;
  /** 3 × triangleCount chart vertices. */
  triangles: Int32Array;
  /** Chart vertices round the border, loop after loop, the longest first. */
  loops: number[][];
  /** Vertices − edges + faces: 1 for a disc, one less for each hole in it. */
  euler: number;
}

/**
 * Makes a chart of faces: corners across an edge that is not cut share a vertex.
 * @param isCut whether the mesh's edge parts the chart
 * @param label faceCount: what belongs to the chart has label[f] === own
 */
export function buildChart(
  m: UnwrapMesh,
  faces: number[],
  label: Int32Array,
  own: number,
  isCut: (edge: number) => boolean,
): Chart {
  const { mesh, edges, next } = m;
  const corners: number[] = [];
  const local = m.placeInChart;
  for (const f of faces)
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      local[c] = corners.length;
      corners.push(c);
    }
  const joined = new UnionFind(corners.length);
  let edgeCount = 0;
  const borders: number[] = [];
  corners.forEach((c, i) => {
    const e = edges.ofCorner[c];
    const other = edges.first[e] === c ? edges.second[e] : edges.first[e];
    const inside =
      m.joins[e] && label[m.faceOfCorner[other]] === own && !isCut(e);
    if (!inside) {
      borders.push(c);
      edgeCount++;
      return;
    }
    if (edges.first[e] === c) edgeCount++;
    joined.join(i, local[next[other]]);
    joined.join(local[next[c]], local[other]);
  });
  const name = new Int32Array(corners.length).fill(-1);
  const vertexOfCorner: number[] = [];
  const places: number[] = [];
  for (let i = 0; i < corners.length; i++) {
    const root = joined.find(i);
    if (name[root] < 0) {
      name[root] = places.length / 3;
      const v = 3 * mesh.corners[corners[i]];
      places.push(
        mesh.positions[v],
        mesh.positions[v + 1],
        mesh.positions[v + 2],
      );
    }
    vertexOfCorner.push(name[root]);
  }
  const triangles: number[] = [];
  for (const f of faces)
    for (let t = m.triangleStarts[f]; t < m.triangleStarts[f + 1]; t++)
      for (let k = 0; k < 3; k++)
        triangles.push(vertexOfCorner[local[m.split.corners[3 * t + k]]]);
  const vertexCount = places.length / 3;
  const follows = new Map<number, number>();
  for (const c of borders)
    follows.set(vertexOfCorner[local[c]], vertexOfCorner[local[next[c]]]);
  const chart: Chart = {
    faces,
    corners,
    vertexOfCorner,
    vertexCount,
    places: new Float64Array(places),
    triangles: new Int32Array(triangles),
    loops: loopsOf(follows),
    euler: vertexCount - edgeCount + faces.length,
  };
  if (chart.loops.length > 1) {
    const lengths = new Map(
      chart.loops.map((loop) => [loop, lengthOfLoop(chart, loop)]),
    );
    chart.loops.sort((a, b) => lengths.get(b)! - lengths.get(a)!);
  }
  return chart;
}

/** Length of a border loop, metres. */
export const lengthOfLoop = ({ places }: Chart, loop: readonly number[]) =>
  loop.reduce((sum, v, i) => {
    const w = loop[(i + 1) % loop.length];
    return (
      sum +
      Math.hypot(
        places[3 * v] - places[3 * w],
        places[3 * v + 1] - places[3 * w + 1],
        places[3 * v + 2] - places[3 * w + 2],
      )
    );
  }, 0);

function loopsOf(follows: Map<number, number>): number[][] {
  const loops: number[][] = [];
  while (follows.size) {
    const [start] = follows.keys();
    const loop: number[] = [];
    for (
      let v: number | undefined = start;
      v !== undefined && follows.has(v);
    ) {
      loop.push(v);
      const to: number = follows.get(v)!;
      follows.delete(v);
      v = to;
    }
    loops.push(loop);
  }
  return loops;
}
