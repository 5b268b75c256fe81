import { join } from "node:path";
import { isArchive } from "../../core/formats/archive";
import { triangleCount } from "../../core/mesh/mesh";
import { UsageError, listed, nameFor } from "../arguments";
import type { Call } from "../arguments";
import { briefOf, PROFILE_WORDS } from "../brief";
import { defineCommand, MESH_FILES } from "../command";
import type { Session } from "../session";

const PIVOTS = ["origin", "bottom", "centre"] as const;

export const ship = defineCommand({
  name: "ship",
  words:
    "FILE…|PROJECT.zip --out DIR [--profile NAME|FILE] [--triangles N] [--levels N,N] [--parts LIST] [--pivot origin|bottom|centre|X,Y,Z] [--split] [--obj] [--insist]",
  about:
    "the delivery of game meshes: files, check list, report.html and report.json",
  flags: {
    out: { takes: "DIR", required: true, about: "folder for the files" },
    profile: {
      takes: "NAME|FILE",
      about: PROFILE_WORDS,
    },
    triangles: {
      takes: "N",
      about: "triangles allowed; as many as there are where left out",
    },
    levels: {
      takes: "N,N",
      about:
        "triangles of levels of detail that are made, falling; without it those of the file go out",
    },
    parts: { takes: "LIST", about: "parts by name, all where left out" },
    pivot: {
      takes: "PLACE",
      about: "origin, bottom, centre or X,Y,Z in mm: what lies at 0, 0, 0",
    },
    split: { about: "files of its own for every part" },
    obj: { about: "OBJ too" },
    insist: { about: "writes the files although a check fails" },
  },
  files: MESH_FILES,
  writes: (call) => [join(String(call.flags.out), `${nameFor(call)}.glb`)],
  async run(call, session) {
    const options = {
      ...(call.flags.pivot !== undefined && pivotOf(call)),
      ...(call.flags.split && { split: true }),
      ...(call.flags.obj && { obj: true }),
      insist: Boolean(call.flags.insist),
      parts: listed(call.flags.parts ?? ""),
    };
    await session.load(call.files, "game");
    const names = session.asset.parts.map(({ name }) => name);
    const stranger = options.parts.find((name) => !names.includes(name));
    if (stranger !== undefined)
      throw new UsageError(
        `--parts ${stranger}: there is no such part; there are ${names.join(", ")}`,
      );
    // A project brings its own limits along; a mesh file tells none but those of the call.
    if (!isArchive(call.files[0]))
      session.brief({ triangles: triangles(session), hulls: 256 });
    session.brief(briefOf(call, session.files));
    if (call.flags.levels) await session.levels(String(call.flags.levels));
    const { files, report } = await session.ship(options);
    for (const { name, bytes } of files)
      session.files.write(join(String(call.flags.out), name), bytes);
    return { ...report, files: files.map(({ name }) => name) };
  },
});

const triangles = ({ asset }: Session) =>
  asset.parts.reduce(
    (sum, { game }) => sum + (game ? triangleCount(game) : 0),
    0,
  );

function pivotOf({ flags }: Call) {
  const given = String(flags.pivot);
  const named = PIVOTS.find((name) => name === given);
  if (named) return { pivot: named };
  const point = given.split(",").map(Number);
  if (point.length !== 3 || !point.every((x) => Math.abs(x) <= 1e6))
    throw new UsageError(
      `--pivot takes ${PIVOTS.join(", ")} or three numbers in mm, not "${given}"`,
    );
  const [pointX, pointY, pointZ] = point;
  return { pivot: "point" as const, pointX, pointY, pointZ };
}
