import { sphere } from "./shapes";
import type { Asset, Part } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import type { Mesh } from "../core/mesh/mesh";
import { plainContext } from "../core/base/context";
import { KERNELS, findOperation } from "../core/operations";
import { runOperation } from "../core/route";

/** One thread, no host. */
export const context = plainContext(KERNELS);
/** Runs an operation of Survey. */
export const run = (id: string, asset: Asset, options: object = {}) =>
  runOperation(findOperation(`survey/${id}`), asset, options, context);
/** An asset of meshes by their names. */
export const assetOf = (
  parts: Record<string, Mesh>,
  which: "source" | "game" = "source",
) =>
  createAsset(
    "thing",
    Object.entries(parts).map(([name, mesh], i): Part =>
      createPart(name, i, { [which]: mesh }),
    ),
  );
export const scaled = (mesh: Mesh, k: number): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((x) => k * x),
});
export const names = (asset: Asset) => asset.parts.map((part) => part.name);

/** A lump that is no mirror image of itself. */
export const lump = () =>
  sphere(
    10,
    14,
    1,
    (a, t) => 0.3 * Math.sin(a + 2 * t) + 0.2 * Math.cos(3 * a) * t,
  );
