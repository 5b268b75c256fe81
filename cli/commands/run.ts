import { basename, dirname } from "node:path";
import { cageMesh } from "../../core/bake/methods/cage";
import { cageOffsets } from "../../core/bake/methods/found-cage";
import type { Asset } from "../../core/asset/asset";
import { isArchive } from "../../core/formats/archive";
import { ArnikError } from "../../core/base/errors";
import { isMeshFile, writeMeshFile } from "../../core/formats/index";
import type { Field, Operation } from "../../core/asset/operation";
import { fieldsOf } from "../../core/asset/operation";
import { OPERATIONS } from "../../core/operations";
import type { Call, Flag } from "../arguments";
import { UsageError } from "../arguments";
import { defineCommand } from "../command";
import {
  lostIn,
  outFlag,
  writeHulls,
  writeProject,
  writeWithLevels,
} from "../output";
import type { Session } from "../session";
import { writeMaps } from "./bake";

/** `maxHulls` is typed `--max-hulls`. */
const flagName = (name: string) =>
  name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);

function operationOf(id: string | undefined): Operation {
  const found = OPERATIONS.find((operation) => operation.id === id);
  if (!found)
    throw new UsageError(
      `there is no operation "${id ?? ""}": \`arnik operations\` lists them`,
    );
  return found;
}

export const run = defineCommand({
  name: "run",
  words: "ID FILE --out FILE [--OPTION value …]",
  about: "any one operation, by its id",
  flags: {
    out: outFlag,
    with: {
      takes: "FILE,FILE",
      about:
        "files that the operation asks for: pictures, a cage, or a mesh file with the asset that a part is brought over from",
    },
  },
  files: 2,
  flagsFor(words) {
    const flags: Record<string, Flag> = {};
    for (const each of fieldsOf(operationOf(words[0])))
      flags[flagName(each.name)] = {
        takes:
          each.choices?.map(({ value }) => value).join("|") ||
          each.kind.toUpperCase(),
        about: each.help,
      };
    return flags;
  },
  async run(call, session) {
    const [id, file] = call.files;
    const operation = operationOf(id);
    const options: Record<string, unknown> = {};
    for (const each of fieldsOf(operation)) {
      const text = call.flags[flagName(each.name)];
      if (text !== undefined) options[each.name] = valueOf(each, String(text));
    }
    const beside = besideOf(call, operation);
    if (operation.asks === "meshes" || operation.asks === "project") {
      const given = isArchive(file)
        ? [{ name: basename(file), bytes: session.files.plain(file) }]
        : session.files.given(file);
      const result = await session.run(id, options, given);
      await write(call, session, operation, session.asset, result.files);
      return result.report;
    }
    await session.load(file, operation.takes === "game" ? "game" : "source");
    // A project tells which is which.
    if (operation.takes === "both" && !isArchive(file)) session.sourceIsGame();
    const before = session.asset;
    const other = operation.asks === "asset" && beside.length > 0;
    const further =
      operation.asks === "cage"
        ? session.files.givenTogether(beside)
        : session.files.pictures(beside);
    if (other) await session.offerAsset(beside, operation);
    const result = await session.run(id, options, other ? [] : further);
    await write(call, session, operation, before, result.files);
    return result.report;
  },
});

/** Files of --with. @throws UsageError where the operation asks for none, or for others */
function besideOf(call: Call, { id, asks }: Operation): string[] {
  const beside = String(call.flags.with ?? "")
    .split(",")
    .filter(Boolean);
  if (!beside.length) return [];
  if (asks !== "pictures" && asks !== "asset" && asks !== "cage")
    throw new UsageError(`--with: ${id} asks for no further file`);
  const pictures = asks === "pictures";
  const wrong = beside.find((path) => isMeshFile(path) === pictures);
  if (wrong)
    throw new UsageError(
      `--with ${wrong}: ${id} asks for ${pictures ? "pictures" : "a mesh file"}`,
    );
  return beside;
}

function valueOf(field: Field, text: string): unknown {
  switch (field.kind) {
    case "integer":
    case "number":
      if (text.trim() === "" || Number.isNaN(Number(text)))
        throw new UsageError(
          `--${flagName(field.name)} takes a number, not "${text}"`,
        );
      return Number(text);
    case "flag":
      if (!["true", "false"].includes(text))
        throw new UsageError(
          `--${flagName(field.name)} takes true or false, not "${text}"`,
        );
      return text === "true";
    case "parts":
    case "edges":
    case "hulls":
    case "choices":
      return text.split(",").filter(Boolean);
    case "faces":
      return text.split(";").filter(Boolean);
    default:
      return text;
  }
}

/** The cages that were made, as meshes. @throws ArnikError where there is none */
function cageMeshes(asset: Asset, out: string) {
  const meshes = asset.parts.flatMap((part) =>
    part.game?.cage
      ? [
          {
            name: part.name,
            mesh: cageMesh(part.game, cageOffsets(asset, part, 0)),
          },
        ]
      : [],
  );
  if (!meshes.length)
    throw new ArnikError(
      `--out ${out}: there is no cage to write as a mesh; maps are written to a folder, all together as .zip`,
    );
  return meshes;
}

/**
 * Writes what the operation is about: its files, its hulls, its maps, or else the meshes it works on.
 * @throws ArnikError where the file can't hold what was done
 */
async function write(
  call: Call,
  session: Session,
  operation: Operation,
  before: Asset,
  files?: { bytes: Uint8Array }[],
): Promise<void> {
  const out = String(call.flags.out);
  const { asset } = session;
  if (files?.length) session.files.write(out, files[0].bytes);
  else if (writeProject(session.files, out, asset)) return;
  else if (operation.stage === "bake" && isMeshFile(out))
    session.files.write(out, await writeMeshFile(out, cageMeshes(asset, out)));
  else if (operation.stage === "bake") {
    const folder = out.endsWith(".png") ? dirname(out) : out;
    if (!writeMaps(session, folder).length)
      throw new ArnikError(
        `--out ${out}: there are no maps to write; a cage is written as .obj, .ply or .glb`,
      );
  } else if (operation.stage === "collide")
    await writeHulls(session.files, out, asset);
  else {
    const which = asset.parts.some(({ game }) => game) ? "game" : "source";
    const lost = lostIn(out, before, asset, which);
    if (lost) throw new ArnikError(lost);
    await writeWithLevels(session.files, out, asset, which);
  }
}
