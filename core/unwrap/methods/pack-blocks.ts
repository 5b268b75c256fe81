import { ArnikError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import type { PackItem, PackResult, Placement } from "./pack/types";
import { packIslands } from "./pack";
import type { Sheet } from "./sheet";
import type { SheetIsland } from "./sheet-islands";
import { boxOf } from "./sheet-islands";
import type { PackMeshesOptions } from "./pack-meshes-options";

/** Which islands are packed as one block: indices of islands, block by block. */
export function groupsOf(
  islands: readonly SheetIsland[],
  meshes: readonly Mesh[],
  sheet: Sheet,
  { together, boxSmall }: PackMeshesOptions,
): number[][] {
  const groups = new Map<string, number[]>();
  const all = islands.reduce(
    (sum, each) => sum + each.area * each.weight ** 2,
    0,
  );
  const density =
    sheet.texelsPerMetre ||
    Math.sqrt((0.7 * sheet.width * sheet.height) / (all || 1));
  islands.forEach((island, i) => {
    const small =
      boxSmall > 0 &&
      density * island.weight * Math.sqrt(island.area) < boxSmall;
    const key =
      together === "parts"
        ? `part ${island.mesh}`
        : together === "IDs"
          ? `ID ${meshes[island.mesh].ids?.[island.faces[0]] ?? 0}`
          : small
            ? "small"
            : `island ${i}`;
    groups.set(key, [...(groups.get(key) ?? []), i]);
  });
  return [...groups.values()];
}

/** What a block loses when it is laid out again at a smaller scale. */
const AGAIN = 0.97;

/** Packs groups to blocks first, then the blocks. The padding holds at one scale, so blocks are made for each. */
export function packBlocks(
  items: readonly PackItem[],
  groups: readonly number[][],
  sheet: Sheet,
  pack: (
    of: readonly PackItem[],
    density: number,
    quiet?: boolean,
  ) => PackResult,
): PackResult {
  let density = sheet.texelsPerMetre || pack(items, 0).texelsPerMetre;
  for (;;) {
    const blocks = groups.map((group) =>
      blockOf(
        group.map((i) => items[i]),
        density,
        sheet,
      ),
    );
    try {
      const result = pack(
        blocks.map((block) => ({ triangles: block.triangles })),
        density,
        true,
      );
      const placements: Placement[] = [];
      groups.forEach((group, g) => {
        const { angle, x, y } = result.placements[g];
        const cos = Math.cos(angle);
        const sin = Math.sin(angle);
        group.forEach((i, k) => {
          const own = blocks[g].placements[k];
          placements[i] = {
            angle: own.angle + angle,
            x: x + cos * own.x - sin * own.y,
            y: y + sin * own.x + cos * own.y,
          };
        });
      });
      return { placements, texelsPerMetre: density, rounds: result.rounds };
    } catch (error) {
      if (!(error instanceof ArnikError) || sheet.texelsPerMetre) throw error;
      density *= AGAIN;
    }
  }
}

/** Islands packed into the smallest about square block at a density. */
function blockOf(
  items: readonly PackItem[],
  density: number,
  sheet: Sheet,
): { triangles: Float64Array; placements: Placement[] } {
  if (items.length === 1)
    return {
      triangles: items[0].triangles,
      placements: [{ angle: 0, x: 0, y: 0 }],
    };
  const boxes = items.map(({ triangles }) => boxOf(triangles));
  const area = boxes.reduce(
    (sum, [x0, y0, x1, y1]) =>
      sum +
      (density * (x1 - x0) + sheet.padding) *
        (density * (y1 - y0) + sheet.padding),
    0,
  );
  const longest = Math.max(
    ...boxes.map(([x0, y0, x1, y1]) => Math.hypot(x1 - x0, y1 - y0)),
  );
  for (
    let side = Math.max(0.85 * Math.sqrt(area), 0.7 * density * longest);
    ;
    side *= 1.06
  ) {
    const edge = Math.ceil(side);
    try {
      const { placements } = packIslands(
        items,
        {
          ...sheet,
          width: edge,
          height: edge,
          margin: 0,
          texelsPerMetre: density,
          rounds: 0,
        },
        () => {},
      );
      const triangles: number[] = [];
      items.forEach(({ triangles: own }, i) => {
        const { angle, x, y } = placements[i];
        const cos = Math.cos(angle);
        const sin = Math.sin(angle);
        for (let k = 0; k < own.length; k += 2)
          triangles.push(
            cos * own[k] - sin * own[k + 1] + x / density,
            sin * own[k] + cos * own[k + 1] + y / density,
          );
      });
      return { triangles: Float64Array.from(triangles), placements };
    } catch (error) {
      if (!(error instanceof ArnikError)) throw error;
    }
  }
}
