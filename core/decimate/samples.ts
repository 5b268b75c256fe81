import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import { sampleSurface } from "../space/sample";
import { pointAt } from "../space/vector";
import { faceComponents } from "../mesh/components";
import type { Mesh } from "../mesh/mesh";
import { indicesOf } from "../base/ranges";
import type { Soup, Triangles } from "./soup";
import { setNormal } from "../mesh/triangle-shape";

/** Points of the source with their normals, to fit a mesh to. */
export interface SurfaceSamples {
  /** 3 × count, in the frame they were drawn in. */
  points: Float32Array;
  normals: Float32Array;
  /** count: the mesh each belongs to. */
  owner: Uint16Array;
  /** count: the connected piece each lies on. */
  piece: Uint32Array;
  /** Diagonal of every piece, metres. */
  sizes: Float32Array;
}

const pickTriangles = (triangles: Uint32Array, among: readonly number[]) =>
  Uint32Array.from(
    { length: 3 * among.length },
    (_, i) => triangles[3 * among[(i / 3) | 0] + (i % 3)],
  );

/**
 * Draws points evenly by area from the triangles of a soup.
 * @param counts which of them count; all where null
 */
export function drawSamples(
  soup: Soup,
  count: number,
  counts: ((triangle: number) => boolean) | null = null,
): SurfaceSamples {
  const positions = Float32Array.from(soup.positions);
  const among =
    counts && indicesOf(soup.owner.map((_, t) => Number(counts(t))));
  const drawn = sampleSurface(
    positions,
    among?.length ? pickTriangles(soup.triangles, among) : soup.triangles,
    count,
  );
  const { points } = drawn;
  const triangles = among?.length
    ? drawn.triangles.map((i) => among[i])
    : drawn.triangles;
  const normals = new Float32Array(3 * count);
  const owner = new Uint16Array(count);
  const piece = new Uint32Array(count);
  const { ofFace, sizes } = piecesOf(soup, positions);
  for (let i = 0; i < count; i++) {
    const t = 3 * triangles[i];
    owner[i] = soup.owner[triangles[i]];
    piece[i] = ofFace[triangles[i]];
    setNormal(
      positions,
      soup.triangles[t],
      soup.triangles[t + 1],
      soup.triangles[t + 2],
      normals,
      3 * i,
    );
  }
  return { points, normals, owner, piece, sizes };
}

function piecesOf({ triangles }: Soup, positions: Float32Array) {
  const faceStarts = new Uint32Array(triangles.length / 3 + 1).map(
    (_, t) => 3 * t,
  );
  const { count, ofFace } = faceComponents({
    positions,
    corners: triangles,
    faceStarts,
  } as Mesh);
  const low = new Float32Array(3 * count).fill(Infinity);
  const high = new Float32Array(3 * count).fill(-Infinity);
  for (let c = 0; c < triangles.length; c++) {
    const piece = ofFace[(c / 3) | 0];
    for (let k = 0; k < 3; k++) {
      const x = positions[3 * triangles[c] + k];
      if (x < low[3 * piece + k]) low[3 * piece + k] = x;
      if (x > high[3 * piece + k]) high[3 * piece + k] = x;
    }
  }
  const sizes = Float32Array.from({ length: count }, (_, piece) =>
    Math.hypot(
      high[3 * piece] - low[3 * piece],
      high[3 * piece + 1] - low[3 * piece + 1],
      high[3 * piece + 2] - low[3 * piece + 2],
    ),
  );
  return { ofFace, sizes };
}

/** A piece of which no point is nearer to a mesh than this share of the piece's size is not there any more. */
const GONE = 0.25;

/**
 * The samples of one mesh of a state, without those on pieces that were given up: what is left must not be drawn
 * to where they were.
 */
export function samplesOf(
  samples: SurfaceSamples,
  mesh: number,
  state: Pick<Triangles, "positions" | "triangles">,
): Pick<SurfaceSamples, "points" | "normals"> {
  const { owner, piece, sizes } = samples;
  const closest = new ClosestPoint(
    buildBvh(Float32Array.from(state.positions), state.triangles),
  );
  const there = new Uint8Array(sizes.length);
  const own: number[] = [];
  for (let i = 0; i < owner.length; i++) {
    if (owner[i] !== mesh) continue;
    own.push(i);
    const name = piece[i];
    if (there[name]) continue;
    const reach = GONE * sizes[name];
    if (closest.find(...pointAt(samples.points, i), reach * reach) >= 0)
      there[name] = 1;
  }
  const kept = own.filter((i) => there[piece[i]]);
  const points = new Float32Array(3 * kept.length);
  const normals = new Float32Array(3 * kept.length);
  kept.forEach((i, at) => {
    for (let k = 0; k < 3; k++) {
      points[3 * at + k] = samples.points[3 * i + k];
      normals[3 * at + k] = samples.normals[3 * i + k];
    }
  });
  return { points, normals };
}
