import { drawnMeshes } from "../../asset/portrait";
import type { DrawnLook } from "../../asset/drawing";
import { Drawing } from "../../asset/drawing";
import { profileOf } from "../../asset/profile";
import { defineOperation, field } from "../../asset/operation";
import { spanOf } from "../../base/context";
import { MissingInputError } from "../../base/errors";
import { animatedPng } from "../../formats/apng";
import { zipFiles } from "../../formats/archive";
import { flipGreen, writePng } from "../../formats/png";
import { safeName } from "../../formats/raw-mesh";

/** What is shown of it. */
const LOOKS: readonly { value: DrawnLook; label: string }[] = [
  { value: "baked", label: "with its maps" },
  { value: "plain", label: "plain" },
  { value: "wire", label: "its triangles" },
  { value: "checker", label: "checker" },
];
/** A turn takes this long, seconds. */
const TURN = 4;

class TurntableOptions {
  @field({
    kind: "integer",
    label: "Pictures",
    help: "Pictures of a whole turn.",
    min: 4,
    max: 120,
  })
  frames = 24;

  @field({
    kind: "integer",
    label: "Size",
    help: "Edge of each picture.",
    unit: "px",
    min: 64,
    max: 1024,
  })
  size = 384;

  @field({
    kind: "choice",
    label: "Look",
    help: "What is shown of it.",
    choices: LOOKS,
  })
  look: DrawnLook = "baked";

  @field({
    kind: "number",
    label: "From above",
    help: "How steeply it is looked down on.",
    unit: "°",
    min: -80,
    max: 80,
  })
  above = 18;
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
  run(asset, { frames, size, look, above }, context) {
    const meshes = drawnMeshes(asset);
    if (!meshes.length)
      throw new MissingInputError("there is no mesh to turn about");
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
    const name = safeName(asset.name, "asset");
    const tilt = (above * Math.PI) / 180;
    const pictures = Array.from({ length: frames }, (_, f) => {
      context.check();
      context.progress((0.95 * f) / frames, "drawing");
      const turn = (2 * Math.PI * f) / frames;
      const pixels = drawing.draw({
        back: [
          Math.sin(turn) * Math.cos(tilt),
          Math.sin(tilt),
          Math.cos(turn) * Math.cos(tilt),
        ],
        look,
        width: size,
        height: size,
        steady: true,
      });
      return writePng({
        kind: "normal",
        width: size,
        height: size,
        channels: 3,
        depth: 8,
        pixels,
      });
    });
    const files = [
      ...pictures.map((bytes, f) => ({
        name: `${name}_turn_${String(f).padStart(3, "0")}.png`,
        bytes,
      })),
      {
        name: `${name}_turn.png`,
        bytes: animatedPng(pictures, TURN / frames),
      },
    ];
    return {
      asset,
      headline: "",
      report: {
        pictures: frames,
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
