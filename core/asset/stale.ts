import type { AssetDocument, MeshDocument } from "./document";
import type { Stage } from "./stages";
import { STAGES } from "./stages";

/** What each stage is made from, by names that `fingerprints` knows. */
const INPUTS: Record<Stage, readonly string[]> = {
  intake: [],
  survey: ["source meshes"],
  reduce: [
    "source meshes",
    "painted density",
    "what is seen",
    "triangle budget",
  ],
  edges: ["game meshes"],
  unwrap: [
    "game meshes",
    "hard edges",
    "seams wanted",
    "texel weights",
    "sheet",
  ],
  bake: [
    "source meshes",
    "game meshes",
    "game normals",
    "UVs",
    "sheet",
    "delivery profile",
  ],
  finish: ["materials"],
  collide: ["game meshes", "hull count"],
  ship: [
    "game meshes",
    "game normals",
    "UVs",
    "maps",
    "looks",
    "hulls",
    "delivery profile",
  ],
};

export type StageState = "empty" | "current" | "stale";

/** A short name for the present state of each input: equal names mean equal bytes. */
export function fingerprints(document: AssetDocument): Record<string, string> {
  const { brief, parts } = document;
  const shape = (mesh: MeshDocument | null) =>
    mesh && [
      mesh.streams.positions?.hash,
      mesh.streams.corners?.hash,
      mesh.streams.faceMaterials?.hash,
    ];
  const of = (value: unknown) => digest(JSON.stringify(value));
  return {
    "source meshes": of([
      parts.map((part) => [part.name, shape(part.source)]),
      document.settleWithout,
    ]),
    "what is seen": of([
      parts.map((part) => part.source?.streams.seen?.hash ?? null),
      document.looks.filter(({ opacity = 1 }) => opacity < 1),
    ]),
    "painted density": of(
      parts.map((part) => part.source?.streams.density?.hash ?? null),
    ),
    "game meshes": of(parts.map((part) => [part.name, shape(part.game)])),
    "game normals": of(parts.map((part) => part.game?.streams.normals?.hash)),
    "hard edges": of(parts.map((part) => part.game?.streams.hard?.hash)),
    "seams wanted": of(parts.map((part) => part.game?.streams.cuts?.hash)),
    "texel weights": of(
      parts.map((part) => part.game?.streams.texelWeights?.hash),
    ),
    UVs: of(parts.map((part) => part.game?.streams.uvs?.hash)),
    hulls: of(
      parts.map((part) =>
        part.hulls.map((hull) => [hull.name, hull.positions.hash]),
      ),
    ),
    maps: of(
      document.maps.map((map) => [map.kind, map.tile ?? 0, map.pixels.hash]),
    ),
    looks: of(document.looks),
    materials: of([
      ...new Set(parts.flatMap((part) => part.game?.materials ?? [])),
    ]),
    "triangle budget": of([
      brief.triangles,
      parts.map((part) => [part.budget, part.share, part.capped]),
    ]),
    "hull count": of(brief.hulls),
    sheet: of([
      brief.sheetSize,
      brief.sheetHeight,
      brief.sheets,
      brief.padding,
      brief.texelsPerMetre,
    ]),
    "delivery profile": of(brief.profile),
  };
}

/** What a stage's result is made from, to be kept with it. */
export function inputsOf(stage: Stage, document: AssetDocument) {
  const all = fingerprints(document);
  return Object.fromEntries(INPUTS[stage].map((name) => [name, all[name]]));
}

export interface StageStanding {
  stage: Stage;
  state: StageState;
  /** Names of the inputs that changed since, where the state is stale. */
  changed: string[];
}

/** For each stage: nothing there yet, current, or stale and what changed. Computed, never stored. */
export function standingOf(document: AssetDocument): StageStanding[] {
  const all = fingerprints(document);
  return STAGES.map((stage) => {
    const result = document.results[stage];
    if (!result) return { stage, state: "empty", changed: [] };
    const changed = INPUTS[stage].filter(
      (name) => result.madeFrom[name] !== all[name],
    );
    return { stage, state: changed.length ? "stale" : "current", changed };
  });
}

/** FNV-1a in two lanes: names states, guards nothing. */
function digest(text: string): string {
  let a = 0x811c9dc5;
  let b = 0x9747b28c;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    a = Math.imul(a ^ code, 0x01000193);
    b = Math.imul(b ^ code, 0x85ebca6b);
    b ^= b >>> 13;
  }
  return (
    (a >>> 0).toString(16).padStart(8, "0") +
    (b >>> 0).toString(16).padStart(8, "0")
  );
}
