import { MissingInputError } from "../../base/errors";
import { buildEdges } from "../../mesh/edges";
import { faceOfCorners } from "../../mesh/mesh";
import type { Mesh } from "../../mesh/mesh";
import { defineOperation, field } from "../../asset/operation";
import { meshesResult } from "../methods/change-islands";
import { chosenGames, IslandOptions } from "../methods/island-options";
import { islandsOf } from "../methods/connected-islands";
import { sheetOf } from "../methods/sheet";
import { unfoldSeams } from "../methods/unfold-seams";

class JoinSmallOptions extends IslandOptions {
  @field({
    kind: "integer",
    label: "Faces at most",
    help: "Islands of no more faces are joined to the neighbour they share most border with.",
    min: 1,
    max: 1000,
  })
  most = 2;
}

export const joinSmall = defineOperation({
  id: "unwrap/join-small",
  stage: "unwrap",
  title: "Join small islands",
  about:
    "Takes the longest seam of islands of a few faces away and unfolds them with their neighbour.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: JoinSmallOptions,
  run(asset, options) {
    const games = chosenGames(asset, options, true);
    const sheet = sheetOf(asset);
    let joined = 0;
    const meshes = games.map(({ mesh, marks }) => {
      const found = withoutSmall(mesh, marks, options.most);
      joined += found.joined;
      return found.joined ? unfoldSeams(found.mesh, sheet).mesh : mesh;
    });
    if (!joined)
      throw new MissingInputError(
        `no chosen island of ${options.most} faces or fewer has a neighbour across a seam`,
      );
    return meshesResult(
      asset,
      games.map(({ name }) => name),
      meshes,
      sheet,
      { joined },
    );
  },
});

function withoutSmall(mesh: Mesh, marks: Uint8Array, most: number) {
  const { count, ofFace } = islandsOf(mesh);
  const sizes = new Uint32Array(count);
  for (const i of ofFace) sizes[i]++;
  const edges = buildEdges(mesh);
  const face = faceOfCorners(mesh);
  const shared = new Map<string, { length: number; edges: number[] }>();
  const p = mesh.positions;
  for (let e = 0; e < edges.count; e++) {
    const [c, d] = [edges.first[e], edges.second[e]];
    if (d < 0 || edges.uses[e] !== 2 || mesh.hard?.[c]) continue;
    const [one, other] = [ofFace[face[c]], ofFace[face[d]]];
    if (one === other) continue;
    for (const [own, next, f] of [
      [one, other, face[c]],
      [other, one, face[d]],
    ]) {
      if (sizes[own] > most || !marks[f]) continue;
      const key = `${own} ${next}`;
      const [v, w] = [3 * edges.vertices[2 * e], 3 * edges.vertices[2 * e + 1]];
      const row = shared.get(key) ?? { length: 0, edges: [] };
      row.length += Math.hypot(
        p[v] - p[w],
        p[v + 1] - p[w + 1],
        p[v + 2] - p[w + 2],
      );
      row.edges.push(e);
      shared.set(key, row);
    }
  }
  const best = new Map<number, { length: number; edges: number[] }>();
  for (const [key, row] of shared) {
    const own = Number(key.split(" ")[0]);
    if (row.length > (best.get(own)?.length ?? 0)) best.set(own, row);
  }
  const seams = mesh.seams!.slice();
  const cuts = mesh.seamOverrides?.slice() ?? null;
  for (const { edges: list } of best.values())
    for (const e of list)
      for (const c of [edges.first[e], edges.second[e]]) {
        seams[c] = 0;
        if (cuts?.[c] === 1) cuts[c] = 0;
      }
  return { mesh: { ...mesh, seams, seamOverrides: cuts }, joined: best.size };
}
