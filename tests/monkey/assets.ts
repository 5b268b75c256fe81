import type { Asset, Part } from "../../core/asset/asset";
import { createAsset, createPart } from "../../core/asset/asset";
import type { Mesh } from "../../core/mesh/mesh";
import { seededRandom } from "../../core/base/random";
import { CAD_DIRT, cadPart } from "../cad-like";
import { prism } from "../planted";
import { DIRTY, MERGED, scanLike } from "../scan-like";
import {
  cube,
  joined,
  moved,
  sheetMesh,
  sphere,
  strewn,
  torus,
  tubeMesh,
} from "../shapes";

/** Random numbers of a seed, in the ways that are needed of them. */
export class Dice {
  readonly random: () => number;

  constructor(seed: number) {
    this.random = seededRandom(seed);
  }

  /** A whole number of `from` to `to`, both included. */
  whole(from: number, to: number): number {
    return from + Math.floor(this.random() * (to - from + 1));
  }

  one<T>(list: readonly T[]): T {
    return list[this.whole(0, list.length - 1)];
  }

  often(share: number): boolean {
    return this.random() < share;
  }
}

/** Small bodies, clean and dirty, closed and open, of triangles, quads and polygons of more corners. */
const BODIES: ((dice: Dice) => Mesh)[] = [
  cube,
  (dice) => prism(dice.whole(3, 9), dice.often(0.5) ? 0.4 : 0),
  (dice) => sphere(dice.whole(4, 10), dice.whole(5, 12)),
  (dice) => torus(dice.whole(6, 12), dice.whole(4, 8)),
  (dice) => tubeMesh(dice.whole(5, 10), dice.whole(2, 5)),
  (dice) => sheetMesh(dice.whole(2, 6)),
  (dice) => joined(cube(), moved(sphere(5, 7), dice.random() * 3, 0, 0)),
  (dice) => strewn(dice.whole(2, 6), dice.whole(1, 99)),
  (dice) => scanLike(dice.whole(1, 40), 500, dice.often(0.5) ? MERGED : DIRTY),
  (dice) => cadPart(dice.whole(1, 40), 400, CAD_DIRT),
];

/** Usual sizes, in metres, and with them a speck and a ship. */
const SIZES = [0.01, 0.2, 1, 1, 1, 3, 40];

function placed(mesh: Mesh, dice: Dice, size: number): Mesh {
  const shift = [0, 1, 2].map(() => size * (dice.random() - 0.5) * 4);
  const sizes = [0, 1, 2].map(() => size * (0.5 + dice.random()));
  return {
    ...mesh,
    positions: mesh.positions.map((x, i) => x * sizes[i % 3] + shift[i % 3]),
    ...(dice.often(0.2) && {
      materials: ["oak", "brass"],
      faceMaterials: new Uint16Array(mesh.faceStarts.length - 1).map(() =>
        dice.whole(0, 1),
      ),
    }),
  };
}

/** An asset of a few small parts, some of them with a game mesh, some locked, and a brief of any kind. */
export function randomAsset(seed: number): { asset: Asset; dice: Dice } {
  const dice = new Dice(seed);
  const size = dice.one(SIZES);
  const parts = Array.from({ length: dice.whole(1, 4) }, (_, i): Part => {
    const source = placed(dice.one(BODIES)(dice), dice, size);
    const game = dice.often(0.3) ? { game: source } : {};
    return createPart(`part ${i + 1}`, i, {
      ...(dice.often(0.9) || !game.game ? { source } : {}),
      ...game,
      locked: i > 0 && dice.often(0.2),
      group: dice.often(0.2) ? "rig" : "",
    });
  });
  const asset = createAsset("monkey", parts);
  return {
    dice,
    asset: {
      ...asset,
      brief: {
        ...asset.brief,
        triangles: dice.whole(12, 400),
        levels: dice.often(0.3) ? [8] : [],
        sheetSize: dice.one([64, 128, 256]),
        sheetHeight: dice.often(0.2) ? 64 : 0,
        sheets: dice.one([1, 1, 1, 2, 3]),
        padding: dice.one([0, 1, 2, 4]),
        texelsPerMetre: dice.often(0.1) ? dice.one([1, 30, 1e5]) : 0,
        vertices: dice.often(0.2) ? dice.whole(20, 400) : 0,
        hulls: dice.whole(1, 12),
      },
    },
  };
}
