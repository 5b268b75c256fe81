import { join } from "node:path";
import type { BakeFinding } from "../../core/bake/methods/findings";
import { isArchive } from "../../core/formats/archive";
import { findingWords } from "../../core/bake/methods/findings";
import { statusPicture } from "../../core/bake/methods/status";
import type { MapKind } from "../../core/base/pictures";
import { MAP_KINDS, tellsOfBake } from "../../core/base/pictures";
import { MOST_ROUND } from "../../core/mesh/rounds";
import { writePng } from "../../core/formats/png";
import { namesBy, PLAIN_NAMES } from "../../core/ship/methods/names";
import type { Call } from "../arguments";
import {
  listed,
  oneOf,
  realNumber,
  UsageError,
  wholeNumber,
} from "../arguments";
import { briefOf, PROFILE_WORDS } from "../brief";
import { defineCommand } from "../command";
import type { Session } from "../session";

export const mapFlags = {
  maps: {
    takes: "LIST",
    about: `which maps, by commas: ${MAP_KINDS.join(" ")}; bake also angle`,
  },
  samples: { takes: "N", about: "rays a texel, for occlusion and its like" },
};

const bakeFlags = {
  ...mapFlags,
  bits: {
    takes: "8|16",
    about: "bits of each channel; 16 for normals and heights, 8 for the rest",
  },
  green: { takes: "up|down", about: "which way green points" },
  distance: {
    takes: "MM|LIST",
    about: "how far outside rays begin, of all or as part=MM;part=MM",
  },
  radius: { takes: "MM", about: "radius of round edges in the normal map" },
  parts: { takes: "LIST", about: "parts that are baked, by commas" },
  "leave-locked": {
    about: "locked parts are not baked: their islands keep what they have",
  },
  tiles: { takes: "LIST", about: "sheets that are baked, by UDIM numbers" },
  profile: {
    takes: "NAME",
    about: `delivery profile, for which way green points: ${PROFILE_WORDS}`,
  },
  dilate: { takes: "PX", about: "texels that islands run on into the ground" },
  cage: {
    takes: "FILE",
    about: "a mesh with the faces of the game mesh, from where rays begin",
  },
  spread: { about: "bakes as if parts stood far apart" },
  pairs: {
    takes: "LIST",
    about: "parts that shade each other though spread, or don't, as a+b;c+d",
  },
  catches: { takes: "LIST", about: "what parts show besides, as a:b,c;d:e" },
  pieces: { takes: "LIST", about: "parts that are baked piece by piece" },
  cards: { takes: "LIST", about: "parts that rays may go through, by commas" },
  grow: { takes: "PX", about: "texels that masks of cards grow or shrink by" },
  invert: { about: "what rays meet on cards is see-through" },
  floor: { about: "a floor under everything hides the sky from below" },
};

/** The options of a bake from --maps and --samples. @param further maps that may be named and are made otherwise */
export function bakeOptions(call: Call, further: readonly MapKind[] = []) {
  const maps = listed(call.flags.maps ?? "normal,ao").filter(
    (map) => !further.some((kind) => kind === map),
  );
  for (const map of maps)
    if (!MAP_KINDS.some((kind) => kind === map))
      throw new UsageError(
        `--maps takes ${MAP_KINDS.join(", ")}, not "${map}"`,
      );
  return {
    normal: maps.includes("normal"),
    ao: maps.includes("ao"),
    also: [...new Set(maps)].filter(
      (map) => !["normal", "ao", "status"].includes(map),
    ),
    rays: wholeNumber(call, "samples", 64, 4, 1024),
  };
}

/**
 * Writes the asset's maps as ASSET_MAP.png, or ASSET_MAP.UDIM.png for several sheets; returns their names.
 * @param withStatus whether what became of the rays is written too, and `withAngle` how far off the look is
 */
export function writeMaps(
  session: Session,
  folder: string,
  withStatus = false,
  withAngle = false,
): string[] {
  const maps = session.asset.maps.filter(
    ({ kind }) =>
      !tellsOfBake(kind) || (kind === "status" ? withStatus : withAngle),
  );
  const names = namesBy("bake/maps", session.asset.name, PLAIN_NAMES);
  const several = maps.some(({ tile }) => tile);
  return maps.map((map) => {
    const name = names.map(map.kind, several ? (map.tile ?? 0) : null);
    session.files.write(
      join(folder, name),
      writePng(map.kind === "status" ? statusPicture(map) : map),
    );
    return name;
  });
}

/** --distance: a number for all parts, or those of single ones. */
const distances = (call: Call) =>
  String(call.flags.distance ?? "").includes("=")
    ? { distances: String(call.flags.distance) }
    : { distance: realNumber(call, "distance", 0, 0, 10_000) };

export const bake = defineCommand({
  name: "bake",
  words:
    "--game FILE --out DIR [--source FILE] [--size 2048] [--maps LIST] [--samples N] [--bits 8|16] [--green up|down] [--distance MM|LIST] [--cage FILE] [--radius MM] [--parts LIST] [--leave-locked] [--tiles LIST] [--profile NAME|FILE] [--dilate PX] [--spread] [--pairs LIST] [--catches LIST] [--pieces LIST] [--cards LIST] [--grow PX] [--invert] [--floor]",
  about: "maps from source to game mesh, as PNG",
  flags: {
    source: {
      takes: "FILE",
      about: "the high-detail mesh; none to bake round edges alone",
    },
    game: {
      takes: "FILE",
      required: true,
      about: "the unwrapped low-polygon mesh",
    },
    out: { takes: "DIR", required: true, about: "folder for the maps" },
    size: { takes: "PX", about: "edge of the maps" },
    ...bakeFlags,
  },
  files: 0,
  async run(call, session) {
    const wantsAngle = listed(call.flags.maps ?? "").includes("angle");
    const options = {
      ...bakeOptions(call, ["angle"]),
      depth: oneOf(call, "bits", "map", ["8", "16"]),
      green: oneOf(call, "green", "profile", ["up", "down"]),
      ...distances(call),
      sheets: String(call.flags.tiles ?? ""),
      round: realNumber(call, "radius", 0, 0, 1000 * MOST_ROUND),
      parts: listed(call.flags.parts ?? ""),
      leaveOut: call.flags["leave-locked"] === true ? ["locked"] : [],
      dilate: wholeNumber(call, "dilate", 0, 0, 8192),
      spread: call.flags.spread === true,
      pairs: String(call.flags.pairs ?? ""),
      catches: String(call.flags.catches ?? ""),
      pieces: listed(call.flags.pieces ?? ""),
      cards: listed(call.flags.cards ?? ""),
      grow: wholeNumber(call, "grow", 0, -64, 64),
      invert: call.flags.invert === true,
      floor: call.flags.floor === true,
    };
    session.brief(briefOf(call, session.files));
    const brings = isArchive(String(call.flags.game));
    if (brings && call.flags.source !== undefined)
      throw new UsageError("--source: a project brings its sources along");
    if (call.flags.source === undefined && !options.round && !brings)
      throw new UsageError("bake needs --source FILE, or --radius MM");
    if (call.flags.source !== undefined)
      await session.load(String(call.flags.source), "source", true, true);
    await session.load(String(call.flags.game), "game", true, true);
    if (call.flags.cage !== undefined)
      await session.run(
        "bake/bring-cage",
        {},
        session.files.givenTogether([String(call.flags.cage)]),
      );
    const { report } = await session.run("bake/maps", options);
    session.words.push(
      ...(report.findings as BakeFinding[]).map((each) => findingWords(each)),
    );
    // What the next bake goes by says nothing to people.
    const withStatus = listed(call.flags.maps ?? "").includes("status");
    const lookOff = wantsAngle
      ? (await session.run("bake/look-off", {})).report
      : undefined;
    const files = writeMaps(
      session,
      String(call.flags.out),
      withStatus,
      wantsAngle,
    );
    return { ...report, prints: undefined, lookOff, files };
  },
});
