import { defineOperation, field } from "../../asset/operation";
import { chosenIslands, movedResult } from "../methods/change-islands";
import { IslandOptions } from "../methods/island-options";
import type { SheetMove } from "../methods/sheet-islands";
import { boxOf, turnAbout } from "../methods/sheet-islands";

class MoveOptions extends IslandOptions {
  @field({
    kind: "number",
    label: "Right",
    help: "How far islands go to the right, texels.",
    unit: "px",
    min: -1000000,
    max: 1000000,
  })
  x = 0;

  @field({
    kind: "number",
    label: "Upwards",
    help: "How far islands go up, texels.",
    unit: "px",
    min: -1000000,
    max: 1000000,
  })
  y = 0;

  @field({
    kind: "number",
    label: "Turn",
    help: "By how much they turn about their common middle, counter-clockwise.",
    unit: "°",
    min: -360,
    max: 360,
  })
  turn = 0;

  @field({
    kind: "number",
    label: "Scale",
    help: "How many times as large they get; their texel density changes with it.",
    min: 0.01,
    max: 100,
    step: 0.1,
  })
  scale = 1;
}

export const moveChosen = defineOperation({
  id: "unwrap/move",
  stage: "unwrap",
  title: "Move islands",
  about:
    "Shifts, turns and scales chosen islands; they stay there when the rest is packed.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: MoveOptions,
  run(asset, options) {
    const found = chosenIslands(asset, options);
    const { islands, chosen } = found;
    const [x0, y0, x1, y1] = boxOf(
      chosen.flatMap((i) => [...islands[i].pixels]),
    );
    const move = turnAbout(
      [(x0 + x1) / 2, (y0 + y1) / 2],
      (options.turn * Math.PI) / 180,
      options.scale,
      [options.x, options.y],
    );
    const moves: (SheetMove | null)[] = islands.map(() => null);
    for (const i of chosen) moves[i] = move;
    return movedResult(asset, found, moves, {});
  },
});
