import type { CollapseRecord, Deal } from "../mesh/collapse-record";
import type { Mesh } from "../mesh/mesh";
import type { MirrorPlane } from "../space/mirror-plane";
import { seekMeshes } from "./reduce-meshes";
import { wholeMeshes } from "./symmetry";

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
  const deal = dealOf(parts, budget, own, cap);
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
export function dealOf(
  parts: readonly { name: string; times: number; halved: boolean }[],
  budget: number,
  own: Readonly<Record<string, number>>,
  cap: Readonly<Record<string, number>>,
): Deal {
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
