import type { Asset } from "../../asset/asset";
import { extentsOf, farthestOf } from "../../asset/extents";
import { movedRecord } from "../../decimate/kept-record";
import { mapParts } from "../../asset/parts";
import { MissingInputError } from "../../base/errors";
import { defineOperation, field } from "../../asset/operation";
import { boundsOf } from "../../space/bounds";
import type { Matrix } from "../../mesh/transform";
import {
  multiply,
  rotation,
  transformHull,
  transformMesh,
  translation,
} from "../../mesh/transform";

class ScaleOptions {
  @field({
    kind: "number",
    label: "Its height is",
    empty: "by the factor",
    help: "Scales the whole asset so that it is this high; 0 uses the factor.",
    unit: "m",
    min: 0,
    max: 10000,
    step: 0.01,
  })
  height = 0;

  @field({
    kind: "number",
    label: "Factor",
    help: "Everything becomes this many times as large.",
    unit: "×",
    min: 0.000001,
    max: 1000000,
    step: 0.1,
  })
  factor = 1;

  @field({
    kind: "choice",
    label: "Turn",
    help: "Turns the whole asset by a quarter, such as when the wrong axis points up.",
    choices: [
      { value: "none", label: "not at all" },
      { value: "x+", label: "forwards, about x" },
      { value: "x-", label: "backwards, about x" },
      { value: "y+", label: "left, about y" },
      { value: "y-", label: "right, about y" },
      { value: "z+", label: "sideways, about z" },
      { value: "z-", label: "the other way, about z" },
    ],
  })
  turn = "none";

  @field({
    kind: "flag",
    label: "Stand on the ground",
    help: "Moves the asset so that it stands on the grid, in its middle.",
  })
  ground = false;
}

export const setScale = defineOperation({
  id: "intake/scale",
  stage: "intake",
  title: "Set scale and axes",
  about:
    "Scales and turns the whole asset, written into the vertices, so that texels per metre mean something.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: ScaleOptions,
  run(asset, options) {
    const turned = turnOf(options.turn);
    const high = heightOf(underMatrix(asset, turned));
    if (!(high > 0) && options.height)
      throw new MissingInputError("the asset has no height to scale by");
    const factor = options.height ? options.height / high : options.factor;
    const size: Matrix = [
      factor,
      0,
      0,
      0,
      0,
      factor,
      0,
      0,
      0,
      0,
      factor,
      0,
      0,
      0,
      0,
      1,
    ];
    let next = underMatrix(asset, multiply(size, turned));
    if (options.ground) {
      const { min, max } = boundsOf(...cloudsOf(next));
      next = underMatrix(
        next,
        translation(-(min[0] + max[0]) / 2, -min[1], -(min[2] + max[2]) / 2),
      );
    }
    const metres = extentsOf(next);
    return {
      asset: withSize(next, {
        sizeMetres: metres,
        farthestMetres: farthestOf(next),
      }),
      headline: "",
      report: {
        factor,
        sizeMetres: metres,
        summary: `${metres.map((x) => x.toFixed(3)).join(" × ")} m`,
      },
    };
  },
});

/** The size and the place that Intake shows are those of now. */
function withSize(asset: Asset, now: object): Asset {
  const { intake } = asset.results;
  if (!intake) return asset;
  const report = { ...intake.report, ...now };
  return {
    ...asset,
    results: { ...asset.results, intake: { ...intake, report } },
  };
}

const cloudsOf = (asset: Asset) =>
  asset.parts.flatMap((part) =>
    [part.source, part.game].flatMap((mesh) => (mesh ? [mesh.positions] : [])),
  );

function heightOf(asset: Asset): number {
  const { min, max } = boundsOf(...cloudsOf(asset));
  return max[1] - min[1];
}

function turnOf(turn: string): Matrix {
  const axis = "xyz".indexOf(turn[0]);
  const along = [0, 0, 0];
  if (axis >= 0) along[axis] = 1;
  const quarter = turn.endsWith("+") ? Math.PI / 2 : -Math.PI / 2;
  // A quarter turn is exact: its sines and cosines are whole.
  return rotation(along, axis < 0 ? 0 : quarter).map((x) =>
    Math.abs(x) < 1e-12 ? 0 : Math.round(x),
  );
}

/** The asset with everything moved; repeats stand in the moved world as they did in the old one. */
function underMatrix(asset: Asset, m: Matrix): Asset {
  const factor = Math.cbrt(
    Math.hypot(m[0], m[1], m[2]) *
      Math.hypot(m[4], m[5], m[6]) *
      Math.hypot(m[8], m[9], m[10]),
  );
  const back = inverseOf(m, factor);
  return {
    ...mapParts(asset, (part) => ({
      ...part,
      source: part.source && transformMesh(part.source, m),
      game: part.game && transformMesh(part.game, m),
      previousUnwrap:
        part.previousUnwrap && transformMesh(part.previousUnwrap, m),
      levels: part.levels.map((level) => transformMesh(level, m)),
      standIns: part.standIns.map((each) => ({
        ...each,
        rms: factor * each.rms,
        max: factor * each.max,
      })),
      dense: part.dense && transformMesh(part.dense, m),
      light: part.light && transformMesh(part.light, m),
      tried: part.tried && transformMesh(part.tried, m),
      hulls: part.hulls.map((hull) => transformHull(hull, m, hull.name)),
      repeat: part.repeat && {
        ...part.repeat,
        matrix: [m, part.repeat.matrix, back].reduce(multiply),
      },
    })),
    record: asset.record && movedRecord(asset.record, m, factor),
  };
}

/** Inverse of a matrix that turns, scales evenly and moves. */
function inverseOf(m: Matrix, factor: number): Matrix {
  const s = 1 / (factor * factor);
  const r = [m[0], m[4], m[8], m[1], m[5], m[9], m[2], m[6], m[10]].map(
    (x) => x * s,
  );
  const move = [0, 1, 2].map(
    (k) => -(r[k] * m[12] + r[3 + k] * m[13] + r[6 + k] * m[14]),
  );
  return [
    r[0],
    r[1],
    r[2],
    0,
    r[3],
    r[4],
    r[5],
    0,
    r[6],
    r[7],
    r[8],
    0,
    ...move,
    1,
  ];
}
