import { laidOn, squareSheet } from "./laid";
import type { Asset } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import { buildEdges } from "../core/mesh/edges";
import type { Mesh } from "../core/mesh/mesh";
import { plainContext } from "../core/base/context";
import { findOperation } from "../core/operations";
import { runOperation } from "../core/route";

/** The sheet that meshes are laid on. */
export const SHEET = squareSheet(512);
/** An asset of game meshes by their names, for that sheet. */
export const assetOf = (
  meshes: Record<string, Mesh>,
  brief: Partial<Asset["brief"]> = {},
): Asset => {
  const asset = createAsset(
    "a",
    Object.entries(meshes).map(([name, game], i) =>
      createPart(name, i, { game }),
    ),
  );
  return {
    ...asset,
    brief: { ...asset.brief, sheetSize: 512, padding: 4, ...brief },
  };
};
/** Runs an operation, on one thread. */
export const run = async (asset: Asset, id: string, options: object = {}) =>
  runOperation(findOperation(id), asset, options, plainContext());
/** A mesh with its islands on the sheet. */
export const laid = (mesh: Mesh) => laidOn([mesh], SHEET)[0];
export const gameOf = (asset: Asset, i = 0) => asset.parts[i].game!;
/** The edge between two faces of a cube that lie across its first seamless edge. */
export const anyInner = (mesh: Mesh) => {
  const edges = buildEdges(mesh);
  for (let e = 0; e < edges.count; e++)
    if (edges.uses[e] === 2 && !mesh.seams?.[edges.first[e]])
      return `${edges.vertices[2 * e]}-${edges.vertices[2 * e + 1]}`;
  throw new Error("no inner edge");
};
