import type { ReferencePicture } from "../../base/pictures";
import { MissingInputError } from "../../base/errors";
import { pictureSize } from "../../formats/picture";
import { distinctNames, safeName } from "../../formats/raw-mesh";
import { defineOperation, field } from "../../asset/operation";
import { boundsOf } from "../../space/bounds";

const PLANES = [
  { value: "front", label: "front, facing z" },
  { value: "side", label: "side, facing x" },
  { value: "top", label: "lying, facing up" },
] as const;

class AddOptions {
  @field({
    kind: "choice",
    label: "Plane",
    help: "Which way the picture faces.",
    choices: PLANES,
  })
  plane: ReferencePicture["plane"] = "front";
}

export const addReference = defineOperation({
  id: "intake/add-reference",
  stage: "intake",
  title: "Add reference pictures",
  about:
    "Puts PNG or JPEG pictures on planes in the view, as high as the asset; they are kept with it and never shipped.",
  runs: "heavy",
  takes: "source",
  asks: "pictures",
  makesResult: false,
  Options: AddOptions,
  run(asset, options, context) {
    if (!context.files?.length)
      throw new MissingInputError("there is no picture to add");
    const { min, max } = boundsOf(
      ...asset.parts.flatMap((part) =>
        [part.source, part.game].flatMap((mesh) =>
          mesh ? [mesh.positions] : [],
        ),
      ),
    );
    const empty = min[0] > max[0];
    const references = [...asset.references];
    for (const { name, bytes } of context.files) {
      const size = pictureSize(name, bytes);
      const known = references.map((each) => each.name);
      references.push({
        name: distinctNames([...known, safeName(name, "picture")]).at(-1)!,
        ...size,
        plane: options.plane,
        size: empty ? 1 : Math.max(0.01, max[1] - min[1]),
        at: empty ? [0, 0, 0] : behind(options.plane, min, max),
        opacity: 0.6,
        bytes: bytes.slice(),
      });
    }
    const added = references.length - asset.references.length;
    return {
      asset: { ...asset, references },
      headline: "",
      report: {
        added,
        summary: `${added} ${added === 1 ? "picture" : "pictures"} added`,
      },
    };
  },
});

/** Where a plane stands so that the asset stands before it. */
function behind(
  plane: ReferencePicture["plane"],
  min: readonly number[],
  max: readonly number[],
): [number, number, number] {
  const middle = (k: number) => (min[k] + max[k]) / 2;
  if (plane === "front") return [middle(0), min[1], min[2]];
  if (plane === "side") return [min[0], min[1], middle(2)];
  return [middle(0), min[1], max[2]];
}

class EditOptions {
  @field({ kind: "text", label: "Picture", help: "Which picture.", max: 80 })
  picture = "";

  @field({
    kind: "choice",
    label: "Plane",
    help: "Which way it faces.",
    choices: PLANES,
  })
  plane: ReferencePicture["plane"] = "front";

  @field({
    kind: "number",
    label: "Height",
    help: "How high the picture stands in the world.",
    unit: "m",
    min: 0.001,
    max: 1000,
    step: 0.01,
  })
  size = 1;

  @field({
    kind: "number",
    label: "To the right",
    help: "Middle of the lower edge.",
    unit: "m",
    min: -1000,
    max: 1000,
    step: 0.01,
  })
  x = 0;

  @field({
    kind: "number",
    label: "Upwards",
    help: "Lower edge.",
    unit: "m",
    min: -1000,
    max: 1000,
    step: 0.01,
  })
  y = 0;

  @field({
    kind: "number",
    label: "To the front",
    help: "Middle of the lower edge.",
    unit: "m",
    min: -1000,
    max: 1000,
    step: 0.01,
  })
  z = 0;

  @field({
    kind: "number",
    label: "Opacity",
    help: "0 can't be seen, 1 hides what is behind.",
    min: 0,
    max: 1,
    step: 0.05,
  })
  opacity = 0.6;

  @field({
    kind: "flag",
    label: "Take away",
    help: "Takes the picture out of the asset.",
  })
  remove = false;
}

export const editReference = defineOperation({
  id: "intake/edit-reference",
  stage: "intake",
  title: "Place a reference picture",
  about:
    "Sets plane, height, place and opacity of a reference picture, or takes it away.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: EditOptions,
  run(asset, options) {
    const at = asset.references.findIndex(
      ({ name }) => name === options.picture,
    );
    if (at < 0)
      throw new MissingInputError(`there is no picture "${options.picture}"`);
    const references = options.remove
      ? asset.references.filter((_, i) => i !== at)
      : asset.references.map((each, i) =>
          i === at
            ? {
                ...each,
                plane: options.plane,
                size: options.size,
                at: [options.x, options.y, options.z] as const,
                opacity: options.opacity,
              }
            : each,
        );
    return {
      asset: { ...asset, references },
      headline: "",
      report: {
        pictures: references.length,
        summary: options.remove ? "picture taken away" : "picture placed",
      },
    };
  },
});
