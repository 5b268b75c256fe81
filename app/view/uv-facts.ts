import type { UvFacts } from "../shared/view-types";
import { buildEdges } from "../../core/mesh/edges";
import { engineVertices } from "../../core/mesh/engine-vertices";
import type { Mesh } from "../../core/mesh/mesh";
import type { PartView } from "./part-view";

const MOST_PLACES = 20;
const known = new WeakMap<
  Mesh,
  Omit<UvFacts, "breaches"> & { places3: [number, number, number][] }
>();

export function uvFacts(views: Iterable<PartView>): UvFacts {
  const all: UvFacts = {
    hard: 0,
    unsplit: 0,
    softSeams: 0,
    seams: 0,
    places: 0,
    split: 0,
    breaches: [],
  };
  for (const { name, gameMesh } of views) {
    if (!gameMesh) continue;
    const own = factsOf(gameMesh);
    for (const key of [
      "hard",
      "unsplit",
      "softSeams",
      "seams",
      "places",
      "split",
    ] as const)
      all[key] += own[key];
    if (own.unsplit)
      all.breaches.push({
        part: name,
        count: own.unsplit,
        places: own.places3.map((at) => ({ at, radius: 0.02 })),
      });
  }
  return all;
}

function factsOf(mesh: Mesh) {
  let facts = known.get(mesh);
  if (facts) return facts;
  const edges = buildEdges(mesh);
  const p = mesh.positions;
  facts = {
    hard: 0,
    unsplit: 0,
    softSeams: 0,
    seams: 0,
    ...engineVertices(mesh),
    places3: [],
  };
  for (let e = 0; e < edges.count; e++) {
    const c = edges.first[e];
    const hard = mesh.hard?.[c] === 1;
    const seam = mesh.seams?.[c] === 1;
    const inner = edges.uses[e] === 2;
    if (hard) facts.hard++;
    if (seam) facts.seams++;
    if (seam && !hard && inner) facts.softSeams++;
    if (!hard || seam || !inner || !mesh.uvs) continue;
    facts.unsplit++;
    if (facts.places3.length >= MOST_PLACES) continue;
    const [a, b] = [3 * edges.vertices[2 * e], 3 * edges.vertices[2 * e + 1]];
    facts.places3.push(
      [0, 1, 2].map((k) => (p[a + k] + p[b + k]) / 2) as [
        number,
        number,
        number,
      ],
    );
  }
  known.set(mesh, facts);
  return facts;
}
