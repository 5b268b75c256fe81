import type { Asset, Part } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { workedParts } from "../../asset/repeats";
import { ArnikError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import { settledOf } from "../../settle/settled-of";
import { boundsOf, diagonalOf } from "../../space/bounds";
import type { Canvas } from "./canvas";
import { canvasOf } from "./canvas";
import type { Channel } from "./channels";
import type { Catching } from "./catching";
import { holdersOf, piecesOf, shadersOf } from "./catching";
import { sharpened } from "./rounded-edges";
import type { Target } from "./targets";
import type { ColourPicture } from "./source-pictures";
import { colourPictures } from "./source-pictures";
import { MOST_PICTURES, TargetList } from "./targets";

/** All that the baking kernel needs; copied to every thread once. */
export interface BakeScene {
  /** px */
  width: number;
  height: number;
  canvases: Canvas[];
  targets: Target[];
  /** On the materials of the sources, where their colour is asked for. */
  pictures: ColourPicture[];
  /** How far occlusion rays reach, metres. */
  reach: number;
  /** Half the angle of the cone that they fill, radians. */
  cone: number;
  /** At which radius curvature is told, and how deep thickness looks, metres. */
  radius: number;
  depthUnder: number;
  /** Whether what rays meet on cards is see-through, and not what they miss. */
  inverts: boolean;
  /** Rays a texel, 0 for none; samples along each side of a texel. */
  rays: number;
  grid: number;
  /** What is found for every texel. */
  channels: Channel[];
  /** Longest extent of everything, metres. */
  size: number;
}

export interface SceneOptions extends Partial<Catching> {
  /** px */
  width: number;
  height: number;
  rays: number;
  grid: number;
  /** Ray distance for all parts in metres, or 0 to find it for each; and those of single parts. */
  distance: number;
  distances?: ReadonlyMap<string, number>;
  /** What is found for every texel; normals, and with rays occlusion, where left out. */
  channels?: Channel[];
  /** Metres; 0 or left out to follow from the size of everything. */
  reach?: number;
  radius?: number;
  depthUnder?: number;
  /** Angle of the cone of occlusion rays, degrees; the whole sky where left out. */
  cone?: number;
  /** Whether a floor under everything hides the sky from below. */
  floor?: boolean;
  /** Radius of hard edges that have none of their own, metres; 0 or left out for none. */
  round?: number;
  /** Parts that are baked; all where left out. */
  only?: readonly string[];
  /** Parts whose rays may go through them, and whether what they meet is see-through instead. */
  cards?: readonly string[];
  inverts?: boolean;
  /** What was made of the same sources for the same maps before, for a scene that only differs in settings. */
  made?: Map<string, Target>;
}

/** Whether edges are baked round, of all parts or of some. */
export const roundsEdges = (
  { parts }: Asset,
  { round }: Pick<SceneOptions, "round">,
): boolean =>
  (round ?? 0) > 0 || parts.some(({ game }) => game?.rounds != null);

/**
 * Whether game meshes without a source are baked from themselves: round edges need none. Sources that are only baked
 * would hide in them.
 */
export const bakesItself = (
  asset: Asset,
  options: Pick<SceneOptions, "round">,
): boolean =>
  roundsEdges(asset, options) &&
  !asset.parts.some((part) => part.source && !part.game);

/** What is baked of a part: its source, or what lies under its new skin. */
export const bakedFrom = ({ source, dense, skinned }: Part): Mesh | null =>
  skinned ? (dense ?? source) : source;

/** The same as it is worked on. */
function bakedSource(part: Part, check?: () => void): Mesh | null {
  const from = bakedFrom(part);
  return from && settledOf(from, check).mesh;
}

/** The asset with what is baked of each part as its source. */
function asBaked(
  asset: Asset,
  options: SceneOptions,
  check?: () => void,
): Asset {
  const itself = bakesItself(asset, options);
  return mapParts(asset, (part) => ({
    ...part,
    source:
      bakedSource(part, check) ??
      (itself && part.game ? sharpened(part.game) : null),
  }));
}

/**
 * Prepares baking: parts catch their own source, what is only baked, and what else they are told to. What is only
 * baked is for all, or where parts stand apart for the one that it lies nearest to.
 */
export function prepareScene(
  given: Asset,
  options: SceneOptions,
  check?: () => void,
): BakeScene {
  const asset = asBaked(given, options, check);
  const channels = options.channels ?? [
    "normal",
    ...(options.rays > 0 ? (["sky"] as const) : []),
  ];
  const withSource = asset.parts.filter((part) => part.source);
  const box = boundsOf(...withSource.map((part) => part.source!.positions));
  const diagonal = diagonalOf(box);
  const pictures = channels.includes("colour") ? colourPictures(asset) : [];
  if (pictures.length > MOST_PICTURES)
    throw new ArnikError(
      `${pictures.length} materials of the sources have pictures: colour is baked of ${MOST_PICTURES} at most`,
    );
  const list = new TargetList(
    asset,
    channels,
    pictures,
    options.floor ? box : null,
    options.made,
  );
  const loose = withSource.filter((part) => !part.game);
  const holders = options.apart ? holdersOf(asset) : null;
  const shaders = shadersOf(asset, options, holders);
  const canvases: Canvas[] = [];
  for (const part of workedParts(asset)) {
    if (!part.game?.uvs) continue;
    if (options.only && !options.only.includes(part.name)) continue;
    check?.();
    const near = loose.filter(
      ({ name }) => !holders || holders.get(name) === part.name,
    );
    const more = (options.catches?.get(part.name) ?? []).flatMap((name) =>
      withSource.filter(
        (each) => each.name === name && each !== part && !near.includes(each),
      ),
    );
    const around =
      options.rays > 0
        ? list.of(
            withSource.filter(({ name }) => shaders(part.name, name)),
            true,
          )
        : -1;
    canvases.push(
      ...canvasesOf(
        part,
        [near, ...more.map((each) => [each])],
        around,
        list,
        options,
      ),
    );
  }
  return {
    width: options.width,
    height: options.height,
    canvases,
    targets: list.targets,
    pictures,
    reach: options.reach || 0.4 * diagonal,
    cone: ((options.cone ?? 180) / 360) * Math.PI,
    radius: options.radius || 0.01 * diagonal,
    depthUnder: options.depthUnder || 0.05 * diagonal,
    inverts: options.inverts ?? false,
    rays: options.rays,
    grid: options.grid,
    channels: [...channels],
    size: diagonal,
  };
}

/** What is baked of a part: all of it, or each of its pieces. @param others what it catches besides its own source */
function canvasesOf(
  part: Part,
  others: readonly (readonly Part[])[],
  around: number,
  list: TargetList,
  options: SceneOptions,
): Canvas[] {
  const pieces =
    part.source && options.pieces?.includes(part.name)
      ? piecesOf(part.source, part.game!)
      : [{ source: part.source, game: part.game! }];
  const sources = others.flat().map((each) => each.source!);
  return pieces.map((piece, i) => {
    const own =
      piece.source === part.source
        ? list.of(part.source ? [part] : [])
        : list.ofPiece(part, piece.source, i);
    const targets = [own, ...others.map((parts) => list.of(parts))].filter(
      (target) => target >= 0,
    );
    return canvasOf(
      {
        part: part.name,
        card: options.cards?.includes(part.name) ?? false,
        own,
        around,
      },
      piece.game,
      own >= 0 ? [piece.source!] : sources,
      targets.map((target) => list.targets[target]),
      targets,
      options.distances?.get(part.name) || options.distance,
      options.round ?? 0,
      own >= 0 ? sources : [],
    );
  });
}
