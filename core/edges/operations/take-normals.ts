import type { Asset } from "../../asset/asset";
import { chosenParts, partOf, requireMeshes } from "../../asset/asset";
import { chosenFaces } from "../../asset/chosen-faces";
import { onGames } from "../../asset/other-mesh";
import { GameOptions } from "../../asset/worked-meshes";
import { MissingInputError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { cornerNormals } from "../../mesh/normals";
import { triangulate } from "../../mesh/triangulate";
import { defineOperation, field } from "../../asset/operation";
import { boundsOf } from "../../space/bounds";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { RayScene, widen } from "../../space/ray-scene";
import { changeShading, withHardEdges } from "../methods/shade";

class TakeNormalsOptions extends GameOptions {
  @field({
    kind: "choice",
    label: "From",
    help: "Whose normals the chosen game meshes take.",
    choices: [
      { value: "source", label: "the source" },
      { value: "sphere", label: "a sphere round it" },
      { value: "box", label: "a rounded box round it" },
      { value: "part", label: "another part" },
    ],
  })
  from: "source" | "sphere" | "box" | "part" = "source";

  @field({
    kind: "text",
    label: "Part",
    help: "Name of that other part.",
    folded: true,
  })
  part = "";

  @field({
    kind: "choice",
    label: "Match by",
    help: "Which place of the other mesh belongs to a corner: the nearest one, or the one straight ahead.",
    choices: [
      { value: "nearest", label: "nearest place" },
      { value: "direction", label: "along the normal" },
    ],
  })
  by: "nearest" | "direction" = "nearest";

  @field({
    kind: "number",
    label: "Strength",
    help: "0 keeps the own normals, 1 takes the others.",
    min: 0,
    max: 1,
    step: 0.1,
  })
  strength = 1;
}

export const takeNormals = defineOperation({
  id: "edges/take-normals",
  stage: "edges",
  title: "Take normals from elsewhere",
  about:
    "Gives chosen faces the normals of the source, a sphere, a rounded box or another part, with strength; they stay through later steps. For foliage and cards.",
  runs: "instant",
  takes: "both",
  makesResult: false,
  updates: "edges/weigh-normals",
  Options: TakeNormalsOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    const faces = facesByPart(asset, options);
    const chosen = faces
      ? new Set(faces.keys())
      : chosenParts(asset, options.parts);
    const other =
      options.from === "part" ? partOf(asset, options.part).game : null;
    if (options.from === "part" && !other)
      throw new MissingInputError(
        `${options.part} has no game mesh to take normals from`,
      );
    return changeShading(asset, chosen, (mesh, name) => {
      const marks = faces?.get(name) ?? new Uint8Array(faceCount(mesh)).fill(1);
      const { source } = partOf(asset, name);
      if (options.from === "source" && !source)
        throw new MissingInputError(
          `${name} has no source to take normals from`,
        );
      const normalAt =
        options.from === "sphere" || options.from === "box"
          ? roundNormals(mesh, options.from)
          : meshNormals(
              options.from === "source" ? source! : other!,
              options.by,
            );
      return blended(mesh, marks, options.strength, normalAt);
    });
  },
});

class DropNormalsOptions extends GameOptions {}

export const dropNormals = defineOperation({
  id: "edges/drop-normals",
  stage: "edges",
  title: "Own normals again",
  about: "Lets normals that were taken from elsewhere follow the mesh again.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "edges/weigh-normals",
  Options: DropNormalsOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    const faces = facesByPart(asset, options);
    const chosen = faces
      ? new Set(faces.keys())
      : chosenParts(asset, options.parts);
    return changeShading(asset, chosen, (mesh, name) => {
      const marks = faces?.get(name);
      const still = marks && mesh.ownNormals?.map((own, f) => own & ~marks[f]);
      return withHardEdges(
        { ...mesh, ownNormals: still?.includes(1) ? still : null },
        mesh.hard ?? new Uint8Array(mesh.corners.length),
      );
    });
  },
});

/** For each part with chosen faces the marks on its game mesh; null where none are chosen. */
const facesByPart = (asset: Asset, options: GameOptions) =>
  options.faces.length
    ? new Map(
        chosenFaces(asset, onGames(asset, options)).map(({ part, marks }) => [
          part.name,
          marks,
        ]),
      )
    : null;

/** Normal for a place and the direction there. */
type NormalAt = (place: Float32Array, own: Float32Array) => readonly number[];

function blended(
  mesh: Mesh,
  marks: ArrayLike<number>,
  strength: number,
  normalAt: NormalAt,
): Mesh {
  const normals = (mesh.normals ?? cornerNormals(mesh)).slice();
  const ownNormals =
    mesh.ownNormals?.slice() ?? new Uint8Array(faceCount(mesh));
  for (let f = 0; f < faceCount(mesh); f++) {
    if (!marks[f]) continue;
    ownNormals[f] = 1;
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      const v = 3 * mesh.corners[c];
      const own = normals.slice(3 * c, 3 * c + 3);
      const taken = normalAt(mesh.positions.subarray(v, v + 3), own);
      const mixed = [0, 1, 2].map(
        (k) => (1 - strength) * own[k] + strength * taken[k],
      );
      const size = Math.hypot(...mixed);
      if (size > 1e-9)
        for (let k = 0; k < 3; k++) normals[3 * c + k] = mixed[k] / size;
    }
  }
  return { ...mesh, normals, ownNormals };
}

/** Outwards from the middle, or outwards in each axis from the inner half of the bounds. */
function roundNormals(mesh: Mesh, shape: "sphere" | "box"): NormalAt {
  const { min, max } = boundsOf(mesh.positions);
  const middle = [0, 1, 2].map((k) => (min[k] + max[k]) / 2);
  const half = [0, 1, 2].map((k) =>
    shape === "box" ? (max[k] - min[k]) / 4 : 0,
  );
  return (place, own) => {
    const away = [0, 1, 2].map((k) => {
      const d = place[k] - middle[k];
      return Math.sign(d) * Math.max(0, Math.abs(d) - half[k]);
    });
    const size = Math.hypot(...away);
    return size > 1e-9 ? away.map((x) => x / size) : [...own];
  };
}

function meshNormals(mesh: Mesh, by: "nearest" | "direction"): NormalAt {
  const split = triangulate(mesh);
  const normals = mesh.normals ?? cornerNormals(mesh);
  const bvh = buildBvh(mesh.positions, split.vertices);
  const closest = new ClosestPoint(bvh);
  const rays = by === "direction" ? new RayScene([widen(bvh)]) : null;
  const { min, max } = boundsOf(mesh.positions);
  const far = Math.hypot(...[0, 1, 2].map((k) => max[k] - min[k]));
  return (place, own) => {
    let [x, y, z] = place;
    if (rays) {
      // From either side along the own normal: the nearer hit counts.
      let least = Infinity;
      for (const sign of [1, -1]) {
        const t = rays.first(
          0,
          place[0],
          place[1],
          place[2],
          sign * own[0],
          sign * own[1],
          sign * own[2],
          0,
          far,
        );
        if (t < 0 || rays.distance >= least) continue;
        least = rays.distance;
        [x, y, z] = [0, 1, 2].map((k) => place[k] + sign * own[k] * least);
      }
    }
    const t = closest.find(x, y, z);
    if (t < 0) return [...own];
    const weights = [1 - closest.u - closest.v, closest.u, closest.v];
    return [0, 1, 2].map((k) =>
      weights.reduce(
        (sum, w, i) => sum + w * normals[3 * split.corners[3 * t + i] + k],
        0,
      ),
    );
  };
}
