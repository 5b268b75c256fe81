import { PartsOptions } from "../../asset/parts-options";
import type { Asset } from "../../asset/asset";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { clearNames } from "../../asset/hidden";
import { mapParts } from "../../asset/parts";
import { OptionsError } from "../../base/errors";
import { toRanges } from "../../base/ranges";
import { defineOperation, field } from "../../asset/operation";
import type { Outside } from "../methods/unseen";
import { asStream, seenShares, unseenFaces } from "../methods/unseen";

class OutsideOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "Looked at",
    help: "From where the asset will be seen.",
    choices: [
      { value: "all round", label: "all round" },
      { value: "on a floor", label: "standing on a floor" },
      { value: "against a wall", label: "floor and a wall behind" },
      { value: "from a path", label: "from a path" },
    ],
  })
  from: Outside["kind"] = "all round";

  @field({
    kind: "text",
    label: "Path",
    help: "Points that eyes pass, as x,y,z in metres, parted by semicolons.",
    max: 2000,
    folded: true,
  })
  path = "";

  @field({
    kind: "text",
    label: "Transparent",
    help: "Materials and parts that hide nothing, parted by commas; those with a look that lets light through count anyway.",
    max: 2000,
  })
  transparent = "";

  @field({
    kind: "choice",
    label: "Meshes",
    help: "Which meshes are looked at.",
    choices: [
      { value: "source", label: "source" },
      { value: "game", label: "game" },
    ],
    folded: true,
  })
  mesh: "source" | "game" = "source";
}

/** What leaving out the faces that nobody sees would free, part by part. */
export interface UnseenReport {
  triangles: number;
  /** Share of the surface, which is about the share of the sheet. */
  sheetShare: number;
  parts: {
    part: string;
    triangles: number;
    sheetShare: number;
    /** Faces in short form. */
    faces: string;
  }[];
}

export const lookFromOutside = defineOperation({
  id: "survey/unseen",
  stage: "survey",
  title: "Find what nobody sees",
  about:
    "Looks at every face from outside with rays; shows how much of the outside sees it and lists what nothing sees.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  keepsReport: true,
  madeFrom: ["names of parts", "source meshes", "game meshes", "looks"],
  Options: OutsideOptions,
  async run(asset, options, context) {
    const which = options.mesh;
    requireMeshes(asset, which);
    const chosen = chosenParts(asset, options.parts);
    const clear = transparentNames(asset, options.transparent);
    const parts = asset.parts.filter((part) => part[which]);
    const shares = await seenShares(
      parts.map((part) => ({
        mesh: part[which]!,
        hides:
          !clear.has(part.name) &&
          !part[which]!.materials.every((name) => clear.has(name)),
      })),
      { kind: options.from, path: pathOf(options.path, options.from) },
      context,
    );
    const seen = new Map(
      parts.map((part, i) => [part.name, asStream(shares[i])]),
    );
    const next = mapParts(asset, (part) => {
      const mesh = part[which];
      return mesh && chosen.has(part.name)
        ? { ...part, [which]: { ...mesh, visibility: seen.get(part.name)! } }
        : part;
    });
    const report = unseenReport(next, which, 0);
    return {
      asset: next,
      headline: `${spaced(report.triangles)} unseen`,
      report: {
        ...report,
        from: options.from,
        summary: `${spaced(report.triangles)} triangles are seen from nowhere, ${(100 * report.sheetShare).toFixed(1)}\u2009% of the surface`,
      },
    };
  },
});

/** What is seen by no more than a share of the views. @param threshold 0 … 1 */
export function unseenReport(
  asset: Asset,
  which: "source" | "game",
  threshold: number,
): UnseenReport {
  let all = 0;
  const parts = asset.parts.flatMap((part) => {
    const mesh = part[which];
    if (!mesh?.visibility || part.repeat) return [];
    const found = unseenFaces(mesh, threshold);
    all += found.allArea;
    return found.faces.length ? [{ part: part.name, ...found }] : [];
  });
  const triangles = parts.reduce((sum, part) => sum + part.triangles, 0);
  const area = parts.reduce((sum, part) => sum + part.area, 0);
  return {
    triangles,
    sheetShare: all ? area / all : 0,
    parts: parts.map((part) => ({
      part: part.part,
      triangles: part.triangles,
      sheetShare: all ? part.area / all : 0,
      faces: toRanges(part.faces),
    })),
  };
}

function transparentNames(asset: Asset, text: string): Set<string> {
  return new Set([
    ...text
      .split(",")
      .map((word) => word.trim())
      .filter(Boolean),
    ...clearNames(asset),
  ]);
}

/** @throws OptionsError for a path that is none */
function pathOf(text: string, kind: Outside["kind"]): Outside["path"] {
  if (kind !== "from a path") return [];
  const points = text
    .split(";")
    .filter((word) => word.trim())
    .map((word) => word.split(",").map(Number));
  if (
    !points.length ||
    points.some((p) => p.length !== 3 || !p.every((x) => Number.isFinite(x)))
  )
    throw new OptionsError("survey/unseen", {
      path: "points as x,y,z parted by semicolons are needed",
    });
  const corners = points as [number, number, number][];
  // Eyes also pass what lies between the corners.
  const steps = Math.max(1, Math.ceil(64 / corners.length));
  return corners.flatMap((from, i) => {
    const to = corners[i + 1];
    if (!to) return [from];
    return Array.from({ length: steps }, (_, k) =>
      from.map((x, axis) => x + ((to[axis] - x) * k) / steps),
    ) as [number, number, number][];
  });
}
