import { sphere } from "./shapes";
import type { Asset } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import type { Mesh } from "../core/mesh/mesh";
import { triangleCount } from "../core/mesh/mesh";
import { plainContext } from "../core/base/context";
import { findOperation } from "../core/operations";
import { runOperation } from "../core/route";

/** Runs an operation on this thread. */
export const run = (asset: Asset, id: string, options: object = {}) =>
  runOperation(findOperation(id), asset, options, plainContext());
/** An asset of one source part. */
export const lone = (source: Mesh, name = "body") =>
  createAsset("lone", [createPart(name, 0, { source })]);
/** The game mesh of a part. */
export const game = (asset: Asset, i = 0) => asset.parts[i].game!;
/** Triangles of all game meshes. */
export const total = (asset: Asset) =>
  asset.parts.reduce(
    (sum, part) => sum + (part.game ? triangleCount(part.game) : 0),
    0,
  );

/** A ball with a nose, the same on both sides of x = 0. */
export const face = sphere(
  50,
  80,
  1,
  (a, t) =>
    0.2 * Math.exp(-8 * ((Math.sin(a) + 1) ** 2 + t * t)) +
    0.03 * Math.cos(6 * a),
);
