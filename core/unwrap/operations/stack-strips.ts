import { MissingInputError } from "../../base/errors";
import { defineOperation, field } from "../../asset/operation";
import { chosenIslands, movedResult } from "../methods/change-islands";
import { IslandOptions } from "../methods/island-options";
import { rectangleOf } from "./straighten";
import type { SheetMove } from "../methods/sheet-islands";
import { seamsFromUvs } from "../../mesh/seams-from-uvs";
import { boxOf, gatherIslands, turnAbout } from "../methods/sheet-islands";

class StackStripsOptions extends IslandOptions {
  @field({
    kind: "number",
    label: "Repeats every",
    empty: "as dense as it is",
    help: "Length on the model after which the texture repeats, metres; 0 keeps the strips' own density.",
    unit: "m",
    min: 0,
    max: 10000,
    step: 0.1,
  })
  length = 0;

  @field({
    kind: "number",
    label: "Column at",
    help: "Where the column begins, as a share of the sheet's width.",
    min: 0,
    max: 1,
    step: 0.05,
  })
  at = 0;

  @field({
    kind: "number",
    label: "Column width",
    empty: "as wide as it is",
    help: "Width of the column as a share of the sheet; 0 keeps the strips as wide as they are.",
    min: 0,
    max: 1,
    step: 0.05,
  })
  wide = 0;
}

export const stackStrips = defineOperation({
  id: "unwrap/stack-strips",
  stage: "unwrap",
  title: "Stack strips",
  about:
    "Straightens chosen strips, stands them upright end to end in one column, and scales their length so that a tiling texture repeats as wanted.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: StackStripsOptions,
  run(asset, options) {
    const found = chosenIslands(asset, options);
    const { sheet, chosen } = found;
    const strips = new Set(chosen);
    const meshes = found.meshes.map((mesh, m) => {
      const uvs = mesh.uvs!.slice();
      found.islands.forEach((island, i) => {
        if (island.mesh !== m || !strips.has(i)) return;
        const made = rectangleOf(mesh, island, sheet);
        if (!made) {
          strips.delete(i);
          return;
        }
        for (const [c, [x, y]] of made) {
          uvs[2 * c] = x / sheet.width;
          uvs[2 * c + 1] = y / sheet.height;
        }
      });
      return { ...mesh, uvs, seams: seamsFromUvs(mesh, uvs) };
    });
    if (!strips.size)
      throw new MissingInputError("no chosen island is a strip of quads");
    const islands = gatherIslands(meshes, sheet);
    const moves: (SheetMove | null)[] = islands.map(() => null);
    let top = 0;
    for (const i of strips) {
      const island = islands[i];
      const [x0, y0, x1, y1] = boxOf(island.pixels);
      const upright = y1 - y0 >= x1 - x0;
      const turn = upright
        ? turnAbout(island.middle, 0)
        : turnAbout(island.middle, Math.PI / 2);
      const [wide, long] = upright ? [x1 - x0, y1 - y0] : [y1 - y0, x1 - x0];
      const density = Math.sqrt(island.covered / (island.area || 1));
      const stretch =
        options.length > 0 ? sheet.height / options.length / density : 1;
      const across = options.wide > 0 ? (options.wide * sheet.width) / wide : 1;
      const [mx, my] = island.middle;
      // About its middle, then to its place in the column.
      const x = options.at * sheet.width + (across * wide) / 2;
      const y = top + (stretch * long) / 2;
      moves[i] = {
        a: across * turn.a,
        b: across * turn.b,
        c: stretch * turn.c,
        d: stretch * turn.d,
        e: x - across * (turn.a * mx + turn.b * my),
        f: y - stretch * (turn.c * mx + turn.d * my),
      };
      top += stretch * long;
    }
    return movedResult(asset, { ...found, meshes, islands }, moves, {
      strips: strips.size,
      repeats: top / sheet.height,
    });
  },
});
