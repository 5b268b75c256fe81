import type { Mesh } from "../core/mesh/mesh";
import { plainContext } from "../core/base/context";
import type { PackMeshesOptions } from "../core/unwrap/methods/pack-meshes-options";
import { packMeshes } from "../core/unwrap/methods/pack-meshes";
import type { Sheet } from "../core/unwrap/methods/sheet";
import type { LayOutOptions } from "../core/unwrap/methods/unwrap-parts";
import { layOut, spreadOut } from "../core/unwrap/methods/unwrap-parts";

/** A square sheet. */
export const squareSheet = (size: number, padding = 4): Sheet => ({
  width: size,
  height: size,
  padding,
  margin: padding / 2,
  texelsPerMetre: 0,
});

/** Meshes unwrapped and packed on one sheet. */
export const laidOn = (
  meshes: readonly Mesh[],
  sheet: Sheet,
  options: Partial<LayOutOptions> = {},
  packing: Partial<PackMeshesOptions> = { rounds: 4 },
): Mesh[] =>
  packMeshes(
    spreadOut(meshes, layOut(meshes, options, plainContext())),
    sheet,
    packing,
    plainContext(),
  ).meshes;
