import type { Asset } from "../../asset/asset";
import { drawnMeshes } from "../../asset/portrait";
import type { DrawnLook, DrawnMesh } from "../../asset/drawing";
import { Drawing } from "../../asset/drawing";
import { profileOf } from "../../asset/profile";
import { defineOperation, field } from "../../asset/operation";
import type { Context } from "../../base/context";
import { spanOf } from "../../base/context";
import { MissingInputError } from "../../base/errors";
import { animatedPng } from "../../formats/apng";
import { zipFiles } from "../../formats/archive";
import { flipGreen, writePng } from "../../formats/png";
import { safeName } from "../../formats/raw-mesh";
import type { Shots } from "../methods/shots";
import { givenPictures, TURN, TURN_LIMITS, turnShots } from "../methods/shots";

/** What is shown of it. */
const LOOKS: readonly { value: DrawnLook; label: string }[] = [
  { value: "baked", label: "with its maps" },
  { value: "plain", label: "plain" },
  { value: "wire", label: "its triangles" },
  { value: "checker", label: "checker" },
];
/** A turn takes this long, seconds. */
const SECONDS = 4;

class TurntableOptions {
  @field({
    kind: "integer",
    label: "Pictures",
    help: "Pictures of a whole turn.",
    ...TURN_LIMITS.frames,
  })
  frames = TURN.frames;

  @field({
    kind: "integer",
    label: "Size",
    help: "Edge of each picture.",
    unit: "px",
    ...TURN_LIMITS.size,
  })
  size = TURN.size;

  @field({
    kind: "choice",
    label: "Look",
    help: "What is shown of it.",
    choices: LOOKS,
  })
  look: DrawnLook = TURN.look;

  @field({
    kind: "number",
    label: "From above",
    help: "How steeply it is looked down on.",
    unit: "°",
    ...TURN_LIMITS.above,
  })
  above = TURN.above;
}

/** The pictures as they are drawn where there is no view. */
function drawn(
  asset: Asset,
  meshes: readonly DrawnMesh[],
  { width, height, steady, shots }: Shots,
  context: Pick<Context, "check" | "progress">,
): Uint8Array[] {
  const { greenUp } = profileOf(asset.brief);
  const drawing = new Drawing(
    meshes,
    asset.maps.flatMap((map) =>
      map.kind === "ao"
        ? [map]
        : map.kind === "normal"
          ? [greenUp ? map : flipGreen(map)]
          : [],
    ),
  );
  return shots.map(({ back, look }, f) => {
    context.check();
    context.progress(f / shots.length, "drawing");
    const pixels = drawing.draw({ back, look, width, height, steady });
    return writePng({
      ...{ kind: "normal", width, height, channels: 3, depth: 8 },
      pixels,
    });
  });
}

/** Turns the asset about its upright axis before the eye: pictures one by one, and one that moves. */
export const makeTurntable = defineOperation({
  id: "ship/turntable",
  stage: "ship",
  title: "Make a turntable",
  about:
    "Draws the asset from all round: a PNG for each step of the turn, and one animated PNG, in an archive.",
  runs: "heavy",
  takes: "game",
  makesResult: false,
  changesNothing: true,
  Options: TurntableOptions,
  run(asset, options, context) {
    const { frames, size } = options;
    const meshes = drawnMeshes(asset);
    if (!meshes.length)
      throw new MissingInputError("there is no mesh to turn about");
    const wanted = turnShots(options);
    const given = givenPictures(context.files, wanted);
    const name = safeName(asset.name, "asset");
    const pictures = given
      ? [...given.values()]
      : drawn(asset, meshes, wanted, spanOf(context, 0, 0.95));
    const files = [
      ...pictures.map((bytes, f) => ({
        name: `${name}_turn_${String(f).padStart(3, "0")}.png`,
        bytes,
      })),
      {
        name: `${name}_turn.png`,
        bytes: animatedPng(pictures, SECONDS / frames),
      },
    ];
    return {
      asset,
      headline: "",
      report: {
        pictures: frames,
        from: given ? "the view" : "drawn",
        files: files.map((file) => file.name),
        summary: `${frames} pictures of ${size} px`,
      },
      files: [
        {
          name: `${name}_turn.zip`,
          bytes: zipFiles(files, spanOf(context, 0.95, 1)),
        },
      ],
    };
  },
});
