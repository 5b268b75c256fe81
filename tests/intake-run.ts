import type { Asset } from "../core/asset/asset";
import { plainContext } from "../core/base/context";
import { KERNELS, findOperation } from "../core/operations";
import { runOperation } from "../core/route";

/** One thread, no host. */
export const context = plainContext(KERNELS);
/** Runs an operation of Intake. @param more files, or other assets */
export const run = (
  id: string,
  asset: Asset,
  options: object = {},
  more: object = {},
) =>
  runOperation(findOperation(`intake/${id}`), asset, options, {
    ...context,
    ...more,
  });
/** The bytes of a file of lines. */
export const text = (lines: string[]) =>
  new TextEncoder().encode(lines.join("\n"));
