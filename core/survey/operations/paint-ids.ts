import type { Asset } from "../../asset/asset";
import type { PaletteEntry } from "../../base/pictures";
import { chosenParts } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { MissingInputError, OptionsError } from "../../base/errors";
import { distinctColour } from "../../formats/colours";
import { faceComponents } from "../../mesh/components";
import { faceCount } from "../../mesh/mesh";
import { defineOperation, field } from "../../asset/operation";
import { FaceOptions, chosenFaces } from "../../asset/chosen-faces";

class IdOptions extends FaceOptions {
  @field({
    kind: "choice",
    label: "A colour for each",
    help: "What gets a flat colour of its own in the ID map.",
    choices: [
      { value: "materials", label: "material" },
      { value: "parts", label: "part" },
      { value: "components", label: "component" },
      { value: "selection", label: "selection: one colour for it" },
    ],
  })
  by: "materials" | "parts" | "components" | "selection" = "materials";

  @field({ kind: "parts", label: "Parts", help: "Which parts; empty for all." })
  parts: string[] = [];

  @field({
    kind: "text",
    label: "Name",
    help: "Name of the selection's colour; one that exists takes the faces in.",
    max: 80,
  })
  name = "";
}

const MOST_COLOURS = 400;

export const paintIds = defineOperation({
  id: "survey/paint-ids",
  stage: "survey",
  title: "Give IDs",
  about:
    "Gives every material, part, component or the selection a flat colour, for the ID map and for Finish.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: IdOptions,
  run(asset, options) {
    const palette: PaletteEntry[] =
      options.by === "selection" ? [...asset.palette] : [];
    const entry = (name: string) => {
      const at = palette.findIndex((each) => each.name === name);
      if (at >= 0) return at + 1;
      if (palette.length >= MOST_COLOURS)
        throw new MissingInputError(
          `that would need more than ${MOST_COLOURS} colours: give IDs by something coarser`,
        );
      return palette.push({ name, colour: distinctColour(palette.length) });
    };
    const next =
      options.by === "selection"
        ? paintSelection(asset, options, entry)
        : paintAll(asset, options, entry);
    return {
      asset: { ...next, palette },
      headline: "",
      report: {
        colours: palette.length,
        summary: `${palette.length} colours`,
      },
    };
  },
});

function paintSelection(
  asset: Asset,
  options: IdOptions,
  entry: (name: string) => number,
): Asset {
  const chosen = chosenFaces(asset, options);
  const id = entry(options.name.trim() || `region ${asset.palette.length + 1}`);
  return mapParts(asset, (part) => {
    const own = chosen.find((each) => each.part === part);
    if (!own) return part;
    const ids = own.mesh.ids?.slice() ?? new Uint16Array(faceCount(own.mesh));
    own.marks.forEach((mark, f) => {
      if (mark) ids[f] = id;
    });
    return { ...part, [options.mesh]: { ...own.mesh, ids } };
  });
}

function paintAll(
  asset: Asset,
  options: IdOptions,
  entry: (name: string) => number,
): Asset {
  const chosen = chosenParts(asset, options.parts);
  return mapParts(asset, (part) => {
    const mesh = part[options.mesh];
    if (!mesh || !chosen.has(part.name)) return part;
    const faces = faceCount(mesh);
    let ids: Uint16Array;
    if (options.by === "parts")
      ids = new Uint16Array(faces).fill(entry(part.name));
    else if (options.by === "materials") {
      const own = mesh.materials.map((name) => entry(name));
      ids = new Uint16Array(faces).map(
        (_, f) => own[mesh.faceMaterials?.[f] ?? 0],
      );
    } else {
      const { count, ofFace } = faceComponents(mesh);
      const own = Array.from({ length: count }, (_, i) =>
        entry(`${part.name} ${i + 1}`),
      );
      ids = new Uint16Array(faces).map((_, f) => own[ofFace[f]]);
    }
    return { ...part, [options.mesh]: { ...mesh, ids } };
  });
}

class PaletteOptions {
  @field({
    kind: "text",
    label: "Colour of",
    help: "Name of the palette's entry.",
    max: 80,
  })
  entry = "";

  @field({
    kind: "text",
    label: "Name",
    help: "A new name; empty keeps it.",
    max: 80,
  })
  name = "";

  @field({
    kind: "text",
    label: "Colour",
    help: "As #rrggbb; empty keeps it.",
    max: 7,
  })
  colour = "";
}

export const editPalette = defineOperation({
  id: "survey/palette",
  stage: "survey",
  title: "Edit the ID palette",
  about: "Renames or recolours one entry of the palette.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: PaletteOptions,
  run(asset, options) {
    const at = asset.palette.findIndex(({ name }) => name === options.entry);
    if (at < 0)
      throw new MissingInputError(`the palette has no "${options.entry}"`);
    if (options.colour && !/^#[0-9a-f]{6}$/i.test(options.colour))
      throw new OptionsError("survey/palette", {
        colour: `"${options.colour}" is no colour: write #rrggbb`,
      });
    const twin = asset.palette.findIndex(
      ({ colour }, i) =>
        i !== at && options.colour && colour === options.colour.toLowerCase(),
    );
    if (twin >= 0)
      throw new OptionsError("survey/palette", {
        colour: `${asset.palette[twin].name} has this colour: a map could not tell them apart`,
      });
    const palette = asset.palette.map((each, i) =>
      i === at
        ? {
            name: options.name.trim() || each.name,
            colour: options.colour.toLowerCase() || each.colour,
          }
        : each,
    );
    return {
      asset: { ...asset, palette },
      headline: "",
      report: {
        ...palette[at],
        summary: `${palette[at].name} is ${palette[at].colour}`,
      },
    };
  },
});
