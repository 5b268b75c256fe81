import { BufferAttribute, BufferGeometry, Color } from "three";
import type { Edges } from "../../core/mesh/edges";
import { buildEdges } from "../../core/mesh/edges";
import type { Mesh } from "../../core/mesh/mesh";
import { cornerNormals } from "../../core/mesh/normals";
import { diagonalsOf } from "../../core/mesh/diagonals";
import { triangulate } from "../../core/mesh/triangulate";
import { SEAM_COLOURS, seamColours } from "./seam-colours";

/** A mesh as triangles to be drawn; shares vertices where nothing parts them, which dense sources need. */
export function surfaceGeometry(mesh: Mesh): BufferGeometry {
  const split = triangulate(mesh);
  const geometry = new BufferGeometry();
  const shared = !mesh.normals && !mesh.uvs && !mesh.hard;
  if (shared) {
    const corner = cornerNormals(mesh);
    const normals = new Float32Array(mesh.positions.length);
    for (let c = 0; c < mesh.corners.length; c++)
      for (let k = 0; k < 3; k++)
        normals[3 * mesh.corners[c] + k] = corner[3 * c + k];
    geometry.setAttribute("position", new BufferAttribute(mesh.positions, 3));
    geometry.setAttribute("normal", new BufferAttribute(normals, 3));
    geometry.setIndex(new BufferAttribute(split.vertices, 1));
    return geometry;
  }
  const corner = mesh.normals ?? cornerNormals(mesh);
  const positions = new Float32Array(3 * split.corners.length);
  const normals = new Float32Array(3 * split.corners.length);
  const uvs = mesh.uvs ? new Float32Array(2 * split.corners.length) : null;
  for (let i = 0; i < split.corners.length; i++) {
    const v = 3 * split.vertices[i];
    const c = split.corners[i];
    for (let k = 0; k < 3; k++) {
      positions[3 * i + k] = mesh.positions[v + k];
      normals[3 * i + k] = corner[3 * c + k];
    }
    if (uvs) {
      uvs[2 * i] = mesh.uvs![2 * c];
      uvs[2 * i + 1] = mesh.uvs![2 * c + 1];
    }
  }
  geometry.setAttribute("position", new BufferAttribute(positions, 3));
  geometry.setAttribute("normal", new BufferAttribute(normals, 3));
  if (uvs) geometry.setAttribute("uv", new BufferAttribute(uvs, 2));
  return geometry;
}

/** Edges of a mesh as line segments, those for which `wanted` says so (by their first corner). */
export function edgeLines(
  mesh: Mesh,
  wanted: (corner: number, uses: number) => boolean,
): BufferGeometry {
  const edges = buildEdges(mesh);
  const points: number[] = [];
  for (let e = 0; e < edges.count; e++) {
    if (!wanted(edges.first[e], edges.uses[e])) continue;
    for (let k = 0; k < 2; k++) {
      const v = 3 * edges.vertices[2 * e + k];
      points.push(
        mesh.positions[v],
        mesh.positions[v + 1],
        mesh.positions[v + 2],
      );
    }
  }
  return lines(points);
}

/** Seams as stitches, in the colours of their seams. */
export function stitchLines(mesh: Mesh, spacing: number): BufferGeometry {
  const edges = buildEdges(mesh);
  const colourOf = seamColours(mesh);
  const points: number[] = [];
  const colours: number[] = [];
  for (let e = 0; e < edges.count; e++) {
    if (!mesh.seams?.[edges.first[e]]) continue;
    const from = points.length;
    stitch(mesh, edges, [e], spacing, points);
    colourFrom(colours, points.length - from, colourOf[edges.first[e]]);
  }
  return withColours(lines(points), colours);
}

/** Adds stitches along edges: the edge, and short ticks across it in the plane of its face. */
export function stitch(
  mesh: Mesh,
  edges: Edges,
  list: readonly number[],
  spacing: number,
  points: number[],
): void {
  const p = mesh.positions;
  for (const e of list) {
    const c = edges.first[e];
    const a = 3 * edges.vertices[2 * e];
    const b = 3 * edges.vertices[2 * e + 1];
    const along = [0, 1, 2].map((k) => p[b + k] - p[a + k]);
    const length = Math.hypot(...along) || 1;
    points.push(p[a], p[a + 1], p[a + 2], p[b], p[b + 1], p[b + 2]);
    const normal = normalNear(mesh, c);
    const across = [
      along[1] * normal[2] - along[2] * normal[1],
      along[2] * normal[0] - along[0] * normal[2],
      along[0] * normal[1] - along[1] * normal[0],
    ];
    const size = Math.hypot(...across) || 1;
    const ticks = Math.max(1, Math.round(length / spacing));
    for (let i = 0; i < ticks; i++) {
      const t = (i + 0.5) / ticks;
      for (const side of [-1, 1])
        for (let k = 0; k < 3; k++)
          points.push(
            p[a + k] +
              t * along[k] +
              (side * 0.32 * spacing * across[k]) / size,
          );
    }
  }
}

const INK = new Color("#2a2f36");
const SEAMS = SEAM_COLOURS.map((each) => new Color(each));

/** Edges that triangulating adds, as lines. */
export function diagonalLines(mesh: Mesh): BufferGeometry {
  const points: number[] = [];
  for (const v of diagonalsOf(mesh))
    points.push(...mesh.positions.subarray(3 * v, 3 * v + 3));
  return lines(points);
}

/** One colour for each point of so many numbers; −1 is ink. */
function colourFrom(into: number[], numbers: number, seam: number): void {
  const { r, g, b } = seam < 0 ? INK : SEAMS[seam];
  for (let i = 0; i < numbers; i += 3) into.push(r, g, b);
}

const withColours = (geometry: BufferGeometry, colours: readonly number[]) =>
  geometry.setAttribute(
    "color",
    new BufferAttribute(new Float32Array(colours), 3),
  );

function normalNear(mesh: Mesh, corner: number): number[] {
  if (mesh.normals) return [0, 1, 2].map((k) => mesh.normals![3 * corner + k]);
  return [0, 1, 0.001];
}

export function lines(points: readonly number[]): BufferGeometry {
  return new BufferGeometry().setAttribute(
    "position",
    new BufferAttribute(new Float32Array(points), 3),
  );
}

/** The UVs of a mesh laid flat as triangles (z 0) and as island and inner edges. */
export function sheetGeometry(mesh: Mesh) {
  const { corners } = triangulate(mesh);
  const uvs = mesh.uvs!;
  const flat = new Float32Array(3 * corners.length);
  const uv = new Float32Array(2 * corners.length);
  corners.forEach((c, i) => {
    flat[3 * i] = uv[2 * i] = uvs[2 * c];
    flat[3 * i + 1] = uv[2 * i + 1] = uvs[2 * c + 1];
  });
  const fill = new BufferGeometry();
  fill.setAttribute("position", new BufferAttribute(flat, 3));
  fill.setAttribute("uv", new BufferAttribute(uv, 2));
  const inner: number[] = [];
  const border: number[] = [];
  const colours: number[] = [];
  const colourOf = seamColours(mesh);
  const edges = buildEdges(mesh);
  for (let f = 0; f + 1 < mesh.faceStarts.length; f++)
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      const d = c + 1 < mesh.faceStarts[f + 1] ? c + 1 : mesh.faceStarts[f];
      const isBorder = mesh.seams?.[c] || edges.uses[edges.ofCorner[c]] === 1;
      const into = isBorder ? border : inner;
      if (!isBorder && edges.first[edges.ofCorner[c]] !== c) continue;
      into.push(uvs[2 * c], uvs[2 * c + 1], 0, uvs[2 * d], uvs[2 * d + 1], 0);
      if (isBorder) colourFrom(colours, 6, colourOf[c]);
    }
  return {
    fill,
    inner: lines(inner),
    border: withColours(lines(border), colours),
  };
}

/** Groups of triangles that follow each other and have one material. @param faces the face of each triangle */
export function groupByMaterial(
  geometry: BufferGeometry,
  { faceMaterials }: Mesh,
  faces: Uint32Array,
): void {
  const materialOf = (t: number) => faceMaterials?.[faces[t]] ?? 0;
  let start = 0;
  for (let t = 1; t <= faces.length; t++)
    if (t === faces.length || materialOf(t) !== materialOf(start)) {
      geometry.addGroup(3 * start, 3 * (t - start), materialOf(start));
      start = t;
    }
}
