import type { CollapseRecord, BudgetAllocation } from "./collapse-record";
import type { Mesh } from "../mesh/mesh";
import type { MirrorPlane } from "../mesh/mirror-plane";
import type { Matrix } from "../mesh/transform";
import { transformPoints } from "../mesh/transform";
import { dot } from "../space/vector";
import { seekMeshes } from "./reduce-together";
import { wholeMeshes } from "../mesh/symmetry";

/** A record kept with the asset it was made from: any budget can be looked at without collapsing again. */
export interface KeptRecord {
  /** Per mesh of the record. */
  parts: readonly {
    name: string;
    materials: readonly string[];
    /** How often it is placed: repeats, and twice where it stands on both sides of the mirror plane. */
    times: number;
    halved: boolean;
    twin: string | null;
  }[];
  plane: MirrorPlane | null;
  record: CollapseRecord;
}

/** What a budget would leave of every part, at once. Own budgets by part name. */
export function previewOf(
  { parts, plane, record }: KeptRecord,
  budget: number,
  own: Readonly<Record<string, number>> = {},
  cap: Readonly<Record<string, number>> = {},
): Map<string, Mesh | null> {
  const deal = allocationOf(parts, budget, own, cap);
  return wholeMeshes(
    plane,
    parts,
    seekMeshes(
      record,
      parts.map((part) => part.materials),
      deal,
    ),
  );
}

/** Own budgets and caps are of whole parts; a half gets half of them. */
export function allocationOf(
  parts: readonly { name: string; times: number; halved: boolean }[],
  budget: number,
  own: Readonly<Record<string, number>>,
  cap: Readonly<Record<string, number>>,
): BudgetAllocation {
  const of = (list: Readonly<Record<string, number>>) =>
    parts.map(({ name, halved }) =>
      Math.floor((list[name] ?? 0) / (halved ? 2 : 1)),
    );
  return {
    budget,
    own: of(own),
    cap: of(cap),
    times: parts.map((part) => part.times),
  };
}

/**
 * The record of what was moved: seeking in it gives what it gave before, moved as well.
 * @param m turns, scales evenly and moves
 * @param factor how many times as long everything becomes
 */
export function movedRecord(
  { parts, plane, record }: KeptRecord,
  m: Matrix,
  factor: number,
): KeptRecord {
  const turn: Matrix = [...m.slice(0, 12), 0, 0, 0, 1];
  const moved = (point: readonly number[], by: Matrix) =>
    [...transformPoints(Float32Array.from(point), by)] as [
      number,
      number,
      number,
    ];
  const normal =
    plane &&
    (moved(plane.normal, turn).map((x) => x / factor) as [
      number,
      number,
      number,
    ]);
  return {
    parts,
    plane: plane &&
      normal && {
        normal,
        d: factor * plane.d + dot(normal, [m[12], m[13], m[14]]),
      },
    record: {
      ...record,
      centre: moved(record.centre, m),
      positions: transformPoints(record.positions, turn),
      places: transformPoints(record.places, turn),
      errorIncrease: record.errorIncrease.map((x) => x * factor ** 4),
      before: record.before.map((x) => x * factor ** 4),
      area: record.area.map((x) => x * factor ** 2),
    },
  };
}
