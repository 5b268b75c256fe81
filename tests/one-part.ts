import type { Asset } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import { plainContext } from "../core/base/context";
import type { Mesh } from "../core/mesh/mesh";
import { findOperation, KERNELS } from "../core/operations";
import { runOperation } from "../core/route";

/** A context that can run every kernel, on one thread. */
export const context = plainContext(KERNELS);

/** Runs an operation by its id. */
export const run = (id: string, asset: Asset, options: object = {}) =>
  runOperation(findOperation(id), asset, options, context);

/** An asset of one part. */
export const one = (mesh: Mesh, role: "source" | "game" = "game") =>
  createAsset("thing", [createPart("thing", 0, { [role]: mesh })]);
