import { join } from "node:path";
import { isArchive } from "../../core/formats/archive";
import { writeMeshFile } from "../../core/formats/index";
import { safeName } from "../../core/formats/raw-mesh";
import { UsageError } from "../arguments";
import { defineCommand } from "../command";
import { writeMaps } from "./bake";
import {
  extrasOf,
  namedMeshes,
  writeProject,
  writeWithLevels,
} from "../output";

/** Archives that hold an asset whole: every command takes one in the place of a mesh file, and writes one to --out. */
export const project = defineCommand({
  name: "project",
  words: "pack FILE… --out PROJECT.zip | unpack PROJECT.zip --out DIR",
  about:
    "an asset with all that was made of it as one archive; unpack writes its meshes and maps as files",
  flags: {
    out: {
      takes: "PLACE",
      required: true,
      about: "the archive, or the folder for what is unpacked",
    },
  },
  files: [2, 65],
  writes: ({ files, flags }) =>
    files[0] === "pack" ? [String(flags.out)] : [],
  async run(call, session) {
    const [act, ...paths] = call.files;
    const out = String(call.flags.out);
    if (act === "pack") {
      if (!isArchive(out))
        throw new UsageError(`--out ${out}: a project is a .zip`);
      await session.load(paths, "source");
      writeProject(session.files, out, session.asset);
      return { files: [out], parts: session.asset.parts.length };
    }
    if (act !== "unpack")
      throw new UsageError(`project takes pack or unpack, not "${act}"`);
    if (paths.length !== 1 || !isArchive(paths[0]))
      throw new UsageError("project unpack takes one PROJECT.zip");
    await session.load(paths, "source");
    const { asset, files } = session;
    const name = safeName(asset.name, "asset");
    const written: string[] = [];
    if (asset.parts.some(({ source }) => source)) {
      const path = join(out, `${name}_source.glb`);
      const bytes = await writeMeshFile(
        path,
        namedMeshes(asset, "source"),
        extrasOf(asset),
      );
      files.write(path, bytes);
      written.push(path);
    }
    if (asset.parts.some(({ game }) => game))
      written.push(
        ...(await writeWithLevels(
          files,
          join(out, `${name}.glb`),
          asset,
          "game",
        )),
      );
    written.push(...writeMaps(session, out).map((file) => join(out, file)));
    return { files: written, parts: asset.parts.length };
  },
});
