import type { Asset, Part } from "../../asset/asset";
import { chosenParts, createPart } from "../../asset/asset";
import { MissingInputError } from "../../base/errors";
import { safeName } from "../../formats/raw-mesh";
import { faceComponents } from "../../mesh/components";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { keepFaces } from "../../mesh/change-faces";
import { defineOperation, field } from "../../asset/operation";
import { coincident } from "../../mesh/weld";
import { freeName } from "./change-parts";
import { FaceOptions, chosenFaces } from "../../asset/chosen-faces";

class SplitOptions extends FaceOptions {
  @field({
    kind: "choice",
    label: "Split off",
    help: "Chosen faces become one new part; components and materials one each.",
    choices: [
      { value: "selection", label: "the chosen faces" },
      { value: "components", label: "every component" },
      { value: "materials", label: "every material" },
    ],
  })
  by: "selection" | "components" | "materials" = "selection";

  @field({ kind: "parts", label: "Parts", help: "Which parts; empty for all." })
  parts: string[] = [];
}

/** Most parts that one split may make. */
const MOST_PARTS = 400;

export const splitOff = defineOperation({
  id: "survey/split-off",
  stage: "survey",
  title: "Split off",
  about: "Makes parts of their own of chosen faces, components or materials.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: SplitOptions,
  run(asset, options) {
    const which = options.mesh;
    const before = asset.parts.length;
    const next =
      options.by === "selection"
        ? splitSelection(asset, options)
        : splitAll(asset, chosenParts(asset, options.parts), which, (mesh) =>
            options.by === "components" ? byComponent(mesh) : byMaterial(mesh),
          );
    const made = next.parts.length - before;
    return {
      asset: next,
      headline: "",
      report: { made, summary: `${made} new parts` },
    };
  },
});

function splitSelection(asset: Asset, options: FaceOptions): Asset {
  let next = asset;
  for (const { part, mesh, marks } of chosenFaces(asset, options)) {
    if (!marks.some((mark) => mark) || marks.every((mark) => mark)) continue;
    const rest = keepFaces(
      mesh,
      marks.map((mark) => 1 - mark),
    );
    const off = createPart(freeName(next, part.name), next.parts.length, {
      group: part.group,
      [options.mesh]: keepFaces(mesh, marks),
    });
    next = {
      ...next,
      parts: [
        ...next.parts.map((each) =>
          each === part ? { ...part, [options.mesh]: rest } : each,
        ),
        off,
      ],
    };
  }
  return next;
}

interface Labels {
  of: ArrayLike<number>;
  names: string[];
}

function byComponent(mesh: Mesh): Labels {
  const target = coincident(mesh.positions, 0);
  const { count, ofFace } = faceComponents({
    ...mesh,
    corners: mesh.corners.map((v) => target[v]),
  });
  return {
    of: ofFace,
    names: Array.from({ length: count }, (_, i) => `${i + 1}`),
  };
}

const byMaterial = (mesh: Mesh): Labels => ({
  of: mesh.faceMaterials ?? new Uint16Array(faceCount(mesh)),
  names: [...mesh.materials],
});

function splitAll(
  asset: Asset,
  chosen: ReadonlySet<string>,
  which: "source" | "game",
  label: (mesh: Mesh) => Labels,
): Asset {
  const parts: Part[] = [];
  let made = 0;
  for (const part of asset.parts) {
    const mesh = part[which];
    const labels = mesh && chosen.has(part.name) ? label(mesh) : null;
    const used = labels
      ? [...new Set(Array.from(labels.of))].sort((a, b) => a - b)
      : [];
    made += used.length;
    if (made > MOST_PARTS)
      throw new MissingInputError(
        `that would make more than ${MOST_PARTS} parts: choose fewer parts or faces`,
      );
    if (!mesh || !labels || used.length < 2) {
      parts.push(part);
      continue;
    }
    used.forEach((value, i) => {
      const keep = Uint8Array.from(labels.of, (own) => (own === value ? 1 : 0));
      const name = safeName(`${part.name} ${labels.names[value]}`, part.name);
      parts.push(
        createPart(
          freeName({ ...asset, parts: [...asset.parts, ...parts] }, name),
          parts.length,
          {
            group: part.name,
            [which]: keepFaces(mesh, keep),
            hulls: i ? [] : part.hulls,
          },
        ),
      );
    });
  }
  return { ...asset, parts };
}
