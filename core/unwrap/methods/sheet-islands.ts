import type { Mesh } from "../../mesh/mesh";
import { texelWeight } from "../../mesh/texel-weights";
import { triangulate } from "../../mesh/triangulate";
import { triangleArea } from "../../space/sample";
import { islandsOf } from "./connected-islands";
import { seamsFromUvs } from "../../mesh/seams-from-uvs";
import type { Sheet } from "./sheet";

/** An island as it lies on the sheet. */
export interface SheetIsland {
  /** Which of the meshes it belongs to. */
  mesh: number;
  faces: number[];
  corners: number[];
  /** 6 a triangle, px from the lower left of the first tile. */
  pixels: Float64Array;
  /** In space, m², and on the sheet, px². */
  area: number;
  covered: number;
  /** Texels a metre gets here against the rest. */
  weight: number;
  /** Placed by hand: stays where it is. */
  held: boolean;
  /** Shares the texels of another one. */
  copy: boolean;
  /** Middle of its box, px. */
  middle: [number, number];
}

/** The islands of meshes with UVs; meshes without have none. */
export function gatherIslands(
  meshes: readonly Mesh[],
  { width, height }: Pick<Sheet, "width" | "height">,
): SheetIsland[] {
  return meshes.flatMap((mesh, m) => {
    const { uvs } = mesh;
    if (!uvs) return [];
    const { count, ofFace } = islandsOf(mesh);
    const islands = Array.from({ length: count }, () => ({
      faces: [] as number[],
      corners: [] as number[],
      pixels: [] as number[],
      area: 0,
      covered: 0,
      log: 0,
    }));
    for (let f = 0; f < ofFace.length; f++) {
      const island = islands[ofFace[f]];
      island.faces.push(f);
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
        island.corners.push(c);
    }
    const { corners, vertices, faces } = triangulate(mesh);
    for (let t = 0; t < faces.length; t++) {
      const island = islands[ofFace[faces[t]]];
      const area = triangleArea(mesh.positions, vertices, t);
      island.area += area;
      island.log +=
        area * Math.log(texelWeight(mesh.texelWeights?.[faces[t]] ?? 0));
      const q: number[] = [];
      for (let k = 0; k < 3; k++) {
        const c = corners[3 * t + k];
        q.push(uvs[2 * c] * width, uvs[2 * c + 1] * height);
      }
      island.covered +=
        Math.abs(
          (q[2] - q[0]) * (q[5] - q[1]) - (q[4] - q[0]) * (q[3] - q[1]),
        ) / 2;
      for (const x of q) island.pixels.push(x);
    }
    return islands.map(({ log, pixels, ...island }) => {
      const [x0, y0, x1, y1] = boxOf(pixels);
      return {
        ...island,
        mesh: m,
        pixels: Float64Array.from(pixels),
        weight: island.area > 0 ? Math.exp(log / island.area) : 1,
        held: mesh.held?.[island.faces[0]] === 1,
        copy: mesh.copies?.[island.faces[0]] === 1,
        middle: [(x0 + x1) / 2, (y0 + y1) / 2] as [number, number],
      };
    });
  });
}

/** Least and greatest x and y: [x0, y0, x1, y1]. @param points x, y, x, y, … */
export function boxOf(
  points: ArrayLike<number>,
): [number, number, number, number] {
  let x0 = Infinity;
  let y0 = Infinity;
  let x1 = -Infinity;
  let y1 = -Infinity;
  for (let i = 0; i < points.length; i += 2) {
    x0 = Math.min(x0, points[i]);
    x1 = Math.max(x1, points[i]);
    y0 = Math.min(y0, points[i + 1]);
    y1 = Math.max(y1, points[i + 1]);
  }
  return [x0, y0, x1, y1];
}

/** An island's triangles in metres times its weight: what it is packed as. 0 where it has no area. */
export function packable({ pixels, area, covered, weight }: SheetIsland) {
  const scale = covered > 0 ? weight * Math.sqrt(area / covered) : 0;
  return { triangles: pixels.map((x) => x * scale), scale };
}

/** Texels per metre of an island, its weight taken out. */
export const densityOfIsland = ({ area, covered, weight }: SheetIsland) =>
  area > 0 ? Math.sqrt(covered / area) / weight : 0;

/** A move on the sheet: x′ = a x + b y + e, y′ = c x + d y + f, in pixels. */
export interface SheetMove {
  a: number;
  b: number;
  c: number;
  d: number;
  e: number;
  f: number;
}

/** Turns and scales about a point, then shifts. @param angle radians, counter-clockwise */
export function turnAbout(
  [x, y]: readonly [number, number],
  angle: number,
  scale = 1,
  shift: readonly [number, number] = [0, 0],
): SheetMove {
  const cos = scale * Math.cos(angle);
  const sin = scale * Math.sin(angle);
  return {
    a: cos,
    b: -sin,
    c: sin,
    d: cos,
    e: x - cos * x + sin * y + shift[0],
    f: y - sin * x - cos * y + shift[1],
  };
}

/**
 * The move that shifts an island.
 * @param dx, dy in sheets
 */
export const shiftBy = (dx: number, dy: number): SheetMove => ({
  a: 1,
  b: 0,
  c: 0,
  d: 1,
  e: dx,
  f: dy,
});

/** Meshes whose islands have moved. @param moves one an island, or null where it stays */
export function moveIslands(
  meshes: readonly Mesh[],
  islands: readonly SheetIsland[],
  moves: readonly (SheetMove | null)[],
  { width, height }: Pick<Sheet, "width" | "height">,
): Mesh[] {
  const uvs = meshes.map(() => null as Float32Array | null);
  islands.forEach(({ mesh, corners }, i) => {
    const move = moves[i];
    if (!move) return;
    const old = meshes[mesh].uvs!;
    const next = (uvs[mesh] ??= old.slice());
    for (const k of corners) {
      const x = old[2 * k] * width;
      const y = old[2 * k + 1] * height;
      next[2 * k] = (move.a * x + move.b * y + move.e) / width;
      next[2 * k + 1] = (move.c * x + move.d * y + move.f) / height;
    }
  });
  return meshes.map((mesh, m) =>
    uvs[m] ? { ...mesh, uvs: uvs[m], seams: seamsFromUvs(mesh, uvs[m]) } : mesh,
  );
}

/** Marks of faces by island. @param value of an island, or null to leave it; all 0 gives null */
export function markIslands(
  meshes: readonly Mesh[],
  islands: readonly SheetIsland[],
  name: "held" | "copies" | "texelWeights",
  value: (island: SheetIsland, i: number) => number | null,
): Mesh[] {
  const marks = meshes.map((mesh) =>
    mesh[name]
      ? mesh[name].slice()
      : new Uint8Array(mesh.faceStarts.length - 1),
  );
  islands.forEach((island, i) => {
    const mark = value(island, i);
    if (mark !== null)
      for (const f of island.faces) marks[island.mesh][f] = mark;
  });
  return meshes.map((mesh, m) => ({
    ...mesh,
    [name]: marks[m].some((mark) => mark) ? marks[m] : null,
  }));
}
