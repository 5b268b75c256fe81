import { chosenParts, requireMeshes } from "../asset/asset";
import { edgesByPart, marksOfEdges } from "../asset/chosen-edges";
import { chosenFaces, FaceOptions } from "../asset/chosen-faces";
import { onGames } from "../asset/other-mesh";
import { MissingInputError } from "../errors";
import { edgesOfFaces } from "../mesh/edges-of-faces";
import { defineOperation, field } from "../operation";
import { shadeParts } from "./shade";

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
  refreshes: "edges/weigh-normals",
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
    return shadeParts(asset, chosen, (mesh, part) => {
      const marks = wanted.get(part)!;
      return Uint8Array.from(marks, (mark, c) =>
        mark ? value : (mesh.hard?.[c] ?? 0),
      );
    });
  },
});
