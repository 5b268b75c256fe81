import { toDocument } from "../../asset/document";
import { defineOperation } from "../../asset/operation";
import { packProject } from "../../asset/project";
import { safeName } from "../../formats/raw-mesh";

class PackOptions {}

/** The asset as it is, with all that was made of it, as one archive that opens anywhere as the same asset. */
export const packAsProject = defineOperation({
  id: "ship/project",
  stage: "ship",
  title: "Pack as a project",
  about:
    "Packs the asset whole into one archive, to be kept or handed on: meshes as GLB, maps as PNG, the rest as JSON. Opened again, nothing is lost.",
  runs: "heavy",
  takes: "both",
  makesResult: false,
  changesNothing: true,
  Options: PackOptions,
  run(asset, options, context) {
    const archive = packProject(asset, context);
    let streams = 0;
    toDocument(asset, () => streams++);
    return {
      asset,
      headline: "",
      report: {
        streams,
        archiveBytes: archive.length,
        summary: `${asset.parts.length} ${asset.parts.length === 1 ? "part" : "parts"}, ${asset.maps.length} ${asset.maps.length === 1 ? "map" : "maps"}`,
      },
      files: [
        {
          name: `${safeName(asset.name, "asset")}_project.zip`,
          bytes: archive,
        },
      ],
    };
  },
});
