import { partOf, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import type { Asset, Part } from "../../asset/asset";
import { areaOf } from "../../mesh/area";
import {
  namesOf,
  replaceFaces,
  REMADE_FROM,
  workedMeshes,
  WorkedOptions,
} from "../../asset/worked-meshes";
import { withRegionsOf } from "../../asset/carry";
import { reduceTogether } from "../../decimate/reduce-together";
import { MissingInputError, OptionsError } from "../../base/errors";
import { strengthOf } from "../../decimate/density";
import { evenQuads } from "../../remesh/even/even-quads";
import type { Mesh } from "../../mesh/mesh";
import { triangleCount } from "../../mesh/mesh";
import { quadShare } from "../../remesh/pair-quads";
import { triangulate } from "../../mesh/triangulate";
import { defineOperation, field } from "../../asset/operation";
import { spanOf } from "../../base/context";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { JUDGED, judgeAsset } from "./judge";

class EvenQuadsOptions extends WorkedOptions {
  @field({
    kind: "integer",
    label: "Triangles",
    brief: "triangles",
    help: "Triangles over all these parts together, two for a quad; 0 takes the brief's. Dealt out by area.",
    unit: "triangles",
    min: 0,
    max: 500000,
  })
  triangles = 0;

  @field({
    kind: "flag",
    label: "Quads only",
    help: "Leaves no triangle; otherwise a few stay where the directions meet.",
  })
  pure = false;

  @field({
    kind: "number",
    label: "Grading",
    help: "How many times longer the longest edges may be than the shortest, and one side of a quad than the other: 1 is even all over, more makes quads smaller and oblong where the surface bends.",
    min: 1,
    max: 4,
    step: 0.1,
  })
  grading = 2;

  @field({
    kind: "flag",
    label: "Painted density",
    help: "Makes quads smaller where finer was painted, larger where coarser was.",
  })
  density = true;

  @field({
    kind: "edges",
    label: "Guides",
    help: "Chosen edges of the source that the quads are to follow, as part:vertex-vertex.",
    folded: true,
    from: "source edges",
  })
  guides: string[] = [];
}

/** A face painted as fine as it goes has quads with edges this many times shorter. */
const FINEST = 2.5;

export const reduceToEvenQuads = defineOperation({
  id: "reduce/even-quads",
  stage: "reduce",
  title: "Even quads",
  about:
    "An even mesh of quads of the wanted count that follows creases, borders and guides.",
  runs: "heavy",
  takes: "source",
  makesResult: true,
  madeFrom: ({ triangles, density }) => [
    ...REMADE_FROM,
    ...(density ? (["painted density"] as const) : []),
    ...(triangles ? [] : (["triangle budget"] as const)),
  ],
  tellsOf: JUDGED,
  Options: EvenQuadsOptions,
  run(asset, options, context) {
    requireMeshes(asset, options.mesh);
    const start = performance.now();
    const worked = workedMeshes(asset, options);
    const budget = options.triangles || asset.brief.triangles;
    const areas = worked.map(({ mesh }) => areaOf(mesh));
    const all = areas.reduce((sum, area) => sum + area, 0) || 1;
    const asTriangles: string[] = [];
    const made = worked.map(({ part, mesh }, i): Mesh | null => {
      const step = spanOf(
        context,
        (0.9 * i) / worked.length,
        (0.9 * (i + 1)) / worked.length,
      );
      step.progress(0.1, `laying quads over ${part.name}`);
      const own = Math.max(12, Math.floor((budget * areas[i]) / all));
      const game = evenQuads(
        mesh,
        {
          triangles: own,
          pure: options.pure,
          grading: options.grading,
          sizeAt: options.density ? sizeOf(mesh) : null,
          guides: guidesOf(asset, part, options.guides),
        },
        () => context.check(),
      );
      if (game.corners.length) return withRegionsOf(game, [mesh]);
      // Too little of it for any lattice: plain triangles, and the others keep their quads.
      const [plain] = reduceTogether([mesh], own, step);
      asTriangles.push(part.name);
      return plain;
    });
    if (asTriangles.length === worked.length)
      throw new MissingInputError(
        `${asTriangles.join(", ")} can't be laid out in ${spaced(budget)} triangles: give it more`,
      );
    const next = replaceFaces(asset, worked, made, options.mesh);
    context.progress(0.92, "measuring the deviation");
    const list = worked.map(({ part, mesh }, i) => ({
      part: part.name,
      source: triangleCount(mesh),
      triangles: made[i] ? triangleCount(made[i]) : 0,
      quads: made[i] ? quadShare(made[i]) : 0,
    }));
    const triangles = list.reduce((sum, part) => sum + part.triangles, 0);
    const quads =
      list.reduce((sum, part) => sum + part.quads * part.triangles, 0) /
      (triangles || 1);
    return {
      asset: next,
      headline: `${spaced(triangles)} of ${spaced(budget)}`,
      report: {
        triangles,
        budget,
        ...(triangles > budget && {
          failed: `${spaced(budget)} triangles can't be reached: ${spaced(triangles)} are left, a lattice of quads needs as many`,
        }),
        quads,
        asTriangles,
        ...judgeAsset(next, "all round", namesOf(worked)),
        parts: list,
        seconds: (performance.now() - start) / 1000,
      },
    };
  },
});

/** Edge length wanted at a place against the mean, from what is painted on the nearest face. */
function sizeOf(mesh: Mesh) {
  const { density } = mesh;
  if (!density?.some((value) => value)) return null;
  const { vertices, faces } = triangulate(mesh);
  const closest = new ClosestPoint(buildBvh(mesh.positions, vertices));
  return (x: number, y: number, z: number) =>
    FINEST ** -strengthOf(density[faces[closest.find(x, y, z)]]);
}

/** @throws OptionsError for an edge that can't be read, MissingInputError for a part that is not there */
function guidesOf(asset: Asset, part: Part, names: readonly string[]) {
  const found: number[] = [];
  for (const name of names) {
    const match = /^(.+):(\d+)-(\d+)$/.exec(name);
    if (!match)
      throw new OptionsError("reduce/even-quads", {
        guides: `"${name.slice(0, 40)}" is not part:vertex-vertex`,
      });
    if (partOf(asset, match[1]) !== part) continue;
    if (!part.source)
      throw new MissingInputError(
        `guides are edges of the source, and ${part.name} has none`,
      );
    const p = part.source.positions;
    for (const v of [Number(match[2]), Number(match[3])]) {
      if (3 * v >= p.length)
        throw new OptionsError("reduce/even-quads", {
          guides: `${part.name} has no vertex ${v}`,
        });
      found.push(p[3 * v], p[3 * v + 1], p[3 * v + 2]);
    }
  }
  return found.length ? Float32Array.from(found) : null;
}
