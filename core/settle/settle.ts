import type { Edges } from "../mesh/edges";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { compactVertices } from "../mesh/change-faces";
import type { MeshPlace } from "../mesh/places";
import { placesOf } from "../mesh/places";
import { boundsOf, diagonalOf } from "../space/bounds";
import { joinCoincident } from "./join";
import { dropDoubled } from "./doubled";
import { dropLayers } from "./layers";
import { cutNecks } from "./necks";
import { dissolveNoArea } from "./no-area";
import { partNonManifold } from "./sheets";
import { collapseShortEdges } from "./short-edges";
import { stitchBorders } from "./stitch";
import { Done, SettleWork } from "./work";

/** What settling does, in this order; each rule can be turned off. */
export const SETTLE_RULES = [
  { value: "coincident", label: "join coincident vertices" },
  { value: "shortEdges", label: "collapse edges too short to mean anything" },
  { value: "noArea", label: "take faces without area out" },
  { value: "layers", label: "drop faces that lie on each other" },
  { value: "stitch", label: "stitch borders that meet" },
  {
    value: "sheets",
    label: "drop fins and part what more than two faces share",
  },
  { value: "necks", label: "cut necks too thin to mean anything" },
] as const;

export type SettleRule = (typeof SETTLE_RULES)[number]["value"];

/** What a rule did: how often, and where, as far as that is told. */
export interface Settled {
  rule: SettleRule;
  count: number;
  places: MeshPlace[];
}

export interface SettledMesh {
  /** The mesh itself where nothing had to be done. */
  mesh: Mesh;
  /** For each face of it the source's face; null where it is the source. */
  faces: Uint32Array | null;
  /** Rules that did something. */
  done: Settled[];
}

/**
 * What work is done on in place of a source: no coincident vertices, no faces without area or lying on each
 * other, borders that meet stitched, every edge shared by at most two faces and every vertex by one fan. The
 * source's attributes are kept; polygons become triangles where something is done to them.
 */
export function settleMesh(
  mesh: Mesh,
  without: ReadonlySet<SettleRule> = new Set(),
  check: () => void = () => {},
): SettledMesh {
  const work = new SettleWork(mesh);
  const all = new Map<SettleRule, Done>();
  const steps: [SettleRule, (work: SettleWork, done: Done) => void][] = [
    ["coincident", joinCoincident],
    ["shortEdges", collapseShortEdges],
    ["noArea", dissolveNoArea],
    ["layers", dropLayers],
    ["layers", dropDoubled],
    ["stitch", stitchBorders],
    // What was stitched may lie on an edge of its own triangle.
    [
      "noArea",
      (at, done) => {
        if (all.get("stitch")?.count) dissolveNoArea(at, done);
      },
    ],
  ];
  for (const [rule, step] of steps) {
    if (without.has(rule)) continue;
    check();
    const done = all.get(rule) ?? new Done();
    all.set(rule, done);
    step(work, done);
  }
  check();
  const settled = work.changed
    ? work.finish()
    : { mesh, faces: null as Uint32Array | null };
  const known = work.knownEdges();
  const found = without.has("sheets")
    ? null
    : partSheets(
        settled.mesh,
        settled.faces,
        known?.ofCorner.length === settled.mesh.corners.length
          ? known
          : buildEdges(settled.mesh),
      );
  const sheets = found?.done.count ? found : null;
  if (sheets) all.set("sheets", sheets.done);
  const parted = sheets ?? settled;
  const necks = without.has("necks") ? null : cutNecks(parted.mesh);
  const final = necks?.count
    ? { mesh: necks.mesh, faces: sourceFaces(necks.faces, parted.faces) }
    : parted;
  if (necks?.count) {
    const done = new Done();
    done.count = necks.count;
    done.places.push(...necks.places);
    all.set("necks", done);
  }
  return {
    mesh: final.mesh === mesh ? mesh : compactVertices(final.mesh),
    faces: final.faces,
    done: SETTLE_RULES.flatMap(({ value: rule }) => {
      const { count = 0, places = [] } = all.get(rule) ?? {};
      return count
        ? [{ rule, count, places: placesAt(places, mesh.positions) }]
        : [];
    }),
  };
}

/** For each face the source's, through the face that it was in between. */
const sourceFaces = (faces: Uint32Array, before: Uint32Array | null) =>
  before ? faces.map((f) => before[f]) : faces;

const placesAt = (points: readonly number[][], positions: Float32Array) =>
  placesOf(
    Float32Array.from(points.flat()),
    points.map((_, i) => [i]),
    diagonalOf(boundsOf(positions)),
  );

function partSheets(mesh: Mesh, faces: Uint32Array | null, edges: Edges) {
  const done = new Done();
  const split = partNonManifold(mesh, edges);
  done.count = split.edges + split.vertices + split.fins;
  for (const place of split.places) done.places.push(place);
  if (!done.count) return { mesh, faces, done };
  const before = faces ?? new Uint32Array(faceCount(mesh)).map((_, f) => f);
  return {
    mesh: split.mesh,
    faces: split.faces ? sourceFaces(split.faces, before) : before,
    done,
  };
}
