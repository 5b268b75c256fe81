import { chosenParts } from "../../asset/asset";
import { defineOperation, field } from "../../asset/operation";
import { PartsOptions } from "../../asset/parts-options";
import { workedParts } from "../../asset/repeats";
import { ArnikError, MissingInputError } from "../../base/errors";
import { boxMesh, capsuleMesh } from "../../mesh/collider-shape";
import type { ConvexMesh } from "../../mesh/hull";
import { WORLD_AXES } from "../../space/principal-axes";
import { freeName, withHandHulls } from "../methods/hand-hulls";
import { meshForHulls, pointsOf } from "../methods/hull-meshes";
import type { ShapeWanted } from "../methods/hulls";
import { KINDS, shapeRound } from "../methods/hulls";
import { ONE_SHAPE } from "./reshape-hulls";

type OneShape = Exclude<ShapeWanted, "hulls" | "best" | "ground">;
const FAR = 1_000_000;
const at = (way: string) => ({
  kind: "number" as const,
  label: `Middle, ${way}`,
  help: "Only where a size is given.",
  unit: "mm",
  min: -FAR,
  max: FAR,
  folded: true,
});

class PlaceOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "Shape",
    help: "Which shape to add.",
    choices: ONE_SHAPE,
  })
  kind: OneShape = "box";

  @field({
    kind: "number",
    label: "Size",
    empty: "round the parts",
    help: "How large it is at first; 0 puts it round the chosen parts, as small as it may be.",
    unit: "mm",
    min: 0,
    max: FAR,
  })
  size = 0;

  @field(at("x"))
  x = 0;

  @field(at("y"))
  y = 0;

  @field(at("z"))
  z = 0;

  @field({
    kind: "integer",
    label: "Vertices",
    help: "At the most in a convex hull; a prism has half as many sides.",
    min: 4,
    max: 255,
    folded: true,
  })
  vertices = 32;
}

/** Points of a shape of a size about a place, metres: what is put round them is that shape. */
function shapeAt(
  kind: OneShape,
  size: number,
  centre: readonly number[],
  vertices: number,
): ConvexMesh {
  const half = size / 2;
  if (kind === "sphere") return capsuleMesh(centre, centre, half);
  if (kind === "capsule") {
    const end = (way: number) =>
      centre.map((x, k) => (k === 1 ? x + (way * half) / 2 : x));
    return capsuleMesh(end(-1), end(1), half / 2);
  }
  const box = boxMesh(
    WORLD_AXES,
    centre.map((x) => [x - half, x + half]),
  );
  if (kind !== "prism") return box;
  const round = capsuleMesh(centre, centre, half).positions;
  const drum = Float32Array.from([...round, ...round], (x, i) =>
    i % 3 === 1 ? centre[1] + (i < round.length ? half : -half) : x,
  );
  return shapeRound(drum, "prism", vertices) ?? box;
}

export const placeShape = defineOperation({
  id: "collide/place",
  stage: "collide",
  title: "Place a shape",
  about:
    "Adds a shape by hand: round chosen parts, or of a size at a place. It goes with the first of them.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "collide/hulls",
  Options: PlaceOptions,
  run(asset, options, context) {
    const chosen = chosenParts(asset, options.parts);
    const parts = workedParts(asset).filter(({ name }) => chosen.has(name));
    if (!parts.length)
      throw new MissingInputError(
        "the chosen parts are locked, or are repeats: their hulls follow what they repeat",
      );
    const [first] = parts;
    const { kind, size, vertices } = options;
    const centre = [options.x, options.y, options.z].map((x) => x / 1000);
    const meshOf = meshForHulls(
      asset,
      { from: "game", smallestPiece: 0, unseenToo: true },
      () => context.check(),
    );
    const meshes = size ? [] : parts.flatMap((part) => meshOf(part) ?? []);
    if (!size && !meshes.length)
      throw new MissingInputError(
        "the chosen parts have no mesh to put a shape round: give it a size",
      );
    const made = size
      ? shapeAt(kind, size / 1000, centre, vertices)
      : shapeRound(pointsOf(meshes), kind, vertices);
    if (!made)
      throw new ArnikError(
        `${first.name} is flat: no such shape holds it, a box does`,
      );
    const hull = {
      ...made,
      name: freeName(asset, first.name),
      kind: KINDS[kind],
      byHand: true as const,
    };
    return withHandHulls(
      asset,
      (part) => (part === first ? [...part.hulls, hull] : part.hulls),
      context,
    );
  },
});
