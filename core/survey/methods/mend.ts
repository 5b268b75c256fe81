import type { Mesh } from "../../mesh/mesh";
import { mergeVertices } from "../../mesh/weld";
import type { Hole } from "../../mesh/fill-holes";
import { fillHoles } from "../../mesh/fill-holes";
import { MeshAnalysis } from "../../mesh/mesh-analysis";
import type { SettleRule } from "../../settle/settle";
import { SETTLE_RULES, settleMesh } from "../../settle/settle";
import { splitNonManifold } from "../../settle/sheets";
import {
  closePockets,
  dropDuplicateFaces,
  dropLoose,
  weldTargets,
} from "./leftovers";
import type { CutOff } from "./mend-crossings";
import { mendCrossings } from "./mend-crossings";
import type { Scraps } from "./scraps";
import { dropScraps } from "./scraps";
import { renewNormals } from "./stored-normals";
import { setWindingRight } from "./winding";
import { dissolveZeroArea } from "./zero-area";

/** Mends, in the order they have to be done: each one leaves a mesh that the next can rely on. */
export const MENDS = [
  { value: "coincident", label: "weld coincident vertices" },
  { value: "zeroArea", label: "dissolve faces without area" },
  { value: "duplicateFaces", label: "drop faces that lie on each other" },
  { value: "nonManifold", label: "part non-manifold edges and vertices" },
  { value: "winding", label: "set winding right" },
  { value: "borders", label: "stitch borders that meet, close holes" },
  { value: "selfIntersections", label: "redo faces that cross" },
  { value: "loose", label: "drop loose vertices" },
  { value: "storedNormals", label: "renew normals that disagree" },
] as const;

export type Mend = (typeof MENDS)[number]["value"];

/** The rules of settling that each mend takes along. */
const SETTLES: Partial<Record<Mend, readonly SettleRule[]>> = {
  coincident: ["coincident"],
  zeroArea: ["shortEdges", "noArea"],
  duplicateFaces: ["layers"],
  borders: ["stitch"],
  nonManifold: ["sheets"],
};

/** How many of what were mended, by mend; 0 where there was nothing to do. */
export type Mended = Record<Mend, number>;

export interface MendRules {
  /** Metres, for vertices that count as coincident. */
  tolerance: number;
  /** Which holes are closed; all where left out. */
  wanted?: (hole: Hole) => boolean;
  check?: () => void;
  progress?: (share: number) => void;
}

export interface MendedMesh {
  mesh: Mesh;
  mended: Mended;
  /** Holes that were not wanted closed. */
  open: Pick<Hole, "width" | "loop">[];
  /** Tiny open pieces at closed ones that went. */
  scraps: Omit<Scraps, "mesh">;
  /** What went where faces crossed, although it did not cross itself. */
  cut: CutOff;
  /** Faces that still pass through each other, where they were to be mended. */
  crossing: number;
}

/** Parting may open what filling closes, and the other way round. */
const ROUNDS = 4;

/**
 * Mends a mesh. No face moves farther than the tolerance; new faces only close holes. With all mends what bounds a
 * volume ends closed and manifold, but for holes that are left.
 * In one piece: mends in the order they need each other.
 */
export function mendMesh(
  mesh: Mesh,
  mends: ReadonlySet<Mend>,
  {
    tolerance,
    wanted = () => true,
    check = () => {},
    progress = () => {},
  }: MendRules,
): MendedMesh {
  const mended = Object.fromEntries(
    MENDS.map(({ value }) => [value, 0]),
  ) as Mended;
  const found: MendedMesh = {
    mesh,
    mended,
    open: [],
    scraps: { pieces: 0, faces: 0, places: [] },
    cut: { pieces: 0, faces: 0, places: [] },
    crossing: 0,
  };
  const step = (
    mend: Mend,
    share: number,
    work: (from: Mesh) => { mesh: Mesh; count: number },
  ) => {
    if (!mends.has(mend)) return;
    check();
    const { mesh: next, count } = work(found.mesh);
    found.mesh = next;
    mended[mend] += count;
    progress(share);
  };
  const dissolve = (from: Mesh) => {
    const { mesh: next, gone } = dissolveZeroArea(from);
    return { mesh: next, count: gone };
  };
  const wind = (from: Mesh) => {
    const { mesh: next, turned } = setWindingRight(from);
    return { mesh: next, count: turned };
  };
  const part = (from: Mesh) => {
    const { mesh: next, edges, vertices } = splitNonManifold(from);
    return { mesh: next, count: edges + vertices };
  };
  const close = (from: Mesh) => {
    const {
      mesh: next,
      holes,
      left,
    } = fillHoles(from, {
      smooth: true,
      wanted,
    });
    found.open = left;
    return { mesh: next, count: holes };
  };
  step("coincident", 0.05, (from) => {
    const { mesh: next, verticesGone } = mergeVertices(
      from,
      weldTargets(new MeshAnalysis(from, tolerance)),
    );
    return { mesh: next, count: verticesGone };
  });
  found.mesh = settledFirst(found.mesh, mends, mended, check);
  progress(0.3);
  step("zeroArea", 0.35, dissolve);
  step("duplicateFaces", 0.4, (from) => {
    const { mesh: next, gone } = dropDuplicateFaces(from, tolerance);
    return { mesh: next, count: gone };
  });
  step("nonManifold", 0.45, part);
  step("winding", 0.5, wind);
  step("borders", 0.55, close);
  step("selfIntersections", 0.9, (from) => {
    const {
      mesh: next,
      mended: count,
      left,
      cut,
    } = mendCrossings(from, check, (share) => progress(0.55 + 0.35 * share));
    found.crossing = left;
    found.cut = cut;
    return { mesh: next, count };
  });
  for (let round = 0; round < ROUNDS; round++) {
    const before = found.mesh;
    step("duplicateFaces", 0.91, (from) => {
      const { mesh: next, gone } = closePockets(from, tolerance);
      return { mesh: next, count: gone };
    });
    step("zeroArea", 0.92, dissolve);
    step("nonManifold", 0.93, part);
    step("borders", 0.94, close);
    if (found.mesh === before) break;
  }
  // What came off where faces crossed may lie inside out.
  step("winding", 0.95, wind);
  step("duplicateFaces", 0.95, (from) => {
    const { mesh: next, ...scraps } = dropScraps(from);
    found.scraps = scraps;
    return { mesh: next, count: scraps.faces };
  });
  step("loose", 0.96, (from) => {
    const { mesh: next, gone } = dropLoose(from);
    return { mesh: next, count: gone };
  });
  step("storedNormals", 1, (from) => {
    const { mesh: next, renewed } = renewNormals(
      from,
      new MeshAnalysis(from, tolerance),
    );
    return { mesh: next, count: renewed };
  });
  return found;
}

/** What settling finds, for the mends that take it along. */
function settledFirst(
  mesh: Mesh,
  mends: ReadonlySet<Mend>,
  mended: Mended,
  check: () => void,
): Mesh {
  const mendOf = new Map<SettleRule, Mend>();
  for (const [mend, rules] of Object.entries(SETTLES))
    if (mends.has(mend as Mend))
      for (const rule of rules) mendOf.set(rule, mend as Mend);
  if (!mendOf.size) return mesh;
  const without = new Set(
    SETTLE_RULES.map(({ value }) => value).filter((rule) => !mendOf.has(rule)),
  );
  const settled = settleMesh(mesh, without, check);
  for (const { rule, count } of settled.done)
    mended[mendOf.get(rule)!] += count;
  return settled.mesh;
}
