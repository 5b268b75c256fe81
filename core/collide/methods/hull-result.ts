import type { Asset, Part } from "../../asset/asset";
import type { Report } from "../../asset/operation";
import { ownHulls } from "../../mesh/hull";
import type { HullMeshes } from "./hull-meshes";
import { meshForHulls } from "./hull-meshes";
import type { ShapeWanted } from "./hulls";
import type { HullFigures } from "./measure-hulls";
import { measureHulls } from "./measure-hulls";

/** What of the way hulls were asked for their figures are held against. */
export interface HullPromise extends HullMeshes {
  kind: ShapeWanted;
  /** At the most over all that is made; 0 takes the brief's. */
  maxHulls: number;
  /** How far a shape may stand off, and gaps that may be covered, millimetres; 0 where nothing was said. */
  error: number;
  smallestGap: number;
}

/** The figures of the hulls of some parts, and what of what was asked for they break. */
export function hullResult(
  asset: Asset,
  parts: readonly Part[],
  asked: HullPromise,
  check: () => void,
): { headline: string; report: Report } {
  const meshOf = meshForHulls(asset, asked, check);
  const total = asset.parts.reduce(
    (sum, part) => sum + ownHulls(part.hulls).length,
    0,
  );
  const figures = measureHulls(
    parts.flatMap(({ hulls }) => ownHulls(hulls)),
    parts.flatMap((part) => meshOf(part) ?? []),
    check,
  );
  const mostHulls = asked.maxHulls || asset.brief.hulls;
  return {
    headline: `${total} ${total === 1 ? "hull" : "hulls"}`,
    report: {
      ...figures,
      allowed: allowedOff(asked),
      ...brokenPromise(figures, mostHulls, asked),
    },
  };
}

/** How far a shape may stand off, metres; null where nothing was said of it. */
const allowedOff = ({ error, smallestGap }: HullPromise): number | null =>
  error > 0
    ? Math.max(error, smallestGap / 2) / 1000
    : smallestGap / 2000 || null;

/** What was asked for and could not be had, in words; nothing where all was. */
function brokenPromise(
  { hulls, maxDistance, outside }: HullFigures,
  mostHulls: number,
  asked: HullPromise,
): { failed?: string } {
  const error = asked.error / 1000;
  const smallestGap = asked.smallestGap / 1000;
  const mm = (metres: number) => `${(1000 * metres).toFixed(1)} mm`;
  if (hulls > mostHulls && asked.kind !== "ground")
    return {
      failed: `${hulls} hulls are the fewest here, ${mostHulls} are allowed: what is repeated has a hull of its own wherever it stands`,
    };
  // What is measured is held to the limit but for rounding.
  const limit = (allowedOff(asked) ?? Infinity) * 1.001;
  if (maxDistance > limit && smallestGap / 2 >= error)
    return {
      failed: `a gap of ${mm(2 * maxDistance)} is covered, and ${mm(smallestGap)} count: allow more hulls`,
    };
  if (maxDistance > limit)
    return {
      failed: `a shape stands ${mm(maxDistance)} off, ${mm(error)} are allowed: allow more hulls, or another shape`,
    };
  if (error > 0 && outside > error * 1.001)
    return {
      failed:
        asked.kind === "ground"
          ? `the mesh lies ${mm(outside)} off its ground, ${mm(error)} are allowed`
          : `the mesh stands ${mm(outside)} out of its shapes, ${mm(error)} are allowed: allow more vertices`,
    };
  return {};
}
