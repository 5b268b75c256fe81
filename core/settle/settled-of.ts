import type { Mesh } from "../mesh/mesh";
import type { Settled, SettledMesh } from "./settle";
import { settleMesh } from "./settle";

const known = new WeakMap<Mesh, SettledMesh>();

/** A mesh settled by all rules, or as it was kept by `keepSettled`. Settled once: meshes never change. */
export function settledOf(mesh: Mesh, check?: () => void): SettledMesh {
  let settled = known.get(mesh);
  if (!settled) {
    settled = settleMesh(mesh, undefined, check);
    keepSettled(mesh, settled);
  }
  return settled;
}

/** Makes what a mesh was settled to known, so that nobody settles it anew. */
export function keepSettled(mesh: Mesh, settled: SettledMesh): void {
  known.set(mesh, settled);
  if (settled.mesh !== mesh)
    known.set(settled.mesh, { mesh: settled.mesh, faces: null, done: [] });
}

/** What work is done on in place of a part's source. */
export interface SettledSource {
  /** null where the source is settled as it is. */
  mesh: Mesh | null;
  /** For each of its faces the source's; null where it is the source. */
  faces: Uint32Array | null;
  done: readonly Settled[];
}
