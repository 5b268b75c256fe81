import type { Part } from "../../asset/asset";
import { requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { chosenFaces } from "../../asset/chosen-faces";
import { mapParts } from "../../asset/parts";
import {
  REMADE_FROM,
  workedMeshes,
  WorkedOptions,
} from "../../asset/worked-meshes";
import { MissingInputError, OptionsError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import { triangleCount } from "../../mesh/mesh";
import type { Neighbours } from "../../mesh/select";
import { edgeLoop, edgeRing, neighboursOf } from "../../mesh/select";
import {
  collapseEdges,
  dissolveEdges,
  slideLoops,
  thinLoops,
} from "../../remesh/thin-loops";
import { defineOperation, field } from "../../asset/operation";
import { JUDGED, judgeAsset } from "./judge";

class ThinOptions extends WorkedOptions {
  @field({
    kind: "integer",
    label: "Triangles",
    brief: "triangles",
    help: "Loops go until the parts keep to this together; 0 takes the brief's.",
    unit: "triangles",
    min: 0,
    max: 2000000,
  })
  triangles = 0;

  @field({
    kind: "number",
    label: "Move at most",
    empty: "any distance",
    help: "Loops whose loss moves the surface farther stay; 0 for no limit.",
    unit: "mm",
    min: 0,
    max: 10000,
    step: 0.1,
  })
  farthest = 0;
}

export const reduceByLoops = defineOperation({
  id: "reduce/thin-loops",
  stage: "reduce",
  title: "Thin loops",
  about:
    "Takes whole edge loops out of a control mesh, those first that change its shape least for the triangles they save.",
  runs: "heavy",
  takes: "source",
  makesResult: true,
  madeFrom: ({ triangles }) => [
    ...REMADE_FROM,
    "source hard edges",
    "source UVs",
    ...(triangles ? [] : (["triangle budget"] as const)),
  ],
  tellsOf: JUDGED,
  Options: ThinOptions,
  run(asset, options, context) {
    requireMeshes(asset, options.mesh);
    const start = performance.now();
    const parts = options.faces.length
      ? chosenFaces(asset, options)
      : workedMeshes(asset, options);
    const budget = options.triangles || asset.brief.triangles;
    const all = parts.reduce((sum, { mesh }) => sum + triangleCount(mesh), 0);
    let loops = 0;
    let error = 0;
    const made = new Map<string, Mesh>();
    for (const { part, mesh, marks } of parts) {
      context.progress(made.size / parts.length, `thinning ${part.name}`);
      const thin = thinLoops(
        mesh,
        Math.floor((triangleCount(mesh) * Math.min(budget, all)) / all),
        options.farthest ? options.farthest / 1000 : Infinity,
        () => context.check(),
        marks,
      );
      loops += thin.loops;
      error = Math.max(error, thin.error);
      made.set(part.name, thin.mesh);
    }
    if (!loops && all > budget)
      throw new MissingInputError(
        "no edge loop runs through these meshes that could go: they are no control meshes of quads",
      );
    const next = mapParts(asset, (part) =>
      made.has(part.name)
        ? { ...part, game: made.get(part.name)!, standIns: [] }
        : part,
    );
    const list = parts.map(({ part, mesh }) => ({
      part: part.name,
      source: triangleCount(mesh),
      triangles: triangleCount(made.get(part.name)!),
    }));
    const triangles = list.reduce((sum, part) => sum + part.triangles, 0);
    return {
      asset: next,
      headline: `${spaced(triangles)} of ${spaced(budget)}`,
      report: {
        triangles,
        budget,
        ...(triangles > budget && {
          failed: `${spaced(budget)} triangles can't be reached: ${spaced(triangles)} are left. Loops stay that run through triangles, end at poles${options.farthest ? ", or would move the surface farther than allowed" : ""}: reduce to the budget, or take loops out by hand`,
        }),
        loops,
        moved: error,
        ...judgeAsset(next, "all round", new Set(made.keys())),
        parts: list,
        seconds: (performance.now() - start) / 1000,
      },
    };
  },
});

class LoopOptions {
  @field({
    kind: "edges",
    label: "Edges",
    help: "An edge of each loop or ring, as part:vertex-vertex.",
  })
  edges: string[] = [];

  @field({
    kind: "choice",
    label: "Action",
    help: "What becomes of the loop or ring through each edge.",
    choices: [
      { value: "remove", label: "take the loop out" },
      { value: "collapse loop", label: "bring the loop to its middle" },
      { value: "collapse ring", label: "bring the ring to its middle" },
      { value: "slide one way", label: "slide the loop one way and weld" },
      {
        value: "slide the other way",
        label: "slide it the other way and weld",
      },
    ],
  })
  action:
    | "remove"
    | "collapse loop"
    | "collapse ring"
    | "slide one way"
    | "slide the other way" = "remove";

  @field({
    kind: "choice",
    label: "Mesh",
    help: "Which mesh the edges are of; the result is the game mesh.",
    choices: [
      { value: "game", label: "game" },
      { value: "source", label: "source" },
    ],
  })
  mesh: "source" | "game" = "game";
}

export const changeLoops = defineOperation({
  id: "reduce/loops",
  stage: "reduce",
  title: "Change single loops",
  about:
    "Takes out, collapses or slides the loop or ring through chosen edges.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  Options: LoopOptions,
  run(asset, options) {
    if (!options.edges.length)
      throw new MissingInputError("no edges are chosen");
    const before = new Map<string, number>();
    let saved = 0;
    let welded = 0;
    const next = mapParts(asset, (part) => {
      const corners = options.edges.flatMap((edge) =>
        cornerOf(part, edge, options.mesh),
      );
      if (!corners.length) return part;
      const mesh = part[options.mesh]!;
      before.set(part.name, triangleCount(mesh));
      const near = neighboursOf(mesh);
      const game = change(mesh, near, corners, options.action, (n) => {
        welded += n;
      });
      saved += triangleCount(mesh) - triangleCount(game);
      return { ...part, game };
    });
    if (!before.size)
      throw new MissingInputError(
        "none of the edges is in a part that is there",
      );
    return {
      asset: next,
      headline: "",
      report: {
        saved,
        welded,
        summary: welded
          ? `${spaced(saved)} triangles went, ${spaced(welded)} vertices welded`
          : `${spaced(saved)} triangles went`,
      },
    };
  },
});

type CornerOf = (near: Neighbours) => number;

function change(
  mesh: Mesh,
  near: Neighbours,
  corners: readonly CornerOf[],
  action: LoopOptions["action"],
  weld: (count: number) => void,
): Mesh {
  if (action === "slide one way" || action === "slide the other way") {
    const done = slideLoops(
      mesh,
      near,
      corners.map((corner) => corner(near)),
      action === "slide one way" ? 0 : 1,
    );
    weld(done.welded);
    return done.mesh;
  }
  const lines = corners.flatMap((corner) =>
    action === "collapse ring"
      ? edgeRing(near, corner(near))
      : edgeLoop(near, corner(near)),
  );
  const edges = [...new Set(lines)];
  return action === "remove"
    ? dissolveEdges(mesh, near, edges)
    : collapseEdges(mesh, near, edges);
}

/** @throws OptionsError for an edge that can't be read or is not there */
function cornerOf(
  part: Part,
  edge: string,
  which: "source" | "game",
): CornerOf[] {
  const match = /^(.+):(\d+)-(\d+)$/.exec(edge);
  if (!match)
    throw new OptionsError("reduce/loops", {
      edges: `"${edge.slice(0, 40)}" is not part:vertex-vertex`,
    });
  if (match[1] !== part.name) return [];
  if (part.locked) throw new MissingInputError(`${part.name} is locked`);
  if (!part[which])
    throw new MissingInputError(`${part.name} has no ${which} mesh`);
  const [a, b] = [Number(match[2]), Number(match[3])];
  return [
    ({ mesh, next }) => {
      for (let c = 0; c < mesh.corners.length; c++) {
        const [u, v] = [mesh.corners[c], mesh.corners[next[c]]];
        if ((u === a && v === b) || (u === b && v === a)) return c;
      }
      throw new OptionsError("reduce/loops", {
        edges: `${part.name} has no edge ${a}-${b}`,
      });
    },
  ];
}
