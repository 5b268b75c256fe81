import { buildEdges } from "./edges";
import type { Mesh } from "./mesh";
import { vertexCount } from "./mesh";
import type { Triangulation } from "./triangulate";
import { triangulate } from "./triangulate";

export interface DenoiseOptions {
  /** Edges that turn by more than this stay, degrees. */
  edge: number;
  /** Rounds of filtering the normals: more takes out coarser noise. */
  rounds: number;
  check(): void;
  progress(share: number): void;
}

/** Rounds in which vertices follow the filtered normals. */
const FOLLOWING = 12;
/** Rounds in which vertices whose triangles were turned over go back. */
const BACKING = 4;

/**
 * Takes noise out without moving edges: each triangle's normal becomes the mean of those round it, which count less
 * the farther off they are and the more they turn away; then vertices follow the normals (Zheng, Fu, Au and Tai
 * 2011, "Bilateral normal filtering for mesh denoising", the local scheme; vertices after Sun et al. 2007). Open
 * borders stay where they are, and so do vertices at which a triangle would turn over.
 * @returns positions, 3 × vertexCount
 */
export function denoised(
  mesh: Mesh,
  { edge, rounds, check, progress }: DenoiseOptions,
): Float32Array {
  const split = triangulate(mesh);
  const before = mesh.positions;
  const around = trianglesRound(mesh, split);
  const held = heldVertices(mesh);
  const faces = facesOf(before, split.vertices);
  const near = neighboursOf(split.vertices, around);
  const far2 = 2 * meanDistance(faces.middles, near) ** 2 || 1;
  // At the angle of an edge a neighbour counts e⁻² of one that turns nowhere.
  const turn2 = 2 * Math.sin((edge * Math.PI) / 360) ** 2;
  let normals = faces.normals;
  for (let round = 0; round < rounds; round++) {
    check();
    progress((0.6 * round) / rounds);
    normals = filtered(normals, faces, near, far2, turn2);
  }
  let positions: Float32Array = before.slice();
  for (let round = 0; round < FOLLOWING; round++) {
    check();
    progress(0.6 + (0.35 * round) / FOLLOWING);
    positions = follow(positions, split.vertices, around, normals, held);
  }
  for (let round = 0; round < BACKING; round++)
    if (!putBack(positions, before, split.vertices, normals)) break;
  return positions;
}

/** Lists of numbers, those of `i` from starts[i] on. */
interface Lists {
  starts: Uint32Array;
  items: Uint32Array;
}

/** The triangles round each vertex. */
function trianglesRound(mesh: Mesh, { vertices }: Triangulation): Lists {
  const starts = new Uint32Array(vertexCount(mesh) + 1);
  for (const v of vertices) starts[v + 1]++;
  for (let v = 1; v < starts.length; v++) starts[v] += starts[v - 1];
  const items = new Uint32Array(vertices.length);
  const at = starts.slice();
  for (let c = 0; c < vertices.length; c++)
    items[at[vertices[c]]++] = (c / 3) | 0;
  return { starts, items };
}

/** The triangles that share a vertex with each triangle, it not among them. */
function neighboursOf(vertices: Uint32Array, round: Lists): Lists {
  const count = vertices.length / 3;
  const starts = new Uint32Array(count + 1);
  const met = new Int32Array(count).fill(-1);
  let items = new Uint32Array(16 * count + 64);
  let at = 0;
  for (let t = 0; t < count; t++) {
    met[t] = t;
    for (let k = 0; k < 3; k++) {
      const v = vertices[3 * t + k];
      for (let i = round.starts[v]; i < round.starts[v + 1]; i++) {
        const u = round.items[i];
        if (met[u] === t) continue;
        met[u] = t;
        if (at === items.length) {
          const wider = new Uint32Array(2 * items.length);
          wider.set(items);
          items = wider;
        }
        items[at++] = u;
      }
    }
    starts[t + 1] = at;
  }
  return { starts, items };
}

interface Faces {
  /** 3 × triangleCount */
  middles: Float32Array;
  normals: Float32Array;
  areas: Float32Array;
}

function facesOf(p: Float32Array, vertices: Uint32Array): Faces {
  const count = vertices.length / 3;
  const middles = new Float32Array(3 * count);
  const normals = new Float32Array(3 * count);
  const areas = new Float32Array(count);
  for (let t = 0; t < count; t++) {
    const a = 3 * vertices[3 * t];
    const b = 3 * vertices[3 * t + 1];
    const c = 3 * vertices[3 * t + 2];
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const vx = p[c] - p[a];
    const vy = p[c + 1] - p[a + 1];
    const vz = p[c + 2] - p[a + 2];
    const x = uy * vz - uz * vy;
    const y = uz * vx - ux * vz;
    const z = ux * vy - uy * vx;
    const size = Math.sqrt(x * x + y * y + z * z);
    areas[t] = size / 2;
    const by = size > 0 ? 1 / size : 0;
    normals[3 * t] = x * by;
    normals[3 * t + 1] = y * by;
    normals[3 * t + 2] = z * by;
    for (let k = 0; k < 3; k++)
      middles[3 * t + k] = (p[a + k] + p[b + k] + p[c + k]) / 3;
  }
  return { middles, normals, areas };
}

/** Mean distance between the middles of neighbours, metres. */
function meanDistance(m: Float32Array, { starts, items }: Lists): number {
  let sum = 0;
  for (let t = 0; t + 1 < starts.length; t++)
    for (let i = starts[t]; i < starts[t + 1]; i++) {
      const u = 3 * items[i];
      const x = m[3 * t] - m[u];
      const y = m[3 * t + 1] - m[u + 1];
      const z = m[3 * t + 2] - m[u + 2];
      sum += Math.sqrt(x * x + y * y + z * z);
    }
  return (
    sum /
    (items.length && starts[starts.length - 1] ? starts[starts.length - 1] : 1)
  );
}

function filtered(
  n: Float32Array,
  { middles: m, areas }: Faces,
  { starts, items }: Lists,
  far2: number,
  turn2: number,
): Float32Array {
  const next = new Float32Array(n.length);
  for (let t = 0; t + 1 < starts.length; t++) {
    const o = 3 * t;
    let x = areas[t] * n[o];
    let y = areas[t] * n[o + 1];
    let z = areas[t] * n[o + 2];
    for (let i = starts[t]; i < starts[t + 1]; i++) {
      const u = 3 * items[i];
      const d2 =
        (m[o] - m[u]) ** 2 +
        (m[o + 1] - m[u + 1]) ** 2 +
        (m[o + 2] - m[u + 2]) ** 2;
      const t2 =
        (n[o] - n[u]) ** 2 +
        (n[o + 1] - n[u + 1]) ** 2 +
        (n[o + 2] - n[u + 2]) ** 2;
      const weight = areas[items[i]] * Math.exp(-d2 / far2 - t2 / turn2);
      x += weight * n[u];
      y += weight * n[u + 1];
      z += weight * n[u + 2];
    }
    const size = Math.sqrt(x * x + y * y + z * z);
    const by = size > 0 ? 1 / size : 0;
    next[o] = x * by;
    next[o + 1] = y * by;
    next[o + 2] = z * by;
  }
  return next;
}

/** Moves every vertex along the normals of its triangles towards their planes, by the mean of all. */
function follow(
  p: Float32Array,
  vertices: Uint32Array,
  { starts, items }: Lists,
  n: Float32Array,
  held: Uint8Array,
): Float32Array {
  const { middles: m } = facesOf(p, vertices);
  const next = p.slice();
  for (let v = 0; v + 1 < starts.length; v++) {
    const count = starts[v + 1] - starts[v];
    if (held[v] || !count) continue;
    for (let i = starts[v]; i < starts[v + 1]; i++) {
      const t = 3 * items[i];
      const off =
        (n[t] * (m[t] - p[3 * v]) +
          n[t + 1] * (m[t + 1] - p[3 * v + 1]) +
          n[t + 2] * (m[t + 2] - p[3 * v + 2])) /
        count;
      for (let k = 0; k < 3; k++) next[3 * v + k] += off * n[t + k];
    }
  }
  return next;
}

/** Puts the vertices of triangles that came to face the other way back. @returns how many */
function putBack(
  positions: Float32Array,
  before: Float32Array,
  vertices: Uint32Array,
  wanted: Float32Array,
): number {
  const { normals: now } = facesOf(positions, vertices);
  const { normals: was } = facesOf(before, vertices);
  let count = 0;
  for (let t = 0; t < now.length; t += 3) {
    const dot = (a: Float32Array, b: Float32Array) =>
      a[t] * b[t] + a[t + 1] * b[t + 1] + a[t + 2] * b[t + 2];
    if (dot(now, wanted) > 0 || dot(now, was) > 0) continue;
    for (let k = 0; k < 3; k++) {
      const v = 3 * vertices[t + k];
      for (let a = 0; a < 3; a++) positions[v + a] = before[v + a];
    }
    count++;
  }
  return count;
}

/** Vertices on open borders, and where more than two faces meet. */
function heldVertices(mesh: Mesh): Uint8Array {
  const held = new Uint8Array(vertexCount(mesh));
  const { uses, vertices, count } = buildEdges(mesh);
  for (let e = 0; e < count; e++)
    if (uses[e] !== 2) held[vertices[2 * e]] = held[vertices[2 * e + 1]] = 1;
  return held;
}
