import type { Asset, Part } from "../asset/asset";
import { createPart, spaced } from "../asset/asset";
import { mapParts, totalTriangles } from "../asset/parts";
import { MissingInputError } from "../errors";
import { readMeshFiles } from "../formats/index";
import type { Mesh } from "../mesh/mesh";
import { boundsOf } from "../space/bounds";
import { defineOperation, field } from "../operation";

export const UNITS = [
  { value: "m", label: "metres", metres: 1 },
  { value: "cm", label: "centimetres", metres: 0.01 },
  { value: "mm", label: "millimetres", metres: 0.001 },
  { value: "in", label: "inches", metres: 0.0254 },
] as const;

export const AXES = [
  { value: "y", label: "y up" },
  { value: "z", label: "z up" },
] as const;

class BringInOptions {
  @field({
    kind: "choice",
    label: "Bring in as",
    help: "Source meshes hold the detail; a game mesh is a low-polygon mesh made elsewhere.",
    choices: [
      { value: "source", label: "source meshes" },
      { value: "game", label: "game meshes" },
    ],
  })
  role: "source" | "game" = "source";

  @field({
    kind: "choice",
    label: "Unit",
    help: "What one unit of the file measures.",
    choices: UNITS,
  })
  unit: (typeof UNITS)[number]["value"] = "m";

  @field({
    kind: "choice",
    label: "Up axis",
    help: "Which axis of the file points up.",
    choices: AXES,
  })
  up: "y" | "z" = "y";
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
  makesResult: true,
  Options: BringInOptions,
  async run(asset, options, context) {
    if (!context.files?.length)
      throw new MissingInputError("there is no file to bring in");
    context.progress(
      0.05,
      `reading ${context.files.map((file) => file.name).join(", ")}`,
    );
    const { parts: read, notes, colours } = await readMeshFiles(context.files);
    context.check();
    context.progress(0.7, "setting units");
    const metres = UNITS.find((unit) => unit.value === options.unit)!.metres;
    let next: Asset = asset;
    for (const { name, mesh } of read) {
      const oriented = orient(mesh, metres, options.up === "z");
      next = put(next, name, options.role, oriented);
    }
    const known = new Set(next.looks.map((look) => look.material));
    const looks = [...next.looks];
    for (const [material, colour] of colours)
      if (!known.has(material))
        looks.push({ material, colour, roughness: 0.6, metalness: 0 });
    next = { ...next, looks };
    const size = sizeOf(next);
    return {
      asset: next,
      headline: `${next.parts.length} ${next.parts.length === 1 ? "part" : "parts"}`,
      report: {
        parts: read.length,
        triangles: totalTriangles(next, options.role),
        sizeMetres: size,
        repairs: notes,
        summary: `${spaced(totalTriangles(next, options.role))} triangles in ${read.length} parts`,
      },
    };
  },
});

function put(
  asset: Asset,
  name: string,
  role: "source" | "game",
  mesh: Mesh,
): Asset {
  if (asset.parts.some((part) => part.name === name))
    return mapParts(asset, (part) =>
      part.name === name ? { ...part, [role]: mesh } : part,
    );
  const part: Part = createPart(name, asset.parts.length, { [role]: mesh });
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

function sizeOf(asset: Asset): number[] {
  const { min, max } = boundsOf(
    ...asset.parts.flatMap((part) =>
      [part.source, part.game].flatMap((mesh) =>
        mesh ? [mesh.positions] : [],
      ),
    ),
  );
  return min.map((low, k) => Math.max(0, max[k] - low));
}
