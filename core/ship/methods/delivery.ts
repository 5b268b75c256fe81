import type { Asset, Part } from "../../asset/asset";
import { hasCard } from "../../asset/stand-ins";
import { MissingInputError } from "../../base/errors";
import type { NamedMesh } from "../../formats/raw-mesh";
import type { Hull } from "../../mesh/hull";
import type { Mesh } from "../../mesh/mesh";
import { boundsOf } from "../../space/bounds";
import type { Matrix } from "../../mesh/transform";
import { multiply, translation } from "../../mesh/transform";
import type { Vector } from "../../space/vector";
import type { Names } from "./names";

/** Which point of what is delivered lies at 0, 0, 0. */
export type Pivot = "origin" | "bottom" | "centre" | "point";

/** The meshes that go into one file, with their point at 0, 0, 0. */
export interface Delivery {
  /** What its file is called, without an ending. */
  name: string;
  parts: NamedMesh[];
  /** By the name of the part's mesh, nearest first. */
  levels: ReadonlyMap<string, readonly NamedMesh[]>;
  hulls: (Hull & { of: string })[];
  /** Materials of cards. */
  cards: string[];
  /** The point that lies at 0, 0, 0, metres. */
  pivot: Vector;
  /** Parts that repeat another one of them, by the names of both meshes, and where. */
  repeats: { name: string; of: string; matrix: Matrix }[];
}

export interface DeliveryWanted {
  /** Names of parts; all where empty. */
  parts: readonly string[];
  /** Whether each part gets a file of its own. */
  split: boolean;
  pivot: Pivot;
  /** Where pivot is a point, metres. */
  point: Vector;
  levels: boolean;
  hulls: boolean;
}

/**
 * The parts of an asset that are delivered, without levels and hulls where those stay behind.
 * @throws MissingInputError where none of them has a game mesh
 */
export function deliveredParts(
  { parts }: Asset,
  wanted: Pick<DeliveryWanted, "parts" | "levels" | "hulls">,
): Part[] {
  const found = parts.filter(
    (part) =>
      part.game && (!wanted.parts.length || wanted.parts.includes(part.name)),
  );
  if (!found.length)
    throw new MissingInputError(
      "there is no game mesh to ship: make one at Reduce",
    );
  return found.map((part) => ({
    ...part,
    levels: wanted.levels ? part.levels : [],
    // Hulls of a level go where that goes.
    hulls: wanted.hulls
      ? part.hulls.filter(
          ({ level = 0 }) => level <= (wanted.levels ? part.levels.length : 0),
        )
      : [],
  }));
}

/** What is delivered, file by file. Levels and hulls of a part share its pivot. */
export const deliveriesOf = (
  parts: readonly Part[],
  wanted: Pick<DeliveryWanted, "split" | "pivot" | "point">,
  names: Names,
): Delivery[] =>
  wanted.split
    ? parts.map((part) =>
        deliveryOf([part], wanted, names, names.partFile(part.name)),
      )
    : [deliveryOf(parts, wanted, names, names.file())];

function deliveryOf(
  parts: readonly Part[],
  wanted: Pick<DeliveryWanted, "pivot" | "point">,
  names: Names,
  name: string,
): Delivery {
  const pivot = pivotOf(
    parts.map(({ game }) => game!),
    wanted,
  );
  const mesh = (given: Mesh): Mesh => ({
    ...given,
    positions: moved(given.positions, pivot),
  });
  return {
    name,
    pivot,
    parts: parts.map((part) => ({
      name: names.mesh(part.name),
      mesh: mesh(part.game!),
    })),
    levels: new Map(
      parts.flatMap((part) =>
        part.levels.length
          ? [
              [
                names.mesh(part.name),
                part.levels.map((level, l) => ({
                  name: names.level(part.name, l + 1),
                  mesh: mesh(level),
                })),
              ],
            ]
          : [],
      ),
    ),
    hulls: hullsOf(parts, names).map((hull) => ({
      ...hull,
      positions: moved(hull.positions, pivot),
    })),
    repeats: repeatsOf(parts, names, pivot),
    cards: parts.flatMap((part) => (hasCard(part) ? part.game!.materials : [])),
  };
}

/** Hulls by the pattern, counted by what they are hulls of: a part, or where they hold several together, what those are. */
function hullsOf(parts: readonly Part[], names: Names): Delivery["hulls"] {
  const counts = new Map<string, number>();
  return parts.flatMap((part) =>
    part.hulls.map((hull) => {
      // One that was called otherwise by hand stands for itself.
      const [, label = hull.name] = /^(.+)_hull_\d+$/.exec(hull.name) ?? [];
      const number = (counts.get(label) ?? 0) + 1;
      counts.set(label, number);
      const { level } = hull;
      const own = level
        ? label.replace(new RegExp(`_lod${level}$`), "")
        : label;
      return {
        ...hull,
        name: names.hull(level ? names.level(own, level) : own, number),
        of: names.mesh(part.name),
      };
    }),
  );
}

/** Where repeats are once all is moved: what moves the origin's mesh to where the repeat's is. */
function repeatsOf(
  parts: readonly Part[],
  names: Names,
  [x, y, z]: Vector,
): Delivery["repeats"] {
  return parts.flatMap(({ name, repeat }) =>
    repeat && parts.some((part) => part.name === repeat.of)
      ? [
          {
            name: names.mesh(name),
            of: names.mesh(repeat.of),
            matrix: multiply(
              translation(-x, -y, -z),
              multiply(repeat.matrix, translation(x, y, z)),
            ),
          },
        ]
      : [],
  );
}

function pivotOf(
  meshes: readonly Mesh[],
  { pivot, point }: Pick<DeliveryWanted, "pivot" | "point">,
): Vector {
  if (pivot === "origin") return [0, 0, 0];
  if (pivot === "point") return point;
  const { min, max } = boundsOf(...meshes.map(({ positions }) => positions));
  const middle = min.map((low, k) => (low + max[k]) / 2) as unknown as Vector;
  return pivot === "bottom" ? [middle[0], min[1], middle[2]] : middle;
}

/** @param positions 3 numbers per vertex, metres; the same array where nothing moves */
function moved(positions: Float32Array, [x, y, z]: Vector): Float32Array {
  if (x === 0 && y === 0 && z === 0) return positions;
  const out = new Float32Array(positions.length);
  for (let i = 0; i < positions.length; i += 3) {
    out[i] = positions[i] - x;
    out[i + 1] = positions[i + 1] - y;
    out[i + 2] = positions[i + 2] - z;
  }
  return out;
}
