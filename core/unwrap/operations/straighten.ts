import { edgesByPart, marksOfEdges } from "../../asset/chosen-edges";
import { MissingInputError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import { defineOperation, field } from "../../asset/operation";
import { meshesResult } from "../methods/change-islands";
import { chosenGames, IslandOptions } from "../methods/island-options";
import { seamsFromUvs } from "../../mesh/seams-from-uvs";
import { sheetOf } from "../methods/sheet";
import type { SheetIsland } from "../methods/sheet-islands";
import { gatherIslands } from "../methods/sheet-islands";
import { gridOf } from "../methods/shape/quad-grid";

class StraightenOptions extends IslandOptions {
  @field({
    kind: "edges",
    label: "Edges",
    help: "Edges to lay in a line; where none are chosen, strips and grids of quads become rectangles.",
  })
  edges: string[] = [];
}

export const straightenIslands = defineOperation({
  id: "unwrap/straighten",
  stage: "unwrap",
  title: "Straighten",
  about:
    "Makes strips and grids of quads true rectangles, rows and columns as long as they are on the model; or lays chosen edges in a line.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: StraightenOptions,
  run(asset, options) {
    const games = chosenGames(asset, options, true);
    const sheet = sheetOf(asset);
    const edges = edgesByPart(asset, options.edges);
    let straight = 0;
    const refused: string[] = [];
    const meshes = games.map(({ name, mesh, marks }) => {
      if (edges.size) {
        const keys = edges.get(name);
        if (!keys) return mesh;
        straight++;
        return inLine(mesh, marksOfEdges(mesh, name, keys), sheet);
      }
      const uvs = mesh.uvs!.slice();
      let any = false;
      for (const island of gatherIslands([mesh], sheet)) {
        if (!island.faces.some((f) => marks[f])) continue;
        const made = rectangleOf(mesh, island, sheet);
        if (!made) {
          refused.push(`${name}: ${island.faces.length} faces`);
          continue;
        }
        for (const [c, [x, y]] of made) {
          uvs[2 * c] = x / sheet.width;
          uvs[2 * c + 1] = y / sheet.height;
        }
        any = true;
        straight++;
      }
      return any ? { ...mesh, uvs, seams: seamsFromUvs(mesh, uvs) } : mesh;
    });
    if (!straight)
      throw new MissingInputError(
        "no chosen island is a strip or a grid of quads: choose one, or edges to lay in a line",
      );
    return meshesResult(
      asset,
      games.map(({ name }) => name),
      meshes,
      sheet,
      {
        straightened: straight,
        refused,
      },
    );
  },
});

/** Corners of an island as a true rectangle in its place, px, or null where it is no grid of quads. */
export function rectangleOf(
  mesh: Mesh,
  island: SheetIsland,
  { width, height }: { width: number; height: number },
): Map<number, [number, number]> | null {
  const grid = gridOf(mesh, island.faces);
  if (!grid) return null;
  const density = Math.sqrt(island.covered / (island.area || 1));
  const along = [0];
  for (const length of grid.columns)
    along.push(along[along.length - 1] + density * length);
  const up = [0];
  for (const length of grid.rows) up.push(up[up.length - 1] + density * length);
  const wide = along[along.length - 1];
  const high = up[up.length - 1];
  // As it lay: the turn by quarters, and mirrored or not, that leaves corners nearest to where they were.
  let best: Map<number, [number, number]> | null = null;
  let least = Infinity;
  for (let way = 0; way < 4; way++) {
    const made = new Map<number, [number, number]>();
    const [cos, sin] = [
      [1, 0],
      [0, 1],
      [-1, 0],
      [0, -1],
    ][way];
    let off = 0;
    for (const [c, [i, j]] of grid.at) {
      const x = along[i] - wide / 2;
      const y = up[j] - high / 2;
      const at: [number, number] = [
        island.middle[0] + cos * x - sin * y,
        island.middle[1] + sin * x + cos * y,
      ];
      made.set(c, at);
      off +=
        (at[0] - mesh.uvs![2 * c] * width) ** 2 +
        (at[1] - mesh.uvs![2 * c + 1] * height) ** 2;
    }
    if (off < least) {
      least = off;
      best = made;
    }
  }
  return best;
}

/** Lays marked edges in a line: the one through their places that fits best, each as long as it was. */
function inLine(
  mesh: Mesh,
  marks: Uint8Array,
  { width, height }: { width: number; height: number },
): Mesh {
  const uvs = mesh.uvs!.slice();
  const names = new Map<string, [number, number]>();
  const key = (c: number) => `${mesh.uvs![2 * c]} ${mesh.uvs![2 * c + 1]}`;
  const after = (c: number) => {
    let f = 0;
    while (mesh.faceStarts[f + 1] <= c) f++;
    return c + 1 < mesh.faceStarts[f + 1] ? c + 1 : mesh.faceStarts[f];
  };
  marks.forEach((mark, c) => {
    if (!mark) return;
    for (const k of [c, after(c)])
      names.set(key(k), [
        mesh.uvs![2 * k] * width,
        mesh.uvs![2 * k + 1] * height,
      ]);
  });
  const points = [...names.values()];
  if (points.length < 2) return mesh;
  const mean = [0, 1].map(
    (k) => points.reduce((sum, p) => sum + p[k], 0) / points.length,
  );
  let xx = 0;
  let xy = 0;
  let yy = 0;
  for (const [x, y] of points) {
    xx += (x - mean[0]) ** 2;
    xy += (x - mean[0]) * (y - mean[1]);
    yy += (y - mean[1]) ** 2;
  }
  let angle = Math.atan2(2 * xy, xx - yy) / 2;
  // Nearly level or upright lines are laid so.
  const quarter = Math.PI / 2;
  const nearest = Math.round(angle / quarter) * quarter;
  if (Math.abs(angle - nearest) < 0.35) angle = nearest;
  const [ux, uy] = [Math.cos(angle), Math.sin(angle)];
  for (let c = 0; c < mesh.corners.length; c++) {
    const at = names.get(key(c));
    if (!at) continue;
    const t = (at[0] - mean[0]) * ux + (at[1] - mean[1]) * uy;
    uvs[2 * c] = (mean[0] + t * ux) / width;
    uvs[2 * c + 1] = (mean[1] + t * uy) / height;
  }
  return { ...mesh, uvs, seams: seamsFromUvs(mesh, uvs) };
}
