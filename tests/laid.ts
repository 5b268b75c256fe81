import type { Mesh } from "../core/mesh/mesh";
import { plainContext } from "../core/base/context";
import type { PackMeshesOptions } from "../core/unwrap/pack-meshes";
import { packMeshes } from "../core/unwrap/pack-meshes";
import type { Sheet } from "../core/unwrap/sheet";
import type { LayOutOptions } from "../core/unwrap/unwrap-parts";
import { layOut, spreadOut } from "../core/unwrap/unwrap-parts";

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
