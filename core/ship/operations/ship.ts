import { zipFiles } from "../../formats/archive";
import { safeName } from "../../formats/raw-mesh";
import { defineOperation } from "../../asset/operation";
import { INPUTS } from "../../asset/stale";
import { spanOf } from "../../base/context";
import { shipFiles } from "../methods/ship-files";
import { formerShipOptions, ShipOptions } from "../methods/ship-options";
import { givenPictures, shotsFor } from "../methods/shots";

export const shipAsset = defineOperation({
  id: "ship/archive",
  stage: "ship",
  title: "Ship",
  about:
    "Writes GLB, OBJ, maps, levels of detail and a report, holds them against the check list, reads them again, and packs all into one archive.",
  runs: "heavy",
  takes: "game",
  makesResult: true,
  madeFrom: ({ instances }) => [
    ...INPUTS.ship,
    ...(instances ? (["repeats"] as const) : []),
  ],
  // That once, and knowing what failed.
  forOnce: ["insist"],
  formerly: formerShipOptions,
  Options: ShipOptions,
  async run(asset, options, context) {
    const wanted = shotsFor("ship/archive", { ...options });
    const pictures = wanted && givenPictures(context.files, wanted);
    context.progress(0, "writing files");
    const { files, report } = await shipFiles(
      asset,
      options,
      spanOf(context, 0, 0.9),
      pictures,
    );
    const archive = zipFiles(files, spanOf(context, 0.9, 1));
    const name = safeName(asset.name, "asset");
    return {
      asset,
      headline: report.failed ? "not shipped" : `${files.length} files`,
      report: {
        ...report,
        files: files.map((file) => ({
          name: file.name,
          bytes: file.bytes.length,
        })),
        archiveBytes: archive.length,
      },
      files: [{ name: `${name}.zip`, bytes: archive }],
    };
  },
});
