import type { Asset } from "../../asset/asset";
import { partOf, profileOf } from "../../asset/asset";
import { defineOperation, field } from "../../asset/operation";
import { INPUTS } from "../../asset/stale";
import { hasCard } from "../../asset/stand-ins";
import { MissingInputError, OptionsError } from "../../base/errors";
import type { MapKind } from "../../base/pictures";
import { MAP_KINDS, MAP_TITLES } from "../../base/pictures";
import { MOST_ROUND } from "../../mesh/rounds";
import { udimOf } from "../../mesh/tiles";
import { readDistances } from "../methods/distances";
import {
  findingsAfter,
  findingsBefore,
  findingsOfMaps,
  findingsOfPlan,
} from "../methods/findings";
import type { MapsWanted, PartCounts } from "../methods/maps";
import { bakeMaps, missedShares } from "../methods/maps";
import { printOfMap } from "../methods/prints";
import type { BakeTrace } from "../methods/standing";
import { planBake } from "../methods/standing";
import { COUNTS } from "../methods/status";

/** Maps besides the two that every asset has. */
const FURTHER = MAP_KINDS.filter(
  (kind) => kind !== "normal" && kind !== "ao" && kind !== "status",
);

/** Texels of a sheet up to which what became of their rays is kept: on larger ones it would take half a gigabyte. */
const MOST_TOLD = 4096 ** 2;

class BakeOptions {
  @field({
    kind: "flag",
    label: "Normal map",
    help: "Tangent space, MikkTSpace.",
  })
  normal = true;

  @field({
    kind: "flag",
    label: "Ambient occlusion",
    help: "How much of the sky every texel sees.",
  })
  ao = true;

  @field({
    kind: "choices",
    label: "Further maps",
    help: "What else is baked.",
    empty: "none",
    choices: FURTHER.map((kind) => ({ value: kind, label: MAP_TITLES[kind] })),
  })
  also: MapKind[] = [];

  @field({
    kind: "integer",
    label: "Rays",
    help: "Rays a texel for occlusion, bent normals, curvature, thickness and visibility; more are smoother and slower.",
    min: 4,
    max: 1024,
  })
  rays = 64;

  @field({
    kind: "integer",
    label: "Samples",
    help: "Normal samples along each side of a texel.",
    min: 1,
    max: 4,
    folded: true,
  })
  samples = 2;

  @field({
    kind: "number",
    label: "Ray distance",
    empty: "found for each part",
    help: "How far rays start outside the game mesh; 0 finds it for each part.",
    unit: "mm",
    min: 0,
    max: 10000,
    folded: true,
  })
  distance = 0;

  @field({
    kind: "text",
    label: "Distances of parts",
    help: "Ray distances of single parts in mm, such as lid = 4.2; body = 1.5.",
    max: 4000,
    folded: true,
  })
  distances = "";

  @field({
    kind: "parts",
    label: "Parts",
    help: "Bakes these parts only, into the maps that stand; the other islands keep what they have. None for all that has changed.",
  })
  parts: string[] = [];

  @field({
    kind: "choice",
    label: "Depth",
    help: "Bits of each channel in the PNG; normals, position, gradient and height are dithered at 8.",
    choices: [
      { value: "map", label: "16 bit where steps would show" },
      { value: "8", label: "8 bit" },
      { value: "16", label: "16 bit" },
    ],
    folded: true,
  })
  depth: "map" | "8" | "16" = "map";

  @field({
    kind: "number",
    label: "Rounded edges",
    empty: "sharp",
    help: "Radius of the bevel that normals show on hard edges, with a source or without one; edges may have their own from Edges.",
    unit: "mm",
    min: 0,
    max: 1000 * MOST_ROUND,
  })
  round = 0;

  @field({
    kind: "number",
    label: "Occlusion reach",
    empty: "two fifths of the asset",
    help: "How far away something still darkens; 0 follows from the asset's size.",
    unit: "mm",
    min: 0,
    max: 1e6,
    folded: true,
  })
  reach = 0;

  @field({
    kind: "number",
    label: "Occlusion cone",
    help: "Angle of the cone in which occlusion and bent normals look; 180 is the whole sky.",
    unit: "°",
    min: 5,
    max: 180,
    folded: true,
  })
  cone = 180;

  @field({
    kind: "flag",
    label: "Floor",
    help: "A floor under everything hides the sky from below.",
    folded: true,
  })
  floor = false;

  @field({
    kind: "number",
    label: "Curvature radius",
    empty: "a hundredth of the asset",
    help: "At which radius the source is told convex or hollow; 0 follows from the asset's size.",
    unit: "mm",
    min: 0,
    max: 1e5,
    folded: true,
  })
  radius = 0;

  @field({
    kind: "number",
    label: "Thickness depth",
    empty: "a twentieth of the asset",
    help: "What is thicker is white; 0 follows from the asset's size.",
    unit: "mm",
    min: 0,
    max: 1e6,
    folded: true,
  })
  thick = 0;

  @field({
    kind: "number",
    label: "Height range",
    empty: "as found",
    help: "What stands so far out is white, as far in black; 0 takes the largest that is found.",
    unit: "mm",
    min: 0,
    max: 1e6,
    folded: true,
  })
  range = 0;

  @field({
    kind: "choice",
    label: "Green",
    help: "Which way green points in normal maps.",
    choices: [
      { value: "profile", label: "by the profile" },
      { value: "up", label: "up" },
      { value: "down", label: "down" },
    ],
    folded: true,
  })
  green: "profile" | "up" | "down" = "profile";

  @field({
    kind: "integer",
    label: "Run islands on",
    empty: "by the padding",
    help: "Texels that islands run on into the ground; 0 takes the padding, 8192 fills it.",
    unit: "px",
    min: 0,
    max: 8192,
    folded: true,
  })
  dilate = 0;

  @field({
    kind: "parts",
    label: "Cards",
    help: "Parts whose rays may go through them, as through the holes of a net: what they miss is see-through in the opacity map and no fault. None for those that a card stands for.",
    folded: true,
    from: null,
  })
  cards: string[] = [];

  @field({
    kind: "integer",
    label: "Sheet",
    brief: "sheetSize",
    help: "Edge of the maps; 0 takes the brief's.",
    unit: "px",
    min: 0,
    max: 8192,
    folded: true,
  })
  size = 0;
}

export const bakeAsset = defineOperation({
  id: "bake/maps",
  stage: "bake",
  title: "Bake maps",
  about:
    "Casts rays from the game mesh to the source and writes what they find into maps.",
  runs: "heavy",
  takes: "both",
  makesResult: true,
  forOnce: ["parts"],
  madeFrom: ({ also }: BakeOptions) => [
    ...INPUTS.bake,
    ...((["id", "material", "part"] as const).some((kind) =>
      also.includes(kind),
    )
      ? (["source materials", "source IDs", "colours of IDs"] as const)
      : []),
    ...(also.includes("colour") ? (["source vertex colours"] as const) : []),
  ],
  Options: BakeOptions,
  async run(asset, options, context) {
    const start = performance.now();
    for (const name of options.cards) partOf(asset, name);
    const cards = options.cards.length
      ? options.cards
      : asset.parts.filter(hasCard).map(({ name }) => name);
    // A card without its mask would be a board.
    const kinds = MAP_KINDS.filter((kind) =>
      kind === "normal" || kind === "ao"
        ? options[kind]
        : options.also.includes(kind) ||
          (kind === "opacity" && cards.length > 0),
    );
    if (!kinds.length)
      throw new OptionsError("bake/maps", { also: "no map is wanted" });
    const wanted = wantedOf(asset, options, kinds, cards);
    const chosen = options.parts.map(
      (name) => partOf(asset, name).repeat?.of ?? name,
    );
    const bare = chosen.find((name) => !partOf(asset, name).game?.uvs);
    if (bare)
      throw new MissingInputError(`${bare} has no UVs: unwrap it first`);
    const trace = asset.results.bake?.report as Partial<BakeTrace> | undefined;
    const plan = planBake(asset, wanted, chosen, trace);
    const { maps, figures, parts } = await bakeMaps(
      asset,
      {
        ...wanted,
        maps: plan.maps,
        standing: plan.standing,
        stands: asset.maps.filter(
          ({ kind }) => wanted.maps.includes(kind) && !plan.maps.includes(kind),
        ),
        only: plan.left.length ? [...plan.baked, ...plan.kept] : undefined,
      },
      context,
    );
    const counts = parts.map((part) => ({
      ...part,
      ...(plan.kept.includes(part.part) &&
        countsOf(trace!.counts?.find((each) => each.part === part.part))),
      // Of a part without normals nothing is told but that.
      ...(plan.left.includes(part.part) &&
        !plan.prints.normal?.[part.part] && { angle: 0, angle95: 0 }),
    }));
    const shares = missedShares(counts);
    const missed = shares.missed * 100;
    const findings = [
      ...findingsBefore(asset, wanted),
      ...findingsOfMaps(asset, kinds),
      ...findingsOfPlan(plan),
      ...findingsAfter(counts, options.samples),
    ];
    return {
      asset: { ...asset, maps },
      headline: `${missed < 0.005 ? "0" : missed.toFixed(2)}\u2009% missed`,
      report: {
        maps: kinds,
        tiles: [...new Set(maps.map((map) => udimOf(map.tile ?? 0)))],
        size: wanted.width,
        height: wanted.height,
        ...shares,
        ...figures,
        ...(!plan.maps.includes("height") && { range: trace?.range ?? 0 }),
        baked: plan.baked,
        bakedMaps: plan.maps,
        findings,
        counts,
        prints: Object.fromEntries(
          Object.entries(plan.prints).map(([kind, prints]) => [
            kind,
            { parts: prints, map: printOfMap(maps, kind as MapKind) },
          ]),
        ),
        seconds: (performance.now() - start) / 1000,
      },
    };
  },
});

/** What the options ask for of an asset, in metres. */
function wantedOf(
  asset: Asset,
  options: BakeOptions,
  kinds: readonly MapKind[],
  cards: readonly string[],
): MapsWanted {
  const width = options.size || asset.brief.sheetSize;
  const height = Math.round(
    (width * (asset.brief.sheetHeight || asset.brief.sheetSize)) /
      asset.brief.sheetSize,
  );
  return {
    width,
    height,
    maps: width * height > MOST_TOLD ? kinds : [...kinds, "status"],
    rays: options.rays,
    grid: options.samples,
    reach: options.reach / 1000,
    cone: options.cone,
    floor: options.floor,
    radius: options.radius / 1000,
    round: options.round / 1000,
    depthUnder: options.thick / 1000,
    range: options.range / 1000,
    cards,
    distance: options.distance / 1000,
    distances: distancesOf(asset, options.distances),
    depth: options.depth === "map" ? "map" : (Number(options.depth) as 8 | 16),
    padding: options.dilate || asset.brief.padding,
    greenUp:
      options.green === "profile"
        ? profileOf(asset.brief).greenUp
        : options.green === "up",
  };
}

/** What was counted of a part's rays when they were cast. */
const countsOf = (part: PartCounts | undefined) =>
  part && {
    ...Object.fromEntries(COUNTS.map((name) => [name, part[name]])),
    farthest: part.farthest,
  };

/**
 * Ray distances of single parts, metres by the name of the part that is worked. A part that has gone since its
 * distance was given is passed over.
 * @throws OptionsError, MissingInputError
 */
function distancesOf(asset: Asset, text: string): Map<string, number> {
  const read = readDistances(text);
  if (typeof read === "string")
    throw new OptionsError("bake/maps", {
      distances: `"${read}" is not a part and its distance, such as lid = 4.2`,
    });
  const before = asset.results.bake?.options.distances;
  const found = new Map<string, number>();
  for (const [name, mm] of read) {
    const isGone =
      before === text && !asset.parts.some((part) => part.name === name);
    if (!isGone) found.set(partOf(asset, name).repeat?.of ?? name, mm / 1000);
  }
  return found;
}
