import { chosenParts, requireMeshes } from "../asset/asset";
import { MissingInputError } from "../errors";
import type { Mesh } from "../mesh/mesh";
import { nextCorners } from "../mesh/normals";
import { defineOperation, field } from "../operation";
import { shadeParts } from "./shade";

class MarkOptions {
  @field({
    kind: "edges",
    label: "Edges",
    help: "Edges as part:vertex-vertex.",
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
  about: "Sets the chosen edges and leaves all others as they are.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  Options: MarkOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    const wanted = new Map<string, Set<string>>();
    for (const text of options.edges) {
      const match = /^(.*):(\d+)-(\d+)$/.exec(text);
      const part = asset.parts.find((each) => each.name === match?.[1]);
      if (!match || !part?.game)
        throw new MissingInputError(
          `"${text}" is no edge of a game mesh: give part:vertex-vertex`,
        );
      const set = wanted.get(part.name) ?? new Set<string>();
      set.add(keyOf(Number(match[2]), Number(match[3])));
      wanted.set(part.name, set);
    }
    const chosen = new Set(
      [...chosenParts(asset, [])].filter((name) => wanted.has(name)),
    );
    return shadeParts(asset, chosen, (mesh, part) =>
      mark(mesh, part, wanted.get(part)!, options.to === "hard" ? 1 : 0),
    );
  },
});

const keyOf = (a: number, b: number) => (a < b ? `${a} ${b}` : `${b} ${a}`);

function mark(
  mesh: Mesh,
  part: string,
  keys: Set<string>,
  value: 0 | 1,
): Uint8Array {
  const hard = mesh.hard
    ? mesh.hard.slice()
    : new Uint8Array(mesh.corners.length);
  const next = nextCorners(mesh.faceStarts, mesh.corners.length);
  const left = new Set(keys);
  for (let c = 0; c < mesh.corners.length; c++) {
    const key = keyOf(mesh.corners[c], mesh.corners[next[c]]);
    if (!keys.has(key)) continue;
    hard[c] = value;
    left.delete(key);
  }
  if (left.size)
    throw new MissingInputError(
      `"${part}" has no edge between vertices ${[...left][0].replace(" ", " and ")}`,
    );
  return hard;
}
