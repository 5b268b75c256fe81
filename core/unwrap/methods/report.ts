import type { Asset } from "../../asset/asset";
import { gameMeshes } from "../../asset/parts";
import { workedParts } from "../../asset/repeats";
import { engineVertices } from "../../mesh/engine-vertices";
import type { UvFinding } from "./check";
import { checkUvs } from "./check";
import type { UnwrapFigures } from "./measure";
import { measureUnwrap } from "./measure";
import type { Sheet } from "./sheet";
import { gatherIslands } from "./sheet-islands";

export interface UnwrapReport extends UnwrapFigures {
  seconds: number;
  /** px */
  width: number;
  height: number;
  /** Share of the sheets, triangles and vertices by part. */
  parts: { part: string; share: number; islands: number; vertices: number }[];
  /** L2 stretch of the worst island. */
  worstStretch: number;
  findings: UvFinding[];
}

/** Every worked part's game mesh that has UVs, locked ones too. */
export const unwrappedGames = (asset: Asset) =>
  gameMeshes(
    asset,
    new Set(workedParts(asset).map((part) => part.name)),
  ).filter(({ mesh }) => mesh.uvs);

/** Figures over all game meshes with UVs, how an engine will count their vertices, and what is wrong with them. */
export function reportUnwrap(
  asset: Asset,
  sheet: Sheet,
  seconds: number,
): { headline: string; report: UnwrapReport & Record<string, unknown> } {
  const games = unwrappedGames(asset);
  const meshes = games.map(({ mesh }) => mesh);
  const figures = measureUnwrap(meshes, sheet);
  const islands = gatherIslands(meshes, sheet);
  const { findings, worstStretch } = checkUvs(
    games.map(({ name }) => name),
    meshes,
    islands,
    sheet,
  );
  const texels = sheet.width * sheet.height * figures.tiles;
  return {
    headline: `fill ${Math.round(100 * figures.fill)}\u2009%`,
    report: {
      ...figures,
      worstStretch,
      seconds,
      width: sheet.width,
      height: sheet.height,
      findings,
      parts: games.map(({ name, mesh }, m) => {
        const own = islands.filter((island) => island.mesh === m);
        return {
          part: name,
          share:
            own.reduce((sum, each) => sum + (each.copy ? 0 : each.covered), 0) /
            texels,
          islands: own.length,
          vertices: engineVertices(mesh).split,
        };
      }),
    },
  };
}
