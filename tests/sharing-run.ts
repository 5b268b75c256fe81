import { squareSheet } from "./laid";
import { cube } from "./shapes";
import type { Asset } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import type { Mesh } from "../core/mesh/mesh";
import { plainContext } from "../core/base/context";
import { findOperation } from "../core/operations";
import { runOperation } from "../core/route";
import { transformMesh } from "../core/mesh/transform";

/** Of 512 px. */
export const SHEET = squareSheet(512);
/** Runs an operation on this thread. */
export const run = (asset: Asset, id: string, options: object = {}) =>
  runOperation(findOperation(id), asset, options, plainContext());
/** The mesh turned about y, mirrored if wanted, and moved along x by metres. */
export const turned = (mesh: Mesh, angle: number, x: number, mirror = false) =>
  transformMesh(mesh, [
    (mirror ? -1 : 1) * Math.cos(angle),
    0,
    Math.sin(angle),
    0,
    0,
    1,
    0,
    0,
    (mirror ? 1 : -1) * Math.sin(angle),
    0,
    Math.cos(angle),
    0,
    x,
    0,
    0,
    1,
  ]);

/** A wedge without any symmetry of its own. */
export const wedge = (): Mesh => {
  const mesh = cube();
  const positions = mesh.positions.slice();
  positions.set([1.4, 1.2, 1.9], 21);
  positions[12] = -0.4;
  return { ...mesh, positions };
};

/** An asset of game meshes, with four texels between islands. */
export const assetOf = (meshes: readonly Mesh[], size = 512): Asset => {
  const asset = createAsset(
    "a",
    meshes.map((game, i) => createPart(`p${i}`, i, { game })),
  );
  return { ...asset, brief: { ...asset.brief, sheetSize: size, padding: 4 } };
};
