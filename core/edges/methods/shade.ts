import type { Asset } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { mapParts } from "../../asset/parts";
import { buildEdges } from "../../mesh/edges";
import { engineVertices } from "../../mesh/engine-vertices";
import type { Mesh } from "../../mesh/mesh";
import type { NormalWeights } from "../../mesh/normals";
import { withOwnNormals } from "../../mesh/normals";
import type { OperationResult } from "../../asset/operation";

/**
 * The mesh with other hard edges, and the normals that go with them; normals taken from elsewhere stay.
 * @param hard cornerCount: 1 where the edge from that corner is hard
 */
export function withHardEdges(
  mesh: Mesh,
  hard: Uint8Array,
  weights?: NormalWeights,
): Mesh {
  const marked = { ...mesh, hard };
  return { ...marked, normals: withOwnNormals(marked, weights) };
}

/** Hard edges of a mesh, and those of them at which UVs do not part. */
export function countHard(mesh: Mesh): { hard: number; unsplit: number } {
  if (!mesh.hard) return { hard: 0, unsplit: 0 };
  const edges = buildEdges(mesh);
  let hard = 0;
  let unsplit = 0;
  for (let e = 0; e < edges.count; e++) {
    if (!mesh.hard[edges.first[e]]) continue;
    hard++;
    if (mesh.uvs && edges.uses[e] === 2 && !mesh.seams?.[edges.first[e]])
      unsplit++;
  }
  return { hard, unsplit };
}

/**
 * Shades the chosen game meshes by new hard edges and reports what that came to.
 * @param marksOf gives cornerCount marks of hard edges
 */
export const shadeParts = (
  asset: Asset,
  chosen: ReadonlySet<string>,
  marksOf: (mesh: Mesh, part: string) => Uint8Array,
  weights?: NormalWeights,
): OperationResult =>
  changeShading(asset, chosen, (mesh, part) =>
    withHardEdges(mesh, marksOf(mesh, part), weights),
  );

/** Changes the chosen game meshes' shading and reports hard edges and what they cost in vertices. */
export function changeShading(
  asset: Asset,
  chosen: ReadonlySet<string>,
  change: (mesh: Mesh, part: string) => Mesh,
): OperationResult {
  const next = mapParts(asset, (part) =>
    part.game && chosen.has(part.name)
      ? { ...part, game: change(part.game, part.name) }
      : part,
  );
  const split = (of: Asset) =>
    of.parts.reduce(
      (sum, { game }) => sum + (game ? engineVertices(game).split : 0),
      0,
    );
  const counts = next.parts.flatMap((part) =>
    part.game
      ? [
          {
            part: part.name,
            ...countHard(part.game),
            ...engineVertices(part.game),
          },
        ]
      : [],
  );
  const sum = (of: (each: (typeof counts)[number]) => number) =>
    counts.reduce((total, each) => total + of(each), 0);
  const hard = sum((each) => each.hard);
  return {
    asset: next,
    headline: `${spaced(hard)} hard`,
    report: {
      hardEdges: hard,
      hardWithoutSplit: sum((each) => each.unsplit),
      vertices: sum((each) => each.split),
      verticesBefore: split(asset),
      places: sum((each) => each.places),
      parts: counts,
    },
  };
}
