import type { Asset } from "../asset/asset";
import { spaced } from "../asset/asset";
import { mapParts } from "../asset/parts";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { cornerNormals } from "../mesh/normals";
import type { OperationResult } from "../operation";

/** The mesh with other hard edges, and the normals that go with them. */
export function withHardEdges(mesh: Mesh, hard: Uint8Array): Mesh {
  const marked = { ...mesh, hard };
  return { ...marked, normals: cornerNormals(marked) };
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

/** Shades the chosen game meshes by new hard edges and reports what that came to. */
export function shadeParts(
  asset: Asset,
  chosen: ReadonlySet<string>,
  marksOf: (mesh: Mesh, part: string) => Uint8Array,
): OperationResult {
  const next = mapParts(asset, (part) =>
    part.game && chosen.has(part.name)
      ? {
          ...part,
          game: withHardEdges(part.game, marksOf(part.game, part.name)),
        }
      : part,
  );
  const counts = next.parts.flatMap((part) =>
    part.game ? [{ part: part.name, ...countHard(part.game) }] : [],
  );
  const hard = counts.reduce((sum, each) => sum + each.hard, 0);
  const unsplit = counts.reduce((sum, each) => sum + each.unsplit, 0);
  return {
    asset: next,
    headline: `${spaced(hard)} hard`,
    report: { hardEdges: hard, hardWithoutSplit: unsplit, parts: counts },
  };
}
