import { chosenParts, requireMeshes } from "../../asset/asset";
import { edgesByPart, marksOfEdges } from "../../asset/chosen-edges";
import { chosenFaces, FaceOptions } from "../../asset/chosen-faces";
import { onGames } from "../../asset/other-mesh";
import { MissingInputError } from "../../base/errors";
import { edgesOfFaces } from "../../mesh/edges-of-faces";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { defineOperation, field } from "../../asset/operation";
import { changeShading, withHardEdges } from "../methods/shade";

class MarkOptions extends FaceOptions {
  @field({
    kind: "edges",
    label: "Edges",
    help: "Edges as part:vertex-vertex. Where faces are chosen instead: hard round them, smooth within them.",
  })
  edges: string[] = [];

  @field({
    kind: "choice",
    label: "Make them",
    help: "Hard edges part the shading, smooth ones carry it on.",
    choices: [
      { value: "hard", label: "hard" },
      { value: "smooth", label: "smooth" },
    ],
  })
  to: "hard" | "smooth" = "hard";
}

export const markEdges = defineOperation({
  id: "edges/mark",
  stage: "edges",
  title: "Mark edges hard or smooth",
  about:
    "Sets chosen edges, or those of chosen faces, and leaves all others as they are.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "edges/weigh-normals",
  Options: MarkOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    const value = options.to === "hard" ? 1 : 0;
    const wanted = new Map<string, Uint8Array>();
    for (const [name, keys] of edgesByPart(asset, options.edges))
      wanted.set(
        name,
        marksOfEdges(
          asset.parts.find((part) => part.name === name)!.game!,
          name,
          keys,
        ),
      );
    if (options.faces.length)
      for (const { part, mesh, marks } of chosenFaces(
        asset,
        onGames(asset, options),
      ))
        wanted.set(part.name, edgesOfFaces(mesh, marks, !value));
    if (!wanted.size) throw new MissingInputError("no edges are chosen");
    const chosen = new Set(
      [...chosenParts(asset, [])].filter((name) => wanted.has(name)),
    );
    return changeShading(asset, chosen, (mesh, part) =>
      markedAnew(mesh, wanted.get(part)!, value),
    );
  },
});

/** Other marks on some edges; normals that the mesh has stay but at the ends of those that change. */
function markedAnew(mesh: Mesh, marks: Uint8Array, value: 0 | 1): Mesh {
  const { corners, faceStarts, normals } = mesh;
  const hard = Uint8Array.from(marks, (mark, c) =>
    mark ? value : (mesh.hard?.[c] ?? 0),
  );
  const shaded = withHardEdges(mesh, hard);
  if (!normals || !shaded.normals) return shaded;
  const touched = new Uint8Array(mesh.positions.length / 3);
  for (let f = 0; f < faceCount(mesh); f++)
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++)
      if (hard[c] !== (mesh.hard?.[c] ?? 0))
        touched[corners[c]] = touched[
          corners[c + 1 < faceStarts[f + 1] ? c + 1 : faceStarts[f]]
        ] = 1;
  return {
    ...shaded,
    normals: shaded.normals.map((x, i) =>
      touched[corners[(i / 3) | 0]] ? x : normals[i],
    ),
  };
}
