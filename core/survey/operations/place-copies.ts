import type { Part } from "../../asset/asset";
import { createPart, partOf } from "../../asset/asset";
import { MissingInputError } from "../../base/errors";
import { distinctNames } from "../../formats/raw-mesh";
import { triangulate } from "../../mesh/triangulate";
import { defineOperation, field } from "../../asset/operation";
import { boundsOf } from "../../space/bounds";
import { seededRandom } from "../../base/random";
import { sampleSurface } from "../../space/sample";
import type { Matrix } from "../../mesh/transform";
import { multiply, rotation, translation } from "../../mesh/transform";
import { cross, dot, pointAt, subtract, unit } from "../../space/vector";

class PlaceOptions {
  @field({
    kind: "parts",
    label: "Parts",
    help: "The part to place, then the part on whose surface it is placed.",
  })
  parts: string[] = [];

  @field({
    kind: "integer",
    label: "Copies",
    help: "How many more are placed.",
    min: 1,
    max: 500,
  })
  count = 12;

  @field({
    kind: "number",
    label: "Turn by up to",
    help: "Each copy is turned about the surface normal by as much, at random.",
    unit: "°",
    min: 0,
    max: 180,
  })
  turn = 180;

  @field({
    kind: "number",
    label: "Scale by up to",
    help: "Each copy is larger or smaller by as much, at random.",
    unit: "%",
    min: 0,
    max: 90,
  })
  scale = 15;

  @field({
    kind: "flag",
    label: "Upright",
    help: "Copies stand upright instead of on the surface normal.",
  })
  upright = false;

  @field({
    kind: "integer",
    label: "Arrangement",
    help: "Another number strews the copies differently.",
    min: 1,
    max: 99999,
    folded: true,
  })
  seed = 1;
}

/** Tries for each copy, of which the one farthest from the others is kept (Mitchell 1991, best candidate). */
const CANDIDATES = 24;

export const placeCopies = defineOperation({
  id: "survey/place-copies",
  stage: "survey",
  title: "Place copies on a surface",
  about:
    "Strews repeats of one part evenly over the surface of another, turned and scaled by chance.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: PlaceOptions,
  run(asset, options, context) {
    const [what, onto] = options.parts.map((name) => partOf(asset, name));
    const ground = onto?.source ?? onto?.game;
    if (!what?.source || !ground || options.parts.length !== 2)
      throw new MissingInputError(
        "choose two parts: the one to place, then the one to place it on",
      );
    if (what.repeat)
      throw new MissingInputError(
        `${what.name} repeats ${what.repeat.of}: place that one`,
      );
    context.progress(0.2, "strewing");
    const places = spreadOver(ground, options.count, options.seed);
    const random = seededRandom(options.seed + 77);
    const foot = footOf(what);
    const names = asset.parts.map((part) => part.name);
    const copies = places.map((place, i): Part => {
      const name = distinctNames([...names, `${what.name} copy`]).at(-1)!;
      names.push(name);
      const scale = 1 + (options.scale / 100) * (2 * random() - 1);
      const angle = (options.turn / 180) * Math.PI * (2 * random() - 1);
      const up = options.upright ? ([0, 1, 0] as const) : place.normal;
      return createPart(name, asset.parts.length + i, {
        colour: what.colour,
        group: what.group || what.name,
        source: what.source,
        repeat: {
          of: what.name,
          matrix: standing(foot, place.at, up, angle, scale),
        },
      });
    });
    return {
      asset: { ...asset, parts: [...asset.parts, ...copies] },
      headline: "",
      report: {
        copies: copies.length,
        summary: `${copies.length} copies of ${what.name} on ${onto.name}`,
      },
    };
  },
});

function spreadOver(
  ground: NonNullable<Part["source"]>,
  count: number,
  seed: number,
) {
  const { vertices } = triangulate(ground);
  const { points, triangles } = sampleSurface(
    ground.positions,
    vertices,
    count * CANDIDATES,
    seed,
  );
  const random = seededRandom(seed);
  const order = Array.from({ length: count * CANDIDATES }, (_, i) => i);
  for (let i = order.length - 1; i > 0; i--) {
    const j = Math.floor(random() * (i + 1));
    [order[i], order[j]] = [order[j], order[i]];
  }
  const kept: number[] = [];
  for (let k = 0; k < count; k++) {
    let best = order[k * CANDIDATES];
    let farthest = -1;
    for (let c = 0; c < CANDIDATES; c++) {
      const i = order[k * CANDIDATES + c];
      let nearest = Infinity;
      for (const j of kept)
        nearest = Math.min(
          nearest,
          Math.hypot(...subtract(pointAt(points, i), pointAt(points, j))),
        );
      if (nearest > farthest) {
        farthest = nearest;
        best = i;
      }
    }
    kept.push(best);
  }
  return kept.map((i) => {
    const [a, b, c] = [0, 1, 2].map((k) =>
      pointAt(ground.positions, vertices[3 * triangles[i] + k]),
    );
    return {
      at: pointAt(points, i),
      normal: unit(cross(subtract(b, a), subtract(c, a))),
    };
  });
}

/** Middle of the underside: what a copy stands on. */
function footOf(part: Part): [number, number, number] {
  const { min, max } = boundsOf(part.source!.positions);
  return [(min[0] + max[0]) / 2, min[1], (min[2] + max[2]) / 2];
}

/** From standing on its foot to standing on a point along a direction. */
function standing(
  foot: readonly number[],
  at: readonly number[],
  up: readonly [number, number, number],
  angle: number,
  scale: number,
): Matrix {
  const axis = cross([0, 1, 0], up);
  const lean = Math.acos(Math.max(-1, Math.min(1, dot([0, 1, 0], up))));
  const tilt = rotation(
    Math.hypot(...axis) > 1e-9 ? unit(axis) : [1, 0, 0],
    lean,
  );
  const size = [scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, 1];
  return [
    translation(at[0], at[1], at[2]),
    tilt,
    rotation([0, 1, 0], angle),
    size,
    translation(-foot[0], -foot[1], -foot[2]),
  ].reduce(multiply);
}
