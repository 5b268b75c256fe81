import { PartsOptions } from "../../asset/parts-options";
import type { Asset, Part } from "../../asset/asset";
import { chosenParts, createPart, requireMeshes } from "../../asset/asset";
import { MissingInputError } from "../../base/errors";
import { clipMesh } from "../../mesh/clip";
import { buildEdges } from "../../mesh/edges";
import type { Mesh } from "../../mesh/mesh";
import { faceCount, faceOfCorners } from "../../mesh/mesh";
import { keepFaces } from "../../mesh/change-faces";
import { defineOperation, field } from "../../asset/operation";
import { boundsOf } from "../../space/bounds";
import { freeName } from "./change-parts";

class CutOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "Cut",
    help: "At planes across an axis, or along the edges chosen in the view.",
    choices: [
      { value: "x", label: "across x" },
      { value: "y", label: "across y" },
      { value: "z", label: "across z" },
      { value: "edges", label: "along chosen edges" },
    ],
  })
  by: "x" | "y" | "z" | "edges" = "y";

  @field({
    kind: "integer",
    label: "Pieces",
    help: "Equal lengths along the axis.",
    min: 2,
    max: 64,
  })
  pieces = 2;

  @field({
    kind: "text",
    label: "Planes at",
    help: "Places on the axis in metres, parted by commas; empty divides evenly.",
    max: 400,
    folded: true,
  })
  at = "";

  @field({
    kind: "number",
    label: "Overlap",
    help: "How far each piece reaches into its neighbours, so that bakes meet.",
    unit: "mm",
    min: 0,
    max: 10000,
  })
  overlap = 5;

  @field({
    kind: "edges",
    label: "Edges",
    help: "Seams to cut along, as part:vertex-vertex.",
  })
  edges: string[] = [];
}

export const cutPieces = defineOperation({
  id: "survey/cut-pieces",
  stage: "survey",
  title: "Cut into pieces",
  about:
    "Makes several parts of one source, each reaching over its neighbours, so that giants can be baked piece by piece.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: CutOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const chosen = chosenParts(asset, options.parts);
    const overlap = options.overlap / 1000;
    let next: Asset = { ...asset, parts: [] };
    let cut = 0;
    let made = 0;
    for (const part of asset.parts) {
      context.check();
      const pieces =
        part.source && chosen.has(part.name)
          ? options.by === "edges"
            ? alongEdges(part.name, part.source, options.edges, overlap)
            : acrossAxis(part.source, options, overlap)
          : [];
      if (pieces.length < 2) {
        next = { ...next, parts: [...next.parts, part] };
        continue;
      }
      cut++;
      made += pieces.length;
      for (const source of pieces)
        next = {
          ...next,
          parts: [...next.parts, pieceOf(part, source, next, asset)],
        };
    }
    if (!cut)
      throw new MissingInputError(
        options.by === "edges"
          ? "the chosen edges part nothing: choose a closed loop of them"
          : "no chosen part reaches across the planes",
      );
    return {
      asset: next,
      headline: "",
      report: { cut, pieces: made, summary: `${made} pieces of ${cut}` },
    };
  },
});

function pieceOf(part: Part, source: Mesh, made: Asset, asset: Asset): Part {
  const names = { ...asset, parts: [...asset.parts, ...made.parts] };
  return createPart(freeName(names, `${part.name} piece`), made.parts.length, {
    group: part.group || part.name,
    source,
  });
}

function acrossAxis(mesh: Mesh, options: CutOptions, overlap: number): Mesh[] {
  const axis = "xyz".indexOf(options.by);
  const { min, max } = boundsOf(mesh.positions);
  const given = options.at
    .split(",")
    .filter((word) => word.trim())
    .map(Number)
    .filter((x) => Number.isFinite(x))
    .sort((a, b) => a - b);
  const planes = given.length
    ? given
    : Array.from(
        { length: options.pieces - 1 },
        (_, i) =>
          min[axis] + ((i + 1) * (max[axis] - min[axis])) / options.pieces,
      );
  const ends = [-Infinity, ...planes, Infinity];
  return ends.slice(0, -1).flatMap((from, i) => {
    const to = ends[i + 1];
    let piece = mesh;
    const way: [number, number, number] = [0, 0, 0];
    const back: [number, number, number] = [0, 0, 0];
    way[axis] = 1;
    back[axis] = -1;
    if (from > -Infinity)
      piece = clipMesh(piece, { normal: way, offset: from - overlap });
    if (to < Infinity)
      piece = clipMesh(piece, { normal: back, offset: -(to + overlap) });
    return piece.corners.length ? [piece] : [];
  });
}

/** The regions that chosen edges part, each grown over its rim by the overlap. */
function alongEdges(
  name: string,
  mesh: Mesh,
  chosen: readonly string[],
  overlap: number,
): Mesh[] {
  const cuts = new Set(
    chosen
      .filter((edge) => edge.slice(0, edge.lastIndexOf(":")) === name)
      .map((edge) => edge.slice(edge.lastIndexOf(":") + 1)),
  );
  if (!cuts.size) return [];
  const edges = buildEdges(mesh);
  const face = faceOfCorners(mesh);
  const isCut = (e: number) =>
    cuts.has(`${edges.vertices[2 * e]}-${edges.vertices[2 * e + 1]}`);
  const region = new Int32Array(faceCount(mesh)).fill(-1);
  let count = 0;
  for (let seed = 0; seed < region.length; seed++) {
    if (region[seed] >= 0) continue;
    const waiting = [seed];
    region[seed] = count;
    while (waiting.length) {
      const f = waiting.pop()!;
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
        const e = edges.ofCorner[c];
        if (edges.uses[e] !== 2 || isCut(e)) continue;
        const d = edges.first[e] === c ? edges.second[e] : edges.first[e];
        if (region[face[d]] >= 0) continue;
        region[face[d]] = count;
        waiting.push(face[d]);
      }
    }
    count++;
  }
  if (count < 2) return [];
  return Array.from({ length: count }, (_, r) =>
    keepFaces(
      mesh,
      grownBy(
        mesh,
        Uint8Array.from(region, (own) => (own === r ? 1 : 0)),
        overlap,
      ),
    ),
  );
}

/** Adds the faces that come within a distance of the marked ones' rim, going from neighbour to neighbour. */
function grownBy(mesh: Mesh, marks: Uint8Array, distance: number): Uint8Array {
  const p = mesh.positions;
  const reach = new Float64Array(p.length / 3).fill(Infinity);
  const facesAt = new Map<number, number[]>();
  for (let f = 0; f < marks.length; f++)
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      const v = mesh.corners[c];
      if (marks[f]) reach[v] = 0;
      else facesAt.set(v, [...(facesAt.get(v) ?? []), f]);
    }
  let rim = [...facesAt.keys()].filter((v) => reach[v] === 0);
  const grown = marks.slice();
  while (rim.length) {
    const next = new Set<number>();
    for (const v of rim)
      for (const f of facesAt.get(v) ?? []) {
        if (reach[v] >= distance) continue;
        grown[f] = 1;
        for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
          const w = mesh.corners[c];
          const length = Math.hypot(
            p[3 * v] - p[3 * w],
            p[3 * v + 1] - p[3 * w + 1],
            p[3 * v + 2] - p[3 * w + 2],
          );
          if (reach[v] + length >= reach[w] - 1e-12) continue;
          reach[w] = reach[v] + length;
          if (reach[w] <= distance) next.add(w);
        }
      }
    rim = [...next];
  }
  return grown;
}
