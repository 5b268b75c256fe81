import { Collapser } from "../mesh/collapse";
import type { Mesh } from "../mesh/mesh";
import { gatherSoup, scatterSoup } from "../mesh/soup";
import type { Context } from "../operation";
import { spaced } from "./asset";

/** Reduces meshes to a budget they share. null for a mesh of which nothing was worth its triangles. */
export function reduceTogether(
  meshes: readonly Mesh[],
  budget: number,
  context: Context,
): (Mesh | null)[] {
  context.progress(0.01, "gathering triangles");
  const soup = gatherSoup(meshes);
  context.check();
  const collapser = new Collapser(soup, meshes.length);
  context.check();
  collapser.run(budget, {
    check: () => context.check(),
    progress: (share) =>
      context.progress(
        0.15 + 0.85 * share,
        `collapsing edges, ${spaced(collapser.live)} triangles left`,
      ),
  });
  return scatterSoup(
    soup,
    meshes.map((mesh) => mesh.materials),
  );
}
