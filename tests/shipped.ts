import type { Asset } from "../core/asset/asset";
import { shipFiles } from "../core/ship/methods/ship-files";
import { ShipOptions } from "../core/ship/methods/ship-options";

/** The files of a delivery, without its page; all else as it is unless told otherwise. */
export const shippedFiles = (
  asset: Asset,
  options: Partial<ShipOptions> = {},
) =>
  shipFiles(asset, Object.assign(new ShipOptions(), { page: false }, options), {
    progress() {},
    check() {},
  });
