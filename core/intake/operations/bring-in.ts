import type { Asset, Part } from "../../asset/asset";
import type { PaletteEntry } from "../../base/pictures";
import type { Hull } from "../../mesh/hull";
import { withKept } from "../methods/kept";
import { createPart, UNNAMED } from "../../asset/asset";
import type { Unit } from "../../asset/units";
import { AXES, UNITS } from "../../asset/units";
import { spaced } from "../../base/wording";
import { extentsOf, farthestOf } from "../../asset/extents";
import { mapParts, totalTriangles } from "../../asset/parts";
import { MissingInputError } from "../../base/errors";
import type { Patterns } from "../methods/match";
import { stripMarkers } from "../methods/match";
import type { ReadPart } from "../../formats/index";
import { readMeshFiles } from "../../formats/index";
import { safeName } from "../../formats/raw-mesh";
import { PatternOptions } from "./pair";
import { pairingOf } from "../methods/pairing";
import { hardFromNormals } from "../../mesh/hard-angle";
import type { Mesh } from "../../mesh/mesh";
import { seamsFromUvs } from "../../mesh/seams-from-uvs";
import { triangulate } from "../../mesh/triangulate";
import { defineOperation, field } from "../../asset/operation";

class BringInOptions extends PatternOptions {
  @field({
    kind: "choice",
    label: "Bring in as",
    help: "Source meshes hold the detail; a game mesh is a low-polygon mesh made elsewhere. Both are told apart by their names.",
    choices: [
      { value: "source", label: "source meshes" },
      { value: "game", label: "game meshes" },
      { value: "both", label: "both, by name" },
    ],
  })
  role: "source" | "game" | "both" = "source";

  @field({
    kind: "choice",
    label: "Unit",
    help: "What one unit of the file measures.",
    choices: UNITS,
  })
  unit: Unit = "m";

  @field({
    kind: "choice",
    label: "Up axis",
    help: "Which axis of the file points up.",
    choices: AXES,
  })
  up: "y" | "z" = "y";

  @field({
    kind: "flag",
    label: "Join equal places",
    help: "Vertices of OBJ and PLY at equal places become one while reading; off keeps them for Survey to show.",
  })
  join = false;
}

/** Reads mesh files into parts: a part of the same name takes the mesh, others are new. */
export const bringIn = defineOperation({
  id: "intake/bring-in",
  stage: "intake",
  title: "Bring files in",
  about:
    "Reads OBJ, PLY, STL, GLB and glTF files; parts keep their names, groups and materials.",
  runs: "heavy",
  takes: "source",
  asks: "meshes",
  makesResult: true,
  Options: BringInOptions,
  async run(asset, options, context) {
    if (!context.files?.length)
      throw new MissingInputError("there is no file to bring in");
    context.progress(
      0.05,
      `reading ${context.files.map((file) => file.name).join(", ")}`,
    );
    const {
      parts: read,
      notes,
      looks: given,
      palette,
      kept,
    } = await readMeshFiles(context.files, options.join);
    context.check();
    context.progress(0.7, "setting units");
    const metres = UNITS.find((unit) => unit.value === options.unit)!.metres;
    const patterns = {
      source: options.sourcePattern,
      game: options.gamePattern,
    };
    let next: Asset = asset;
    const placed = (mesh: Mesh) => {
      const known = withPalette(next, mesh, palette);
      next = known.asset;
      return withMarks(orient(known.mesh, metres, options.up === "z"));
    };
    const found: Found[] = [];
    const partOfName = new Map<string, string>();
    const own = read.filter(({ hull, level }) => !hull && !level);
    for (const part of own) {
      const role = roleOf(part.name, options.role, patterns);
      const name = stripMarkers(part.name, patterns[role]) ?? part.name;
      const mesh = placed(part.mesh);
      next = put(next, name, role, mesh, part.group);
      partOfName.set(part.name, name);
      found.push(...foundWhileReading(name, part));
    }
    next = withHullsAndLevels(next, read, (mesh) =>
      orient(mesh, metres, options.up === "z"),
    );
    const known = new Set(next.looks.map((look) => look.material));
    const looks = [...next.looks];
    for (const [material, look] of given)
      if (!known.has(material))
        looks.push({
          material,
          colour: look.pictures?.colour ? "#ffffff" : "#b8b2a6",
          roughness: 0.6,
          metalness: 0,
          ...look,
        });
    next = { ...next, looks, name: nameOf(asset, context.files[0].name) };
    // Matrices and places are in metres, y up.
    if (metres === 1 && options.up !== "z")
      next = withKept(next, kept, partOfName);
    const pairing = pairingOf(next);
    const triangles = (["source", "game"] as const).reduce(
      (sum, which) =>
        options.role === "both" || options.role === which
          ? sum + totalTriangles(next, which)
          : sum,
      0,
    );
    return {
      asset: next,
      headline: `${next.parts.length} ${next.parts.length === 1 ? "part" : "parts"}`,
      report: {
        parts: own.length,
        triangles,
        sizeMetres: extentsOf(next),
        farthestMetres: farthestOf(next),
        repairs: notes,
        found,
        ...pairing,
        summary: `${spaced(triangles)} triangles in ${own.length} parts`,
      },
    };
  },
});

/** An asset that nobody has named takes the name of the first file. */
function nameOf(asset: Asset, file: string): string {
  if (asset.name !== UNNAMED || asset.parts.length) return asset.name;
  const base = file.split(/[\\/]/).at(-1)!;
  return safeName(base.replace(/\.[^.]*$/, ""), UNNAMED);
}

/** Where UVs part there are seams: files don't say so themselves. */
/** A mesh with what formats say only by UVs and normals: its seams and its hard edges. */
const withMarks = (mesh: Mesh): Mesh => ({
  ...mesh,
  seams: mesh.seams ?? (mesh.uvs && seamsFromUvs(mesh, mesh.uvs)),
  hard: mesh.hard ?? hardFromNormals(mesh),
});

/** Something reading met and settled, in the form of Survey's findings. */
interface Found {
  kind: "zeroArea" | "names" | "nodeScale";
  part: string;
  count: number;
  places: [];
  faces: "";
  edges: [];
  vertices: [];
  note: string;
}

function foundWhileReading(part: string, read: ReadPart): Found[] {
  const found: Found[] = [];
  const put = (kind: Found["kind"], count: number, note: string) =>
    found.push({
      kind,
      part,
      count,
      places: [],
      faces: "",
      edges: [],
      vertices: [],
      note,
    });
  const broken = read.leftOut + read.mended;
  if (broken)
    put(
      "zeroArea",
      broken,
      `${broken} faces without three sound corners were settled while reading`,
    );
  if (read.name !== read.written)
    put(
      "names",
      1,
      `there were several "${read.written}": this one is ${read.name} now`,
    );
  if (read.nodeScale) {
    const [x, y, z] = read.nodeScale.map((value) => Number(value.toFixed(3)));
    put(
      "nodeScale",
      1,
      `its node was ${x < 0 ? "mirrored" : "scaled unevenly"} (${x} × ${y} × ${z}); that is in the vertices now`,
    );
  }
  return found;
}

/** A mesh whose IDs are of the asset's palette, which takes in what it lacks of those that came with the mesh. */
function withPalette(
  asset: Asset,
  mesh: Mesh,
  given: readonly PaletteEntry[],
): { asset: Asset; mesh: Mesh } {
  const { ids } = mesh;
  if (!ids) return { asset, mesh };
  const palette = [...asset.palette];
  const now = new Map<number, number>([[0, 0]]);
  const own = ids.map((id) => {
    let at = now.get(id);
    if (at === undefined) {
      const entry = given[id - 1];
      at = 1 + palette.findIndex(({ name }) => name === entry.name);
      if (!at) at = palette.push(entry);
      now.set(id, at);
    }
    return at;
  });
  return { asset: { ...asset, palette }, mesh: { ...mesh, ids: own } };
}

function roleOf(
  name: string,
  role: BringInOptions["role"],
  patterns: Patterns,
): "source" | "game" {
  if (role !== "both") return role;
  return stripMarkers(name, patterns.game) === null ? "source" : "game";
}

/**
 * Puts hulls and levels that came along to the parts that they belong to. Where there is no such part, hulls make one
 * that has nothing else; a level, and what is a hull by its name alone, is a part of its own.
 * @param placed how a mesh lies in metres, y up
 */
function withHullsAndLevels(
  asset: Asset,
  read: readonly ReadPart[],
  placed: (mesh: Mesh) => Mesh,
): Asset {
  const has = (name: string) => asset.parts.some((part) => part.name === name);
  const ofPart = ({ hull, written }: ReadPart) => hull?.of ?? written;
  const belongs = (part: ReadPart) =>
    has(ofPart(part)) || (part.hull && !part.hull.guessed);
  const more = read.filter(({ hull, level }) => hull ?? level);
  const others = more.filter(belongs);
  const names = new Set(others.map(ofPart));
  const whole = [...names].reduce(
    (next, name) =>
      has(name)
        ? next
        : {
            ...next,
            parts: [...next.parts, createPart(name, next.parts.length)],
          },
    asset,
  );
  const fitted = mapParts(whole, (part) => {
    const own = others.filter((other) => ofPart(other) === part.name);
    if (!own.length) return part;
    const hulls = own.flatMap(({ written, hull, mesh }): Hull[] => {
      if (!hull) return [];
      const solid = placed(mesh);
      const { positions } = solid;
      const triangles = triangulate(solid).vertices;
      const { kind, contact, level } = hull;
      return [
        {
          name: written,
          kind,
          positions,
          triangles,
          ...(contact && { contact }),
          ...(level && { level }),
        },
      ];
    });
    const levels = own
      .filter(({ hull }) => !hull)
      .sort((a, b) => a.level! - b.level!)
      .map(({ mesh }) => withMarks(placed(mesh)));
    return {
      ...part,
      hulls: hulls.length ? hulls : part.hulls,
      levels: levels.length ? levels : part.levels,
    };
  });
  return more
    .filter((each) => !belongs(each))
    .reduce(
      (next, { name, mesh }) =>
        put(next, name, "source", withMarks(placed(mesh))),
      fitted,
    );
}

function put(
  asset: Asset,
  name: string,
  role: "source" | "game",
  mesh: Mesh,
  group = "",
): Asset {
  if (asset.parts.some((part) => part.name === name))
    return mapParts(asset, (part) =>
      part.name === name ? { ...part, [role]: mesh } : part,
    );
  const part: Part = createPart(name, asset.parts.length, {
    [role]: mesh,
    group,
  });
  return { ...asset, parts: [...asset.parts, part] };
}

/** Scales to metres and turns z up into y up. */
export function orient(mesh: Mesh, metres: number, zUp: boolean): Mesh {
  if (metres === 1 && !zUp) return mesh;
  const turn = (values: Float32Array, scale: number) => {
    const turned = new Float32Array(values.length);
    for (let i = 0; i < values.length; i += 3) {
      turned[i] = values[i] * scale;
      turned[i + 1] = (zUp ? values[i + 2] : values[i + 1]) * scale;
      turned[i + 2] = (zUp ? -values[i + 1] : values[i + 2]) * scale;
    }
    return turned;
  };
  return {
    ...mesh,
    positions: turn(mesh.positions, metres),
    normals: mesh.normals && turn(mesh.normals, 1),
  };
}
