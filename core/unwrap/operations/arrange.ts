import { defineOperation, field } from "../../asset/operation";
import { chosenIslands, movedResult } from "../methods/change-islands";
import { IslandOptions } from "../methods/island-options";
import type { Sheet } from "../methods/sheet";
import type { SheetIsland, SheetMove } from "../methods/sheet-islands";
import { boxOf, shiftBy, turnAbout } from "../methods/sheet-islands";

const WAYS = [
  { value: "left", label: "align left" },
  { value: "right", label: "align right" },
  { value: "top", label: "align top" },
  { value: "bottom", label: "align bottom" },
  { value: "middle across", label: "align middles, across" },
  { value: "middle up", label: "align middles, upright" },
  { value: "spread across", label: "distribute across" },
  { value: "spread up", label: "distribute upright" },
  { value: "turn left", label: "turn left by 90°" },
  { value: "turn right", label: "turn right by 90°" },
  { value: "mirror across", label: "mirror across" },
  { value: "mirror up", label: "mirror upright" },
  { value: "snap grid", label: "snap to the grid" },
  { value: "snap corner", label: "snap to the nearest corner" },
] as const;
type Way = (typeof WAYS)[number]["value"];

class ArrangeOptions extends IslandOptions {
  @field({
    kind: "choice",
    label: "How",
    help: "What is done to each of the chosen islands.",
    choices: WAYS,
  })
  how: Way = "left";

  @field({
    kind: "integer",
    label: "Grid",
    help: "Step of the grid that islands snap to.",
    unit: "px",
    min: 1,
    max: 4096,
  })
  grid = 64;
}

export const arrangeIslands = defineOperation({
  id: "unwrap/arrange",
  stage: "unwrap",
  title: "Arrange islands",
  about: "Aligns, distributes, turns, mirrors or snaps chosen islands.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: ArrangeOptions,
  run(asset, options) {
    const found = chosenIslands(asset, options);
    const moves: (SheetMove | null)[] = found.islands.map(() => null);
    const list = found.chosen.filter((i) => !found.islands[i].copy);
    const made = waysOf(
      list.map((i) => found.islands[i]),
      options.how,
      options.grid,
      found.sheet,
    );
    list.forEach((i, k) => (moves[i] = made[k]));
    return movedResult(asset, found, moves, { how: options.how });
  },
});

type Box = [number, number, number, number];

/** What brings each island to where it should be. */
export function waysOf(
  islands: readonly SheetIsland[],
  how: Way,
  grid: number,
  sheet: Pick<Sheet, "width" | "height" | "margin">,
): SheetMove[] {
  const boxes = islands.map(({ pixels }) => boxOf(pixels));
  const all = boxOf(boxes.flat());
  if (how === "spread across" || how === "spread up")
    return spread(boxes, how === "spread across" ? 0 : 1);
  return boxes.map((box) => one(box, all, how, grid, sheet));
}

function one(
  [x0, y0, x1, y1]: Box,
  all: Box,
  how: Exclude<Way, "spread across" | "spread up">,
  grid: number,
  sheet: Pick<Sheet, "width" | "height" | "margin">,
): SheetMove {
  const middle: [number, number] = [(x0 + x1) / 2, (y0 + y1) / 2];
  switch (how) {
    case "left":
      return shiftBy(all[0] - x0, 0);
    case "right":
      return shiftBy(all[2] - x1, 0);
    case "top":
      return shiftBy(0, all[3] - y1);
    case "bottom":
      return shiftBy(0, all[1] - y0);
    case "middle across":
      return shiftBy(0, (all[1] + all[3]) / 2 - middle[1]);
    case "middle up":
      return shiftBy((all[0] + all[2]) / 2 - middle[0], 0);
    case "turn left":
      return turnAbout(middle, Math.PI / 2);
    case "turn right":
      return turnAbout(middle, -Math.PI / 2);
    case "mirror across":
      return { a: -1, b: 0, c: 0, d: 1, e: 2 * middle[0], f: 0 };
    case "mirror up":
      return { a: 1, b: 0, c: 0, d: -1, e: 0, f: 2 * middle[1] };
    case "snap grid":
      return shiftBy(
        Math.round(x0 / grid) * grid - x0,
        Math.round(y0 / grid) * grid - y0,
      );
    case "snap corner": {
      const tile = [
        Math.floor(middle[0] / sheet.width),
        Math.floor(middle[1] / sheet.height),
      ];
      const [left, low] = [tile[0] * sheet.width, tile[1] * sheet.height];
      const right = middle[0] - left > sheet.width / 2;
      const top = middle[1] - low > sheet.height / 2;
      return shiftBy(
        right
          ? left + sheet.width - sheet.margin - x1
          : left + sheet.margin - x0,
        top ? low + sheet.height - sheet.margin - y1 : low + sheet.margin - y0,
      );
    }
  }
}

/** Equal gaps between islands, the outermost ones stay. */
function spread(boxes: readonly Box[], axis: 0 | 1): SheetMove[] {
  const order = boxes
    .map((_, i) => i)
    .sort((a, b) => boxes[a][axis] - boxes[b][axis] || a - b);
  const first = boxes[order[0]][axis];
  const last = Math.max(...boxes.map((box) => box[axis + 2]));
  const taken = boxes.reduce((sum, box) => sum + box[axis + 2] - box[axis], 0);
  const gap = (last - first - taken) / Math.max(1, boxes.length - 1);
  const moves: SheetMove[] = [];
  let at = first;
  for (const i of order) {
    const shift = at - boxes[i][axis];
    moves[i] = axis ? shiftBy(0, shift) : shiftBy(shift, 0);
    at += boxes[i][axis + 2] - boxes[i][axis] + gap;
  }
  return moves;
}
