import type { AssetDocument } from "../../../core/asset/document";
import type { BakeSize } from "../../../core/bake/methods/estimate";
import { estimateBake, paceOf } from "../../../core/bake/methods/estimate";
import type { Depth } from "../../../core/bake/methods/map-images";
import type { BakedKind } from "../../../core/base/pictures";
import { sheetOf } from "../../../core/unwrap/methods/sheet";
import { numbersOf } from "../../shared/bench";
import { aboutTime, bytes } from "../../shared/figures";
import { udims } from "../unwrap/figures";

type Options = Readonly<Record<string, unknown>>;

/** What a bake of some parts, or with none of all, has to do. */
function sizeOfBake(
  document: AssetDocument,
  options: Options,
  parts: readonly string[],
  threads: number,
): BakeSize {
  const n = numbersOf(options);
  const sheet = sheetOf(document);
  const width = Math.max(
    1,
    (n("size") || sheet.width) / Math.max(1, n("fraction")),
  );
  const height = (width * sheet.height) / sheet.width;
  const unwrap = document.results.unwrap?.report ?? {};
  const shares = (unwrap.parts ?? []) as { part: string; share: number }[];
  const chosen = shares.filter(({ part }) => parts.includes(part));
  const has = (kind: string) =>
    options[kind] === true || ((options.also ?? []) as string[]).includes(kind);
  const isCard =
    ((options.cards ?? []) as string[]).length > 0 ||
    document.parts.some(({ standIns }) =>
      standIns.some(({ shape }) => shape === "card"),
    );
  const maps = (["normal", "ao"] as BakedKind[]).filter(has);
  return {
    ...{ width, height, threads },
    sourceTriangles: document.parts.reduce(
      (sum, { source, dense, skinned }) =>
        sum + (((skinned && dense) || source)?.triangles ?? 0),
      0,
    ),
    sheets: udims(document).length,
    covered: parts.length
      ? chosen.reduce((sum, { share }) => sum + share, 0)
      : numbersOf(unwrap)("fill"),
    maps: [
      ...maps,
      ...((options.also ?? []) as BakedKind[]),
      ...(isCard && !has("opacity") ? (["opacity"] as const) : []),
      "status",
    ],
    depth:
      options.depth === "8" || options.depth === "16"
        ? (Number(options.depth) as Depth)
        : "map",
    rays: n("rays"),
    grid: Math.max(1, n("samples")),
  };
}

/** How fast bakes of this asset went, by the last one if it was whole. */
function paceHere(document: AssetDocument, threads: number): number {
  const { options, report } = document.results.bake ?? {};
  const count = (name: string) => ((report?.[name] ?? []) as unknown[]).length;
  const isWhole =
    count("maps") > 0 &&
    count("maps") <= count("bakedMaps") &&
    count("counts") === count("baked");
  return options && isWhole
    ? paceOf(
        sizeOfBake(document, options, [], threads),
        numbersOf(report!)("seconds"),
      )
    : 1;
}

/**
 * What a bake will take, in words; "" before anything is laid out.
 * @param parts names of chosen parts; none for all
 */
export function estimateWords(
  document: AssetDocument,
  options: Options,
  parts: readonly string[],
  threads: number,
): string {
  const size = sizeOfBake(document, options, parts, threads);
  if (!(size.covered > 0)) return "";
  const made = estimateBake(size, paceHere(document, threads));
  const what = parts.length ? "The chosen parts take" : "A whole bake takes";
  return `${what} ${aboutTime(made.seconds)} and ${bytes(Number(made.bytes.toPrecision(2)))} of memory.`;
}
