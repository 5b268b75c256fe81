import type { UnwrapMesh } from "./unwrap-mesh";
import { cutToDisc } from "./cut";
import { flatten } from "./flatten";
import type { LaidIsland, SeamRules } from "./islands";
import { trianglesOf } from "./islands";
import { onTwin } from "./alike/twin-pieces";
import { packIslands } from "./pack";
import { bulkOf } from "./pack/turned";
import { splitAtNeck } from "./seams/neck";
import { splitFaces } from "./split";

/** With so many islands the small ones fill what the large ones leave: nothing is split for it. */
const MANY = 20;
/** Share of the sheet from which on islands are left as they are. */
const GOOD = 0.76;
/** What a further island has to bring, as a share of the sheet; the more there are, the more. */
const GAIN = 0.02;
const GAIN_EACH = 0.006;
/** Islands that cover so much of their box are left whole: a tube keeps its one lengthwise cut. */
const COMPACT = 0.74;
/** Islands tried in each round: those that waste most of their boxes. */
const TRIED = 3;
/** A small sheet is enough to see what a split would bring. */
const TRIAL = {
  width: 144,
  height: 144,
  padding: 0.5,
  texelsPerMetre: 0,
  rounds: 0,
};

type IslandIn = LaidIsland & { mesh: number };

/**
 * Parts a few large islands further where that makes them fill the sheet much better: few islands of odd outline
 * leave much of it free, and a seam more costs less than a quarter of the texels.
 * @param mayBeSplit whether islands of a mesh may be: not where seams were given
 */
export function splitForSheet(
  meshes: readonly UnwrapMesh[],
  islands: readonly IslandIn[],
  rules: SeamRules,
  mayBeSplit: (mesh: number) => boolean,
  check: () => void,
): IslandIn[] {
  let best = [...islands];
  if (!best.length || largeOnes(best) >= MANY) return best;
  let fill = fillOf(best, check);
  const refused = new Set<LaidIsland>();
  while (largeOnes(best) < MANY && fill < GOOD) {
    const wanted = fill + GAIN + GAIN_EACH * largeOnes(best);
    const candidates = best
      .filter(
        (each) =>
          !refused.has(each) &&
          mayBeSplit(each.mesh) &&
          bulkOf({ triangles: trianglesOf(each.chart, each.flat) }) < COMPACT,
      )
      .filter(
        (each, i, all) => all.findIndex(({ flat }) => flat === each.flat) === i,
      )
      .sort((a, b) => wasteOf(b) - wasteOf(a))
      .slice(0, TRIED);
    let found: IslandIn[] | null = null;
    let most = wanted;
    for (const island of candidates) {
      check();
      let any = false;
      for (const parts of waysToSplit(meshes[island.mesh], island, rules)) {
        // What lies on copies of the same piece is split alike.
        const next = best.flatMap((each) =>
          each.flat === island.flat
            ? parts.map((part) => ({
                ...onTwin(part, island.chart, each.chart),
                mesh: each.mesh,
              }))
            : [each],
        );
        const reached = fillOf(next, check);
        if (reached <= most) continue;
        most = reached;
        found = next;
        any = true;
      }
      if (!any) refused.add(island);
    }
    if (!found) break;
    best = found;
    fill = most;
  }
  return best;
}

/** Islands that have some share in how full the sheet is. */
function largeOnes(islands: readonly LaidIsland[]): number {
  const sizes = islands.map(({ chart, flat }) =>
    outlineArea(trianglesOf(chart, flat)),
  );
  const all = sizes.reduce((sum, size) => sum + size, 0);
  return sizes.filter((size) => size > 0.005 * all).length;
}

function outlineArea(t: Float64Array): number {
  let area = 0;
  for (let i = 0; i < t.length; i += 6)
    area +=
      Math.abs(
        (t[i + 2] - t[i]) * (t[i + 5] - t[i + 1]) -
          (t[i + 4] - t[i]) * (t[i + 3] - t[i + 1]),
      ) / 2;
  return area;
}

function fillOf(islands: readonly LaidIsland[], check: () => void): number {
  const items = islands.map(({ chart, flat }) => ({
    triangles: trianglesOf(chart, flat),
  }));
  const { texelsPerMetre } = packIslands(items, TRIAL, check);
  const area = items.reduce(
    (sum, { triangles }) => sum + outlineArea(triangles),
    0,
  );
  return (area * texelsPerMetre ** 2) / (TRIAL.width * TRIAL.height);
}

function wasteOf({ chart, flat }: LaidIsland): number {
  const triangles = trianglesOf(chart, flat);
  return (
    outlineArea(triangles) * (1 / Math.max(0.05, bulkOf({ triangles })) - 1)
  );
}

/** The island in two at a neck, across its length, and by shape: whatever of it lays flat within the rules. */
function* waysToSplit(
  m: UnwrapMesh,
  { chart }: LaidIsland,
  rules: SeamRules,
): Generator<LaidIsland[]> {
  for (const sets of [
    splitAtNeck(m, chart.faces) ?? [],
    splitFaces(m, chart.faces, true),
    splitFaces(m, chart.faces, false),
  ]) {
    if (sets.length < 2 || sets.length > 3) continue;
    const laid = sets.map((faces) => layAlone(m, faces, rules));
    if (laid.every((each) => each !== null)) yield laid;
  }
}

function layAlone(
  m: UnwrapMesh,
  faces: number[],
  rules: SeamRules,
): LaidIsland | null {
  const label = new Int32Array(m.areas.length).fill(-1);
  for (const f of faces) label[f] = 0;
  const disc = cutToDisc(m, faces, label, 0);
  if (!disc) return null;
  const flat = flatten(disc.chart, { wanted: rules });
  return flat.flipped ||
    flat.overlaps ||
    flat.stretch > rules.stretch ||
    flat.spread > rules.spread
    ? null
    : { chart: disc.chart, flat };
}
