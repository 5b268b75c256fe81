import { MissingInputError } from "../../base/errors";
import { defineOperation } from "../../asset/operation";
import { isArchive } from "../../formats/archive";
import { unpackProject } from "../../asset/project";

class OpenOptions {}

/**
 * Takes a project archive in the place of an asset that has nothing in it yet.
 * @throws MissingInputError where no archive came, or the asset has parts: a project opens beside it, never over it
 */
export const openProject = defineOperation({
  id: "intake/open-project",
  stage: "intake",
  title: "Open a project",
  about:
    "Reads a project archive: the asset comes as it was packed, with its parts, marks, maps and figures.",
  runs: "heavy",
  takes: "both",
  asks: "project",
  makesResult: false,
  Options: OpenOptions,
  run(asset, options, context) {
    const { files = [] } = context;
    if (files.length !== 1 || !isArchive(files[0].name))
      throw new MissingInputError("one project archive (.zip) is to be opened");
    if (asset.parts.length)
      throw new MissingInputError(
        `${asset.name} has parts already: open the project from the first page, as an asset of its own`,
      );
    const [{ name, bytes }] = files;
    context.progress(0.05, `reading ${name}`);
    const opened = unpackProject(name, bytes, () => context.check());
    return {
      asset: opened,
      headline: "",
      report: {
        parts: opened.parts.length,
        maps: opened.maps.length,
        summary: opened.name,
      },
    };
  },
});
