import type { Asset, Part } from "../../asset/asset";
import { chosenParts, partOf, requireMeshes } from "../../asset/asset";
import { chosenFaces, FaceOptions } from "../../asset/chosen-faces";
import { onGames } from "../../asset/other-mesh";
import { defineOperation, field } from "../../asset/operation";
import { mapParts } from "../../asset/parts";
import { ArnikError, MissingInputError } from "../../base/errors";
import { length } from "../../base/units";
import { readMeshFiles, writeMeshFile } from "../../formats/index";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { cornerNormals, faceNormals } from "../../mesh/normals";
import { cageMesh, offsetsFrom } from "../methods/cage";
import { cageOffsets } from "../methods/found-cage";

class CagePartOptions {
  @field({
    kind: "parts",
    label: "Parts",
    help: "Which parts; none for all.",
  })
  parts: string[] = [];
}

class ShapeCageOptions extends FaceOptions {
  @field({
    kind: "number",
    label: "Distance",
    empty: "as it is",
    help: "How far outside the faces rays begin; 0 leaves it as it is, or as it is found.",
    unit: "mm",
    min: 0,
    max: 10000,
  })
  distance = 0;

  @field({
    kind: "choice",
    label: "Rays come",
    help: "Straight off each face where waves show, or from all sides evenly over edges.",
    choices: [
      { value: "kept", label: "as they do" },
      { value: "evenly", label: "evenly over edges" },
      { value: "straight", label: "straight off each face" },
    ],
  })
  way: "kept" | "evenly" | "straight" = "kept";
}

/** Game meshes that a cage can lie round, by the parts that are worked. */
function cagedParts(asset: Asset, names: readonly string[]): Part[] {
  requireMeshes(asset, "game");
  const wanted = chosenParts(asset, names);
  const parts = asset.parts.filter(
    (part) => part.game?.uvs && wanted.has(part.name),
  );
  if (!parts.length)
    throw new MissingInputError(
      "no game mesh has UVs: unwrap it before it is baked",
    );
  return parts;
}

/** Places of a cage in the direction and distance that is wanted at some faces. */
function shaped(
  game: Mesh,
  offsets: Float32Array,
  marks: Uint8Array,
  { distance, way }: ShapeCageOptions,
): Float32Array {
  const even = cornerNormals({ ...game, hard: null });
  const facing = faceNormals(game);
  const cage = offsets.slice();
  const old = game.cage ?? new Float32Array(offsets.length);
  for (let f = 0; f < faceCount(game); f++)
    for (let c = game.faceStarts[f]; c < game.faceStarts[f + 1]; c++) {
      // What is found stays found where nothing was asked.
      if (!marks[f]) {
        cage.set(old.subarray(3 * c, 3 * c + 3), 3 * c);
        continue;
      }
      const size = Math.hypot(...offsets.subarray(3 * c, 3 * c + 3));
      for (let k = 0; k < 3; k++) {
        const kept = size > 0 ? offsets[3 * c + k] / size : even[3 * c + k];
        const to =
          way === "straight"
            ? facing[3 * f + k]
            : way === "evenly"
              ? even[3 * c + k]
              : kept;
        cage[3 * c + k] = to * (distance / 1000 || size);
      }
    }
  return cage;
}

export const shapeCage = defineOperation({
  id: "bake/shape-cage",
  stage: "bake",
  title: "Shape the cage",
  about:
    "Says for chosen faces from how far out and from where rays come; elsewhere it is found.",
  runs: "heavy",
  takes: "both",
  makesResult: false,
  Options: ShapeCageOptions,
  run(asset, options, context) {
    if (!options.distance && options.way === "kept")
      throw new MissingInputError(
        "nothing to change: give a distance, or say where rays come from",
      );
    requireMeshes(asset, "game");
    const chosen = chosenFaces(asset, onGames(asset, options));
    const cages = new Map<string, Float32Array>();
    let faces = 0;
    for (const [i, { part, mesh, marks, count }] of chosen.entries()) {
      context.check();
      context.progress(i / chosen.length, `measuring ${part.name}`);
      if (!mesh.uvs)
        throw new MissingInputError(`${part.name} has no UVs: unwrap it first`);
      faces += count;
      const offsets = cageOffsets(
        asset,
        part,
        options.distance / 1000,
        context.check,
      );
      cages.set(part.name, shaped(mesh, offsets, marks, options));
    }
    return {
      asset: withCages(asset, cages),
      headline: "",
      report: {
        faces,
        summary: `cage of ${faces} faces ${options.distance ? `at ${length(options.distance / 1000)}` : "turned"}`,
      },
    };
  },
});

const withCages = (
  asset: Asset,
  cages: ReadonlyMap<string, Float32Array | null>,
): Asset =>
  mapParts(asset, (part) =>
    cages.has(part.name)
      ? { ...part, game: { ...part.game!, cage: cages.get(part.name)! } }
      : part,
  );

export const dropCage = defineOperation({
  id: "bake/drop-cage",
  stage: "bake",
  title: "Let the cage be found",
  about: "Forgets the cage that was shaped or brought in: it is found again.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  Options: CagePartOptions,
  run(asset, options) {
    const parts = cagedParts(asset, options.parts).filter(
      ({ game }) => game!.cage,
    );
    if (!parts.length) throw new MissingInputError("no cage was shaped");
    return {
      asset: withCages(asset, new Map(parts.map(({ name }) => [name, null]))),
      headline: "",
      report: { parts: parts.map(({ name }) => name) },
    };
  },
});

export const bringCage = defineOperation({
  id: "bake/bring-cage",
  stage: "bake",
  title: "Bring a cage in",
  about:
    "Takes a mesh file in metres with the faces of the game meshes, moved out to where rays begin.",
  runs: "heavy",
  takes: "game",
  asks: "cage",
  makesResult: false,
  Options: CagePartOptions,
  async run(asset, options, context) {
    if (!context.files?.length)
      throw new MissingInputError("there is no file with a cage");
    const parts = cagedParts(asset, options.parts);
    context.progress(0.1, "reading the cage");
    const { parts: read } = await readMeshFiles(context.files, true);
    context.check();
    const meshes = read.filter(({ hull, level }) => !hull && !level);
    const cages = new Map<string, Float32Array>();
    const alone = meshes.length === 1 && parts.length === 1;
    for (const { name, mesh } of meshes) {
      // Markers of what is a cage may follow the name.
      const part =
        parts.find((each) => each.name === name) ??
        (alone
          ? parts[0]
          : parts.find((each) => name.startsWith(`${each.name}_`)));
      if (part) cages.set(part.name, offsetsFrom(part.name, part.game!, mesh));
    }
    if (!cages.size)
      throw new ArnikError(
        `no mesh of the file is named as a part: it has ${meshes.map(({ name }) => name).join(", ")}`,
      );
    return {
      asset: withCages(asset, cages),
      headline: "",
      report: {
        parts: [...cages.keys()],
        without: parts.flatMap(({ name }) => (cages.has(name) ? [] : [name])),
        summary: `cage of ${[...cages.keys()].join(", ")}`,
      },
    };
  },
});

export const cageFile = defineOperation({
  id: "bake/cage-file",
  stage: "bake",
  title: "Save the cage as a mesh",
  about:
    "Writes where rays begin as an OBJ in metres, each part with the faces of its game mesh.",
  runs: "heavy",
  takes: "both",
  makesResult: false,
  Options: CagePartOptions,
  async run(asset, options, context) {
    const parts = cagedParts(asset, options.parts);
    const given = asset.results.bake?.options.distance;
    const distance = (typeof given === "number" ? given : 0) / 1000;
    const meshes = parts.map((part, i) => {
      context.check();
      context.progress(i / parts.length, `measuring ${part.name}`);
      const { game } = partOf(asset, part.name);
      const offsets = cageOffsets(asset, part, distance, context.check);
      return { name: part.name, mesh: cageMesh(game!, offsets) };
    });
    const name = `${asset.name}_cage.obj`;
    const bytes = await writeMeshFile(name, meshes);
    return {
      asset,
      headline: "",
      report: { file: name, bytes: bytes.length, parts: parts.length },
      files: [{ name, bytes }],
    };
  },
});
