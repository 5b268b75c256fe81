import { defineOperation, field } from "../../asset/operation";
import { ArnikError, MissingInputError } from "../../base/errors";
import { boxMesh } from "../../mesh/collider-shape";
import { pointsByPlane } from "../../mesh/cut-hull";
import type { ConvexMesh, Hull } from "../../mesh/hull";
import { hullFrame, inFrame } from "../../mesh/hull-frame";
import { dot, unit } from "../../space/vector";
import { convexHull } from "../methods/convex-hull";
import { freeName, HandOptions, replaceHulls } from "../methods/hand-hulls";

const FAR = 1_000_000;
const slope = (way: string) => ({
  kind: "number" as const,
  label: `Plane faces ${way}`,
  help: "Of a plane of one's own: which way it faces.",
  min: -1,
  max: 1,
  folded: true,
});
const place = (way: string) => ({
  kind: "number" as const,
  label: `Plane lies at ${way}`,
  help: "Of a plane of one's own: a point that it goes through.",
  unit: "mm",
  min: -FAR,
  max: FAR,
  folded: true,
});

class SplitOptions extends HandOptions {
  @field({
    kind: "choice",
    label: "Cut across",
    help: "An axis of the hull, or a plane of one's own, as a line drawn over the view gives it.",
    choices: [
      { value: "longest", label: "its longest axis" },
      { value: "first", label: "its first axis" },
      { value: "second", label: "its second axis" },
      { value: "third", label: "its third axis" },
      { value: "plane", label: "a plane" },
    ],
  })
  across: "longest" | "first" | "second" | "third" | "plane" = "longest";

  @field({
    kind: "number",
    label: "Cut at",
    help: "How far along the axis, from its low end.",
    unit: "%",
    min: 1,
    max: 99,
    step: 1,
  })
  at = 50;

  @field(slope("x"))
  normalX = 1;

  @field(slope("y"))
  normalY = 0;

  @field(slope("z"))
  normalZ = 0;

  @field(place("x"))
  pointX = 0;

  @field(place("y"))
  pointY = 0;

  @field(place("z"))
  pointZ = 0;
}

interface Plane {
  normal: [number, number, number];
  /** n·x, metres. */
  offset: number;
}

function planeOf(hull: Hull, options: SplitOptions): Plane {
  if (options.across === "plane") {
    const given = [options.normalX, options.normalY, options.normalZ];
    if (!given.some((x) => x))
      throw new MissingInputError(
        "the plane faces nowhere: give it a direction",
      );
    const normal = unit(given);
    const point = [options.pointX, options.pointY, options.pointZ];
    return { normal, offset: dot(normal, point) / 1000 };
  }
  const { axes, half, centre } = hullFrame(hull);
  const k =
    options.across === "longest"
      ? half.indexOf(Math.max(...half))
      : ["first", "second", "third"].indexOf(options.across);
  const normal = unit(axes[k]);
  return {
    normal,
    offset: dot(normal, centre) + ((2 * options.at) / 100 - 1) * half[k],
  };
}

/** How nearly a plane must face along an edge of a box for its halves to be boxes. */
const SQUARE = 1e-6;

/** A box that is cut straight across is two boxes. */
function halvesOfBox(hull: Hull, { normal, offset }: Plane): ConvexMesh[] {
  const { axes, half, centre } = hullFrame(hull);
  const k = axes.findIndex((axis) => Math.abs(dot(axis, normal)) > 1 - SQUARE);
  if (hull.kind !== "box" || k < 0) return [];
  const middle = inFrame({ axes, centre: [0, 0, 0] }, centre);
  const whole = middle.map((x, a): [number, number] => [
    x - half[a],
    x + half[a],
  ]);
  const cut = offset * Math.sign(dot(axes[k], normal));
  const [low, high] = whole[k];
  if (cut <= low || cut >= high) return [];
  const with_ = (extent: [number, number]) =>
    boxMesh(
      axes,
      whole.map((each, a) => (a === k ? extent : each)),
    );
  return [with_([low, cut]), with_([cut, high])];
}

function halvesOf(hull: Hull, plane: Plane): Hull[] {
  if (hull.kind === "ground")
    throw new ArnikError(`${hull.name} is a ground mesh: it is not cut`);
  const boxes = halvesOfBox(hull, plane);
  if (boxes.length)
    return boxes.map((mesh) => ({ ...hull, ...mesh, kind: "box" as const }));
  const halves = pointsByPlane(hull, plane.normal, plane.offset).map(
    (points) => (points.length ? convexHull(points) : null),
  );
  if (halves.some((half) => !half))
    throw new ArnikError(`the plane does not pass through ${hull.name}`);
  return halves.map((mesh) => ({ ...hull, ...mesh!, kind: "convex" as const }));
}

export const splitHulls = defineOperation({
  id: "collide/split",
  stage: "collide",
  title: "Split hulls by a plane",
  about:
    "Cuts chosen hulls in two. A box that is cut straight across stays two boxes, all else becomes convex hulls.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "collide/hulls",
  Options: SplitOptions,
  run(asset, options, context) {
    const taken: string[] = [];
    return replaceHulls(
      asset,
      options.hulls,
      (hull, part) => {
        const [first, second] = halvesOf(hull, planeOf(hull, options));
        const name = freeName(asset, part.name, taken);
        taken.push(name);
        return [first, { ...second, name }];
      },
      context,
    );
  },
});
