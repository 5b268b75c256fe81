import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { buildEdges } from "../../mesh/edges";
import type { ProjectionTarget } from "./projection-target";

/** How far towards square a round goes. */
const PULL = 0.7;
/** Vertices where faces turn by more than this stay, as do borders. */
const CREASE = Math.cos((50 * Math.PI) / 180);

/**
 * Makes quads squarer: each round every quad is matched with the square of its size that lies nearest in its plane
 * and every vertex goes towards the mean of what its quads want, then back onto the source (shape matching).
 * Vertices on borders and creases move along the line only.
 */
export function squareUp(
  mesh: Mesh,
  ground: ProjectionTarget,
  rounds: number,
  oblong: boolean,
): Mesh {
  const positions = Float64Array.from(mesh.positions);
  const vertices = positions.length / 3;
  const lines = linesOf(mesh);
  const sum = new Float64Array(3 * vertices);
  const weight = new Float64Array(vertices);
  for (let round = 0; round < rounds; round++) {
    sum.fill(0);
    weight.fill(0);
    for (let f = 0; f < faceCount(mesh); f++)
      wish(mesh, f, positions, sum, weight, oblong);
    for (let v = 0; v < vertices; v++) {
      if (!weight[v] || lines.kind[v] === 2) continue;
      const d = [0, 1, 2].map(
        (k) => PULL * (sum[3 * v + k] / weight[v] - positions[3 * v + k]),
      );
      if (lines.kind[v] === 1) {
        const [a, b] = [lines.ends[2 * v], lines.ends[2 * v + 1]];
        const e = [0, 1, 2].map(
          (k) => positions[3 * b + k] - positions[3 * a + k],
        );
        const size = Math.hypot(...e) || 1;
        const along = (d[0] * e[0] + d[1] * e[1] + d[2] * e[2]) / size;
        for (let k = 0; k < 3; k++)
          positions[3 * v + k] += (along * e[k]) / size;
      } else for (let k = 0; k < 3; k++) positions[3 * v + k] += d[k];
      ground.find(positions[3 * v], positions[3 * v + 1], positions[3 * v + 2]);
      positions[3 * v] = ground.x;
      positions[3 * v + 1] = ground.y;
      positions[3 * v + 2] = ground.z;
    }
  }
  return { ...mesh, positions: Float32Array.from(positions) };
}

/** Adds where the corners of a face would like to be: of the nearest regular one with as many corners. */
function wish(
  mesh: Mesh,
  f: number,
  p: Float64Array,
  sum: Float64Array,
  weight: Float64Array,
  oblong: boolean,
): void {
  const s = mesh.faceStarts[f];
  const n = mesh.faceStarts[f + 1] - s;
  const c = [0, 0, 0];
  for (let i = 0; i < n; i++)
    for (let k = 0; k < 3; k++) c[k] += p[3 * mesh.corners[s + i] + k] / n;
  // First Fourier coefficients of the outline: the best regular polygon, in any plane.
  const u = [0, 0, 0];
  const v = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    const angle = (2 * Math.PI * i) / n;
    for (let k = 0; k < 3; k++) {
      const d = p[3 * mesh.corners[s + i] + k] - c[k];
      u[k] += (2 / n) * d * Math.cos(angle);
      v[k] += (2 / n) * d * Math.sin(angle);
    }
  }
  // Both made equally long and square to each other, half each way.
  const lu = Math.hypot(...u) || 1e-12;
  const lv = Math.hypot(...v) || 1e-12;
  const size = (lu + lv) / 2;
  if (n === 4 && oblong) {
    // A rectangle is where both diagonals are equally long.
    for (let i = 0; i < 4; i++) {
      const vertex = mesh.corners[s + i];
      const half = (i & 1 ? v : u).map((x) => (x * size) / (i & 1 ? lv : lu));
      weight[vertex]++;
      for (let k = 0; k < 3; k++)
        sum[3 * vertex + k] += c[k] + (i < 2 ? half[k] : -half[k]);
    }
    return;
  }
  const a = u.map((x, k) => x / lu + v[k] / lv);
  const b = u.map((x, k) => x / lu - v[k] / lv);
  const la = Math.hypot(...a) || 1e-12;
  const lb = Math.hypot(...b) || 1e-12;
  const h = size * Math.SQRT1_2;
  const x = a.map((value, k) => h * (value / la + b[k] / lb));
  const y = a.map((value, k) => h * (value / la - b[k] / lb));
  const w = n === 4 ? 1 : 0.4;
  for (let i = 0; i < n; i++) {
    const vertex = mesh.corners[s + i];
    const angle = (2 * Math.PI * i) / n;
    weight[vertex] += w;
    for (let k = 0; k < 3; k++)
      sum[3 * vertex + k] +=
        w * (c[k] + x[k] * Math.cos(angle) + y[k] * Math.sin(angle));
  }
}

/** Which vertices lie on a border or crease, and the two they lie between. */
function linesOf(mesh: Mesh) {
  const vertices = mesh.positions.length / 3;
  const kind = new Uint8Array(vertices);
  const ends = new Int32Array(2 * vertices).fill(-1);
  const edges = buildEdges(mesh);
  const normals = new Float64Array(3 * faceCount(mesh));
  const faceOf = new Uint32Array(mesh.corners.length);
  const p = mesh.positions;
  for (let f = 0; f < faceCount(mesh); f++) {
    const s = mesh.faceStarts[f];
    const e = mesh.faceStarts[f + 1];
    for (let c = s; c < e; c++) {
      faceOf[c] = f;
      const a = 3 * mesh.corners[c];
      const b = 3 * mesh.corners[c + 1 < e ? c + 1 : s];
      for (let k = 0; k < 3; k++) {
        const [i, j] = [(k + 1) % 3, (k + 2) % 3];
        normals[3 * f + k] += (p[a + i] - p[b + i]) * (p[a + j] + p[b + j]);
      }
    }
    const size = Math.hypot(...normals.subarray(3 * f, 3 * f + 3)) || 1;
    for (let k = 0; k < 3; k++) normals[3 * f + k] /= size;
  }
  for (let e = 0; e < edges.count; e++) {
    if (edges.uses[e] === 2) {
      const f = 3 * faceOf[edges.first[e]];
      const g = 3 * faceOf[edges.second[e]];
      const cos =
        normals[f] * normals[g] +
        normals[f + 1] * normals[g + 1] +
        normals[f + 2] * normals[g + 2];
      if (cos > CREASE) continue;
    }
    const [a, b] = [edges.vertices[2 * e], edges.vertices[2 * e + 1]];
    for (const [v, w] of [
      [a, b],
      [b, a],
    ]) {
      if (kind[v] < 2 && ends[2 * v + 1] < 0) {
        ends[2 * v + (ends[2 * v] < 0 ? 0 : 1)] = w;
        kind[v] = ends[2 * v + 1] < 0 ? 3 : 1;
      } else kind[v] = 2;
    }
  }
  // A line that ends, or turns sharply, is held there.
  for (let v = 0; v < vertices; v++) {
    if (kind[v] === 3) kind[v] = 2;
    if (kind[v] !== 1) continue;
    const d = [0, 1].map((i) =>
      [0, 1, 2].map((k) => p[3 * ends[2 * v + i] + k] - p[3 * v + k]),
    );
    const cos =
      (d[0][0] * d[1][0] + d[0][1] * d[1][1] + d[0][2] * d[1][2]) /
      (Math.hypot(...d[0]) * Math.hypot(...d[1]) || 1);
    if (cos > -0.6) kind[v] = 2;
  }
  return { kind, ends };
}
