import type { Asset, Part } from "./asset";
import { partOf } from "./asset";
import { MissingInputError, OptionsError } from "../base/errors";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { fromRanges } from "../base/ranges";
import type { FieldSpec } from "./operation";
import { field } from "./operation";

/** Which mesh chosen faces are of. */
export const MESH_OF_FACES: FieldSpec = {
  kind: "choice",
  label: "Meshes",
  help: "Which mesh the faces are of.",
  choices: [
    { value: "source", label: "source" },
    { value: "game", label: "game" },
  ],
  folded: true,
  from: "mesh of faces",
};

/** Options of every operation that works on chosen faces. */
export class FaceOptions {
  @field({
    kind: "faces",
    label: "Faces",
    help: "Chosen faces as part:ranges, such as lamp:0-120,130.",
  })
  faces: string[] = [];

  @field(MESH_OF_FACES)
  mesh: "source" | "game" = "source";
}

export interface ChosenFaces {
  part: Part;
  mesh: Mesh;
  marks: Uint8Array;
  count: number;
}

/**
 * The chosen faces by part.
 * @throws OptionsError for a selection that can't be read, MissingInputError for an empty one or a locked part
 */
export function chosenFaces(asset: Asset, options: FaceOptions): ChosenFaces[] {
  const found = options.faces.map((text) => {
    const at = text.lastIndexOf(":");
    if (at < 1)
      throw new OptionsError("selection", {
        faces: `"${text.slice(0, 40)}" is not part:ranges`,
      });
    const part = partOf(asset, text.slice(0, at));
    const mesh = part[options.mesh];
    if (!mesh)
      throw new MissingInputError(`${part.name} has no ${options.mesh} mesh`);
    if (part.locked) throw new MissingInputError(`${part.name} is locked`);
    if (part.repeat)
      throw new MissingInputError(
        `${part.name} repeats ${part.repeat.of}: change that one, or unlink it first`,
      );
    const marks = fromRanges(text.slice(at + 1), faceCount(mesh));
    return {
      part,
      mesh,
      marks,
      count: marks.reduce((sum, mark) => sum + mark, 0),
    };
  });
  if (!found.some(({ count }) => count))
    throw new MissingInputError("no faces are chosen");
  return found;
}
