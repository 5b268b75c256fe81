import * as library from "ktx2-encoder";
import type { Basis } from "../core/formats/basis";

/** What the library has for Node; its types are those for pages. */
const { NodeBasisEncoder } = library as unknown as {
  NodeBasisEncoder: new () => { init(): Promise<Basis> };
};
let opened: Promise<Basis> | null = null;

/** The library, opened once, see core/formats/basis.ts. */
export const basis = (): Promise<Basis> =>
  (opened ??= new NodeBasisEncoder().init());
