import { join } from "node:path";
import { writePng } from "../../core/formats/png";
import { safeName } from "../../core/formats/raw-mesh";
import { mapFileName } from "../../core/ship/methods/tiled";
import type { Call } from "../arguments";
import { UsageError, wholeNumber } from "../arguments";
import { defineCommand } from "../command";
import type { Session } from "../session";

export const mapFlags = {
  maps: { takes: "normal,ao", about: "which maps" },
  samples: { takes: "N", about: "occlusion rays a texel" },
};

/** The options of a bake from --maps and --samples. */
export function bakeOptions(call: Call): {
  normal: boolean;
  ao: boolean;
  rays: number;
} {
  const maps = String(call.flags.maps ?? "normal,ao").split(",");
  for (const map of maps)
    if (map !== "normal" && map !== "ao")
      throw new UsageError(`--maps takes normal and ao, not "${map}"`);
  return {
    normal: maps.includes("normal"),
    ao: maps.includes("ao"),
    rays: wholeNumber(call, "samples", 64, 4, 1024),
  };
}

/** Writes the asset's maps as ASSET_MAP.png, or ASSET_MAP.UDIM.png for several sheets; returns their names. */
export function writeMaps(session: Session, folder: string): string[] {
  return session.asset.maps.map((map) => {
    const name = mapFileName(
      safeName(session.asset.name, "asset"),
      map,
      session.asset.maps,
    );
    session.files.write(join(folder, name), writePng(map));
    return name;
  });
}

export const bake = defineCommand({
  name: "bake",
  words:
    "--source FILE --game FILE --out DIR [--size 2048] [--maps normal,ao] [--samples N]",
  about: "maps from source to game mesh, as PNG",
  flags: {
    source: { takes: "FILE", required: true, about: "the high-detail mesh" },
    game: {
      takes: "FILE",
      required: true,
      about: "the unwrapped low-polygon mesh",
    },
    out: { takes: "DIR", required: true, about: "folder for the maps" },
    size: { takes: "PX", about: "edge of the maps" },
    ...mapFlags,
  },
  files: 0,
  async run(call, session) {
    const options = bakeOptions(call);
    session.brief({ sheetSize: wholeNumber(call, "size", 2048, 16, 8192) });
    await session.load(String(call.flags.source), "source");
    await session.load(String(call.flags.game), "game");
    const { report } = await session.run("bake/maps", options);
    return { ...report, files: writeMaps(session, String(call.flags.out)) };
  },
});
