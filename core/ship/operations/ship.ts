import { zipSync } from "fflate";
import { safeName } from "../../formats/raw-mesh";
import { defineOperation } from "../../asset/operation";
import { spanOf } from "../../base/context";
import { shipFiles } from "../methods/ship-files";
import { ShipOptions } from "../methods/ship-options";

export const shipAsset = defineOperation({
  id: "ship/archive",
  stage: "ship",
  title: "Ship",
  about:
    "Writes GLB, OBJ, maps, levels of detail and a report, holds them against the check list, reads them again, and packs all into one archive.",
  runs: "heavy",
  takes: "game",
  makesResult: true,
  Options: ShipOptions,
  async run(asset, options, context) {
    context.progress(0, "writing files");
    const { files, report } = await shipFiles(
      asset,
      options,
      spanOf(context, 0, 0.9),
    );
    context.check();
    context.progress(0.9, "packing the archive");
    const name = safeName(asset.name, "asset");
    const archive = zipSync(
      Object.fromEntries(
        files.map((file) => [
          file.name,
          [file.bytes, { mtime: new Date(2020, 0, 1) }],
        ]),
      ),
      { level: 6 },
    );
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
