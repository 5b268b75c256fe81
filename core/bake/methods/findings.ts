import type { Asset } from "../../asset/asset";
import { workedParts } from "../../asset/repeats";
import { length } from "../../base/units";
import { spaced } from "../../base/wording";
import { boundsOf, diagonalOf } from "../../space/bounds";
import type { BakedKind, BakedMap } from "../../base/pictures";
import { MISSED_ALLOWED } from "../../base/pictures";
import { tilesUsed, udimOf } from "../../mesh/tiles";
import type { PartCounts } from "./maps";
import type { SceneOptions } from "./scene";
import { bakesItself } from "./scene";
import type { BakePlan } from "./standing";

/** Something about a bake that an artist should know, with the reason and what mends it. */
export interface BakeFinding extends Record<string, unknown> {
  kind:
    | "missed"
    | "far"
    | "inside"
    | "slanting"
    | "no source"
    | "apart"
    | "size"
    | "nothing to show"
    | "untrue"
    | "seam"
    | "older"
    | "not baked"
    | "tried";
  part: string;
  /** Texels that it concerns; 0 where it was found before any ray was cast. */
  texels: number;
  reason: string;
  mend: string;
  /** A ray distance that would do, mm; 0 where none would. */
  distance: number;
}

/** A finding as a sentence. */
export const findingWords = ({
  part,
  reason,
  mend,
}: Pick<BakeFinding, "part" | "reason" | "mend">): string =>
  `${part && `${part}: `}${reason}; ${mend}`;

/** Shares of a part's texels from which on it is said. */
const FAR = 0.002;
const INSIDE = 0.002;
const SLANTING = 0.005;
/** Degrees that a part's look may be off its source in the mean. */
const UNTRUE = 8;
/** Degrees that its look may jump over its seams in the mean, and places on them of which nothing is told. */
const JUMPS = 12;
const FEW = 12;
/** A source is of another size, or lies elsewhere, from here on: a share of the game mesh's size. */
const OTHER_SIZE = 1.6;
const ELSEWHERE = 0.5;

/** What can be told of source and game meshes before a ray is cast: missing partners, other places, other sizes. */
export function findingsBefore(
  asset: Asset,
  wanted: Pick<SceneOptions, "round"> = {},
): BakeFinding[] {
  const needless =
    bakesItself(asset, wanted) ||
    asset.parts.some((part) => part.source && !part.game);
  return workedParts(asset).flatMap(({ name, source, game }): BakeFinding[] => {
    if (!game?.uvs) return [];
    const found = (
      kind: BakeFinding["kind"],
      reason: string,
      mend: string,
    ): BakeFinding[] => [
      { kind, part: name, texels: 0, reason, mend, distance: 0 },
    ];
    if (!source)
      return needless
        ? []
        : found(
            "no source",
            "it has no source mesh, and no other part is only baked",
            "pair it with a source at Intake",
          );
    const [of, to] = [source, game].map((mesh) => boundsOf(mesh.positions));
    const [wide, size] = [diagonalOf(of), diagonalOf(to)];
    if (!(wide > 0) || !(size > 0)) return [];
    const apart = Math.hypot(
      ...[0, 1, 2].map(
        (k) => (of.min[k] + of.max[k] - to.min[k] - to.max[k]) / 2,
      ),
    );
    if (Math.max(wide / size, size / wide) > OTHER_SIZE)
      return found(
        "size",
        `its source is ${length(wide)} across, its game mesh ${length(size)}`,
        "bring both in with the same unit, or pair it with another source at Intake",
      );
    return apart > ELSEWHERE * size
      ? found(
          "apart",
          `its source lies ${length(apart)} beside its game mesh`,
          "move one onto the other, or pair it with another source at Intake",
        )
      : [];
  });
}

/** Maps that were asked for, of which the sources say nothing. */
export function findingsOfMaps(
  { parts, looks }: Asset,
  maps: readonly BakedKind[],
): BakeFinding[] {
  const found = (what: string, mend: string): BakeFinding => ({
    kind: "nothing to show",
    part: "",
    texels: 0,
    reason: what,
    mend,
    distance: 0,
  });
  const some = (name: "ids" | "colours" | "uvs") =>
    parts.some(({ source }) => source?.[name]);
  return [
    ...(maps.includes("id") && !some("ids")
      ? [
          found(
            "no source has IDs: their map is black",
            "paint them at Survey, or bake materials or parts",
          ),
        ]
      : []),
    ...(maps.includes("colour") &&
    !some("colours") &&
    !(some("uvs") && looks.some(({ pictures }) => pictures?.colour))
      ? [
          found(
            "no source has vertex colours or pictures: their map is white",
            "bring in sources that have them",
          ),
        ]
      : []),
  ];
}

/**
 * What of the sheets was not baked this time though it should be.
 * @param out parts that were left out as asked for
 */
export function findingsOfPlan(
  { older, left }: Pick<BakePlan, "older" | "left">,
  out: ReadonlySet<string>,
): BakeFinding[] {
  const found = (
    kind: BakeFinding["kind"],
    part: string,
    reason: string,
  ): BakeFinding => ({
    kind,
    part,
    texels: 0,
    reason: out.has(part) ? `${reason}: it was left out` : reason,
    mend: "bake it too",
    distance: 0,
  });
  return [
    ...older.map((name) =>
      found("older", name, "it has changed since it was baked"),
    ),
    ...left.map((name) => found("not baked", name, "it was not baked")),
  ];
}

/** That maps are smaller than they are to be. @param parts of the edge of a sheet that they have */
export const findingsOfSize = (
  { width, height }: { width: number; height: number },
  parts: number,
): BakeFinding[] =>
  parts === 1
    ? []
    : [
        {
          kind: "tried",
          part: "",
          texels: 0,
          reason: `maps are tried at ${width} × ${height} px, ${parts === 2 ? "half" : `1/${parts}`} of the edge`,
          mend: "bake in full before they are shipped",
          distance: 0,
        },
      ];

/** Sheets with islands of which some map was not baked. */
export function findingsOfSheets(
  asset: Asset,
  maps: readonly BakedMap[],
): BakeFinding[] {
  const has = new Set(maps.map(({ kind, tile }) => `${kind} ${tile ?? 0}`));
  const kinds = [...new Set(maps.map(({ kind }) => kind))];
  const used = tilesUsed(asset.parts.flatMap(({ game }) => game ?? []));
  return used.flatMap((tile): BakeFinding[] =>
    kinds.every((kind) => has.has(`${kind} ${tile}`))
      ? []
      : [
          {
            kind: "not baked",
            part: "",
            texels: 0,
            reason: `sheet ${udimOf(tile)} was not baked`,
            mend: "bake it too",
            distance: 0,
          },
        ],
  );
}

/**
 * What became of the rays, where that was not what it should be, by part.
 * @param grid samples along each side of a texel
 */
export function findingsAfter(
  parts: readonly PartCounts[],
  grid: number,
): BakeFinding[] {
  const found: BakeFinding[] = [];
  for (const each of parts) {
    const { part, samples, distance } = each;
    const texels = (count: number) => Math.ceil(count / (grid * grid));
    const missed = each.missed - each.overhanging;
    const mm = (metres: number) => Number((1000 * metres).toPrecision(2));
    if (missed > MISSED_ALLOWED * samples) {
      const wanted = each.farthest > distance ? mm(1.1 * each.farthest) : 0;
      found.push({
        kind: "missed",
        part,
        texels: texels(missed),
        reason: wanted
          ? `${spaced(texels(missed))} texels met no source: it lies up to ${length(each.farthest)} off, rays began ${length(distance)} outside`
          : `${spaced(texels(missed))} texels met no source, though it lies within ${length(each.farthest)}: their rays slant past it`,
        mend: wanted
          ? `raise the ray distance to ${wanted} mm`
          : "more triangles or a hard edge there let rays go straight",
        distance: wanted,
      });
    }
    const say = (
      kind: "far" | "slanting" | "behind",
      from: number,
      reason: (texels: string) => string,
      mend: string,
      wanted = 0,
    ) => {
      if (each[kind] <= from * samples) return;
      const count = texels(each[kind]);
      found.push({
        kind: kind === "behind" ? "inside" : kind,
        part,
        texels: count,
        reason: reason(spaced(count)),
        mend,
        distance: wanted,
      });
    };
    if (each.angle > UNTRUE)
      found.push({
        kind: "untrue",
        part,
        texels: 0,
        reason: `what it shows is ${each.angle.toFixed(1)}° off its source in the mean, ${each.angle95.toFixed(0)}° at one point in twenty`,
        mend: "more texels or triangles there bring it nearer",
        distance: 0,
      });
    found.push(...overSeams(each));
    say(
      "far",
      FAR,
      (n) =>
        `${n} texels met the source only beyond ${length(distance)}, the part's own distance`,
      `raise the ray distance to ${mm(2 * distance)} mm, or bring the game mesh nearer`,
      mm(2 * distance),
    );
    say(
      "slanting",
      SLANTING,
      (n) =>
        `rays of ${n} texels slanted past the source and went straight off the surface instead`,
      "more triangles or a hard edge there let them run evenly",
    );
    say(
      "behind",
      INSIDE,
      (n) =>
        `rays of ${n} texels began inside the source and met the back of it first`,
      `lower the ray distance to ${mm(distance / 2)} mm, or move parts that touch apart`,
      mm(distance / 2),
    );
  }
  return found;
}

/** What is told of a part whose look jumps over its seams. */
function overSeams({ part, seams }: PartCounts): BakeFinding[] {
  if (!seams || seams.places < FEW || seams.mean <= JUMPS) return [];
  return [
    {
      kind: "seam",
      part,
      texels: 0,
      reason: `over its seams the look jumps by ${seams.mean.toFixed(1)}° in the mean, by ${seams.p95.toFixed(0)}° at one place in twenty`,
      mend: "a larger sheet, more samples, or seams where less shows bring both sides together",
      distance: 0,
    },
  ];
}
