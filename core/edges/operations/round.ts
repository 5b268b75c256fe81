import { chosenParts, requireMeshes } from "../../asset/asset";
import { edgesByPart, marksOfEdges } from "../../asset/chosen-edges";
import { defineOperation, field } from "../../asset/operation";
import { mapParts } from "../../asset/parts";
import { MissingInputError } from "../../base/errors";
import { spaced } from "../../base/wording";
import { buildEdges } from "../../mesh/edges";
import { keptRound, MOST_ROUND, NEVER_ROUND } from "../../mesh/rounds";

class RoundOptions {
  @field({
    kind: "edges",
    label: "Edges",
    help: "Edges of game meshes, as part:vertex-vertex.",
  })
  edges: string[] = [];

  @field({
    kind: "choice",
    label: "Bake them",
    help: "What bakes with round edges makes of them; the mesh stays as it is.",
    choices: [
      { value: "round", label: "round by the radius" },
      { value: "sharp", label: "sharp, whatever the others are" },
      { value: "others", label: "as all hard edges" },
    ],
  })
  to: "round" | "sharp" | "others" = "round";

  @field({
    kind: "number",
    label: "Radius",
    help: "Radius of the bevel that the normal map shows.",
    unit: "mm",
    min: 0.01,
    max: 1000 * MOST_ROUND,
  })
  radius = 2;
}

export const roundEdges = defineOperation({
  id: "edges/round",
  stage: "edges",
  title: "Round chosen edges in the bake",
  about:
    "Gives chosen edges a radius of their own, which the normal map shows as a bevel.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  Options: RoundOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    if (!options.edges.length) throw new MissingInputError("no edge is chosen");
    const wanted = edgesByPart(asset, options.edges);
    const free = chosenParts(asset, []);
    const value = {
      round: keptRound(options.radius / 1000),
      sharp: NEVER_ROUND,
      others: 0,
    }[options.to];
    let count = 0;
    const next = mapParts(asset, (part) => {
      const keys = wanted.get(part.name);
      if (!keys || !part.game || !free.has(part.name)) return part;
      const { game } = part;
      const marks = marksOfEdges(game, part.name, keys);
      const rounds = Uint16Array.from(marks, (mark, c) =>
        mark ? value : (game.rounds?.[c] ?? 0),
      );
      const { first, count: all } = buildEdges(game);
      for (let e = 0; e < all; e++) count += marks[first[e]];
      return {
        ...part,
        game: { ...game, rounds: rounds.some((each) => each) ? rounds : null },
      };
    });
    return {
      asset: next,
      headline: "",
      report: {
        edges: count,
        summary: `${spaced(count)} ${count === 1 ? "edge" : "edges"} ${
          {
            round: `round by ${options.radius} mm in the bake`,
            sharp: "sharp in the bake",
            others: "baked as all hard edges",
          }[options.to]
        }`,
      },
    };
  },
});
