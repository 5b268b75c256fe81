import { MissingInputError } from "../base/errors";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { joinMeshes, keepFaces } from "../mesh/change-faces";
import { invert } from "../mesh/select";
import { settledOf } from "../settle/settled-of";
import { field } from "./operation";
import type { Asset, Part } from "./asset";
import { chosenParts } from "./asset";
import { chosenFaces, FaceOptions, MESH_OF_FACES } from "./chosen-faces";
import { mapParts } from "./parts";
import type { Input } from "./stale";
import { facesStandingFor } from "../mesh/standing-for";

/** Options of operations on whole parts, or on chosen faces where there are any. */
export class PieceOptions extends FaceOptions {
  @field({
    kind: "parts",
    label: "Parts",
    help: "Which parts, where no face is chosen; empty for all.",
  })
  parts: string[] = [];
}

/** The same where faces are of the game mesh unless said otherwise. */
export class GameOptions extends PieceOptions {
  @field(MESH_OF_FACES)
  override mesh: "source" | "game" = "game";
}

/** The same where either mesh can be worked on. */
export class WorkedOptions extends PieceOptions {
  @field({
    kind: "choice",
    label: "Made from",
    help: "Which mesh is worked on; the result is the game mesh. Where faces are chosen, the mesh they are of.",
    choices: [
      { value: "source", label: "the source" },
      { value: "game", label: "the game mesh" },
    ],
    folded: true,
    from: "mesh of faces",
    orAsked: true,
  })
  override mesh: "source" | "game" = "source";
}

/** What results are made from that come of working over whole sources. */
export const REMADE_FROM: readonly Input[] = [
  "names of parts",
  "source meshes",
  "how sources are settled",
  "what is only baked",
  "source materials",
  "source IDs",
  "repeats",
];

/** A mesh to be worked on, and how what was made of it comes into the part. */
export interface Worked {
  part: Part;
  mesh: Mesh;
  /** Marks of the part's faces where only some are worked on. */
  marks: Uint8Array | null;
}

/**
 * Whole meshes of the chosen parts, or what of them is chosen. Of a whole source what is only baked stays out, and the
 * rest is settled. @throws MissingInputError where there are none
 */
export function workedMeshes(asset: Asset, options: PieceOptions): Worked[] {
  if (options.faces.length)
    return chosenFaces(asset, options).map(({ part, mesh, marks }) => ({
      part,
      mesh: keepFaces(mesh, marks),
      marks,
    }));
  const chosen = chosenParts(asset, options.parts);
  const found = asset.parts.flatMap((part) => {
    if (!chosen.has(part.name)) return [];
    const mesh = options.mesh === "game" ? part.game : workedSource(part);
    return mesh ? [{ part, mesh, marks: null }] : [];
  });
  if (!found.length)
    throw new MissingInputError(`no chosen part has a ${options.mesh} mesh`);
  return found;
}

/** A part's settled source without what is only baked, or null where nothing is left of it. */
function workedSource({ source }: Part): Mesh | null {
  const mesh = source && settledOf(source).mesh;
  if (!mesh?.sourceOnly) return mesh;
  const shown = keepFaces(mesh, invert(mesh.sourceOnly));
  return faceCount(shown) ? shown : null;
}

/** Names of the parts that are worked on. */
export const namesOf = (worked: readonly Worked[]): Set<string> =>
  new Set(worked.map(({ part }) => part.name));

/**
 * Puts what was made into the parts: as their game meshes, or in the place of what stands for the worked faces.
 * @param made one for each worked mesh; null takes out
 */
export function replaceFaces(
  asset: Asset,
  worked: readonly Worked[],
  made: readonly (Mesh | null)[],
  which: "source" | "game",
): Asset {
  return mapParts(asset, (part) => {
    const at = worked.findIndex((each) => each.part === part);
    if (at < 0) return part;
    const { marks } = worked[at];
    const own = made[at];
    if (!marks) return { ...part, game: own, standIns: [] };
    return { ...part, game: exchanged(part, marks, own, which) };
  });
}

/**
 * A part's game mesh with something else in the place of what stands for some faces of one of its meshes.
 * @param marks faceCount of the mesh named by `which`: 1 for faces that are replaced
 */
export function exchanged(
  part: Part,
  marks: Uint8Array,
  made: Mesh | null,
  which: "source" | "game",
): Mesh | null {
  if (!part.game) return made;
  const gone =
    which === "game" ? marks : facesStandingFor(part.source!, marks, part.game);
  const keep = gone.map((mark) => 1 - mark);
  const left = keep.some((k) => k) ? keepFaces(part.game, keep) : null;
  const meshes = [left, made].flatMap((mesh) =>
    mesh && faceCount(mesh) ? [mesh] : [],
  );
  return meshes.length ? joinMeshes(meshes) : null;
}
