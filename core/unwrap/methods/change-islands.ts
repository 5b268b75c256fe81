import type { Asset } from "../../asset/asset";
import { withGameMeshes } from "../../asset/parts";
import type { PieceOptions } from "../../asset/worked-meshes";
import type { Mesh } from "../../mesh/mesh";
import type { OperationResult } from "../../asset/operation";
import { chosenGames } from "./island-options";
import { followed } from "./pack-meshes";
import { reportUnwrap } from "./report";
import type { Sheet } from "./sheet";
import { sheetOf } from "./sheet";
import type { SheetIsland, SheetMove } from "./sheet-islands";
import { gatherIslands, markIslands, moveIslands } from "./sheet-islands";

/** All islands of an asset, and which of them are chosen. */
export interface ChosenIslands {
  names: string[];
  meshes: Mesh[];
  islands: SheetIsland[];
  /** Numbers of the chosen ones. */
  chosen: number[];
  sheet: Sheet;
}

/** @throws MissingInputError where nothing is chosen or nothing has UVs */
export function chosenIslands(
  asset: Asset,
  options: PieceOptions,
): ChosenIslands {
  const games = chosenGames(asset, options, true);
  const sheet = sheetOf(asset);
  const meshes = games.map(({ mesh }) => mesh);
  const islands = gatherIslands(meshes, sheet);
  return {
    names: games.map(({ name }) => name),
    meshes,
    islands,
    chosen: islands.flatMap(({ mesh, faces }, i) =>
      faces.some((f) => games[mesh].marks[f]) ? [i] : [],
    ),
    sheet,
  };
}

/** What an operation that moves islands comes to: they stay where they were put, copies follow. */
export function movedResult(
  asset: Asset,
  { names, meshes, islands, sheet }: ChosenIslands,
  moves: (SheetMove | null)[],
  report: Record<string, unknown>,
  hold = true,
): OperationResult {
  followed(islands).forEach((of, i) => {
    if (of >= 0 && !moves[i]) moves[i] = moves[of];
  });
  const moved = moveIslands(meshes, islands, moves, sheet);
  const held = hold
    ? markIslands(moved, islands, "held", (island, i) =>
        moves[i] && !island.copy ? 1 : null,
      )
    : moved;
  return meshesResult(asset, names, held, sheet, {
    moved: moves.filter((move) => move).length,
    ...report,
  });
}

/** The result of an operation that has laid game meshes out anew, with the figures of the whole sheet. */
export function meshesResult(
  asset: Asset,
  names: readonly string[],
  meshes: readonly Mesh[],
  sheet: Sheet,
  report: Record<string, unknown>,
): OperationResult {
  const next = withGameMeshes(
    asset,
    new Map(names.map((name, i) => [name, meshes[i]])),
  );
  const told = reportUnwrap(next, sheet, 0);
  return {
    asset: next,
    headline: told.headline,
    report: { ...told.report, ...report },
  };
}
