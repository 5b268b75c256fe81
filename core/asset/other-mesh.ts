import { MissingInputError } from "../base/errors";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { indicesOf, toRanges } from "../base/ranges";
import { triangulate } from "../mesh/triangulate";
import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import type { Asset, Part } from "./asset";
import type { FaceOptions } from "./chosen-faces";
import { chosenFaces } from "./chosen-faces";
import { facesStandingFor } from "../mesh/standing-for";

/**
 * Faces chosen on either mesh as those of the source: for game faces, what they stand for.
 * @throws MissingInputError where a part lacks the other mesh
 */
export function onSources(asset: Asset, options: FaceOptions): FaceOptions {
  return onOther(asset, options, "source", ({ source }, mesh, marks) =>
    nearestFaces(mesh, marks, source!),
  );
}

/** Faces chosen on either mesh as those of the game mesh: for source faces, what stands for them. */
export function onGames(asset: Asset, options: FaceOptions): FaceOptions {
  return onOther(asset, options, "game", ({ game }, mesh, marks) =>
    facesStandingFor(mesh, marks, game!),
  );
}

function onOther(
  asset: Asset,
  options: FaceOptions,
  which: "source" | "game",
  other: (part: Part, mesh: Mesh, marks: Uint8Array) => Uint8Array,
): FaceOptions {
  if (options.mesh === which) return { faces: options.faces, mesh: which };
  const faces = chosenFaces(asset, options).map(({ part, mesh, marks }) => {
    if (!part[which])
      throw new MissingInputError(`${part.name} has no ${which} mesh`);
    return `${part.name}:${toRanges(indicesOf(other(part, mesh, marks)))}`;
  });
  return { faces, mesh: which };
}

/** Faces of one mesh whose middle lies nearest to a marked face of another. */
function nearestFaces(mesh: Mesh, marks: Uint8Array, other: Mesh): Uint8Array {
  const split = triangulate(mesh);
  const closest = new ClosestPoint(buildBvh(mesh.positions, split.vertices));
  const found = new Uint8Array(faceCount(other));
  for (let f = 0; f < found.length; f++) {
    const [s, e] = [other.faceStarts[f], other.faceStarts[f + 1]];
    const at = [0, 0, 0];
    for (let c = s; c < e; c++)
      for (let k = 0; k < 3; k++)
        at[k] += other.positions[3 * other.corners[c] + k] / (e - s);
    const t = closest.find(at[0], at[1], at[2]);
    if (t >= 0 && marks[split.faces[t]]) found[f] = 1;
  }
  return found;
}
