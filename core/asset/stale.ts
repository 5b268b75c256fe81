import { tellsOfBake } from "../base/pictures";
import { hasCard } from "./stand-ins";
import type { AssetDocument, MeshDocument } from "./document";
import type { StageResult } from "./asset";
import { budgetOf } from "./asset";
import { profileOf } from "./profile";
import type { StreamName } from "../mesh/streams";
import type { Stage } from "./stages";
import { STAGES } from "./stages";

const streams = (
  mesh: MeshDocument | null,
  ...names: (StreamName | "positions" | "corners" | "faceStarts")[]
) => mesh && names.map((name) => mesh.streams[name]?.hash ?? null);

const shape = (mesh: MeshDocument | null) =>
  streams(mesh, "positions", "faceStarts", "corners");

/** What of each part's source, and of each part's game mesh. */
const sources =
  (...names: StreamName[]) =>
  ({ parts }: AssetDocument) =>
    parts.map(({ source }) => streams(source, ...names));
const games =
  (...names: StreamName[]) =>
  ({ parts }: AssetDocument) =>
    parts.map(({ game }) => streams(game, ...names));

const materialsOn =
  (which: "source" | "game") =>
  ({ parts }: AssetDocument) =>
    parts.map(({ [which]: mesh }) => [
      streams(mesh, "faceMaterials"),
      mesh?.materials,
    ]);

/** What results are made from, by the names that the page tells, and what of a document each is. */
const PRINTS = {
  "names of parts": ({ parts }: AssetDocument) => parts.map(({ name }) => name),
  "source meshes": ({ parts }: AssetDocument) =>
    parts.map(({ source }) => shape(source)),
  "how sources are settled": ({ settleWithout }: AssetDocument) =>
    settleWithout,
  "source materials": materialsOn("source"),
  "source normals": sources("normals", "hard"),
  "source hard edges": sources("hard"),
  "source UVs": sources("uvs"),
  "source IDs": sources("ids"),
  "source vertex colours": sources("colours"),
  // Without IDs on the sources none of them is used.
  "colours of IDs": ({ parts, palette }: AssetDocument) =>
    parts.some(({ source }) => source?.streams.ids)
      ? palette.map(({ colour }) => colour)
      : [],
  "source pictures": (document: AssetDocument) => {
    const pictures = document.looks.flatMap(({ material, colour, pictures }) =>
      pictures?.colour
        ? [
            [
              material,
              colour,
              pictures.colour.bytes.hash,
              pictures.colour.placing,
            ],
          ]
        : [],
    );
    // Without a picture nobody asks where it would lie.
    return pictures.length
      ? [pictures, sources("uvs")(document), materialsOn("source")(document)]
      : [];
  },
  "what is only baked": sources("sourceOnly"),
  "what lies under a new skin": ({ parts }: AssetDocument) =>
    parts.map(({ dense, skinned }) => (skinned ? shape(dense) : null)),
  "which parts are cards": ({ parts }: AssetDocument) => parts.map(hasCard),
  "stand-in shapes": ({ parts }: AssetDocument) =>
    parts.map(({ standIns }) => standIns),
  repeats: ({ parts }: AssetDocument) => parts.map(({ repeat }) => repeat),
  "what is seen": ({ parts, looks }: AssetDocument) => [
    parts.map(({ source }) => streams(source, "visibility")),
    looks.flatMap(({ material, opacity = 1 }) =>
      opacity < 1 ? [[material, opacity]] : [],
    ),
  ],
  "source faces that are seen": sources("visibility"),
  "level faces that are seen": ({ parts }: AssetDocument) =>
    parts.map(({ levels }) =>
      levels.map((level) => streams(level, "visibility")),
    ),
  "seen faces that hulls hold": ({ parts }: AssetDocument) => {
    const which = parts.some(({ game }) => game) ? "game" : "source";
    return parts.map((part) => streams(part[which], "visibility"));
  },
  "painted density": sources("density"),
  "game meshes": ({ parts }: AssetDocument) =>
    parts.map(({ game }) => shape(game)),
  "game materials": materialsOn("game"),
  "game normals": games("normals"),
  "vertex colours": games("colours"),
  "game IDs": games("ids"),
  "hard edges": games("hard"),
  "round edges": games("rounds"),
  cages: games("cage"),
  "seams wanted": games("seamOverrides"),
  "texel weights": games("texelWeights"),
  UVs: games("uvs"),
  seams: games("seams"),
  "shared texels": games("copies"),
  levels: ({ parts }: AssetDocument) =>
    parts.map(({ levels }) => levels.map(shape)),
  hulls: ({ parts }: AssetDocument) =>
    parts.map(({ hulls }) =>
      hulls.map(({ name, positions, contact }) => [
        name,
        positions.hash,
        ...(contact ? [contact] : []),
      ]),
    ),
  // What became of the rays says nothing to what is made of maps.
  maps: ({ maps }: AssetDocument) =>
    maps
      .filter(({ kind }) => !tellsOfBake(kind))
      .map(({ kind, tile, pixels }) => [kind, tile ?? 0, pixels.hash]),
  looks: ({ looks }: AssetDocument) => looks,
  "names of materials": ({ parts }: AssetDocument) => [
    ...new Set(
      parts.flatMap(({ source, game }) => [
        ...(source?.materials ?? []),
        ...(game?.materials ?? []),
      ]),
    ),
  ],
  "meshes that hulls hold": ({ parts, settleWithout }: AssetDocument) => {
    const which = parts.some(({ game }) => game) ? "game" : "source";
    return [
      parts.map((part) => shape(part[which])),
      which === "source" && settleWithout,
    ];
  },
  "groups of parts": ({ parts }: AssetDocument) =>
    parts.map(({ group }) => group),
  "the asset's name": ({ name }: AssetDocument) => name,
  "triangle budget": ({ brief }: AssetDocument) => brief.triangles,
  "budgets of parts": ({ brief, parts }: AssetDocument) =>
    parts.map((part) => [budgetOf({ brief }, part), part.capped]),
  "levels wanted": ({ brief }: AssetDocument) => brief.levels,
  // Without levels nothing is held against them.
  "limits of levels": ({ brief, parts }: AssetDocument) =>
    parts.some(({ levels }) => levels.length) ? brief.levels : [],
  "hull count": ({ brief }: AssetDocument) => brief.hulls,
  "vertex limit": ({ brief }: AssetDocument) => brief.vertices,
  "sheet size": ({ brief }: AssetDocument) => [
    brief.sheetSize,
    brief.sheetHeight,
  ],
  padding: ({ brief }: AssetDocument) => brief.padding,
  "sheets and density wanted": ({ brief }: AssetDocument) => [
    brief.sheets,
    brief.texelsPerMetre,
  ],
  "delivery profile": ({ brief }: AssetDocument) => brief.profile,
  "which way green points": ({ brief }: AssetDocument) =>
    profileOf(brief).greenUp,
  "what is stale": (document: AssetDocument): Stage[] => staleStages(document),
  "what other stages found": ({ results }: AssetDocument) => [
    results.unwrap && [
      results.unwrap.report.overlap,
      results.unwrap.report.fill,
      results.unwrap.report.density,
    ],
    results.edges?.report.hardWithoutSplit,
    results.bake?.report.missed,
  ],
} satisfies Record<string, (document: AssetDocument) => unknown>;

export type Input = keyof typeof PRINTS;

/** What each stage's result is made from, where its operation does not say otherwise. */
export const INPUTS: Record<Stage, readonly Input[]> = {
  intake: [],
  survey: ["names of parts", "source meshes", "source normals", "repeats"],
  reduce: [
    "names of parts",
    "source meshes",
    "how sources are settled",
    "source materials",
    "source hard edges",
    "source UVs",
    "source IDs",
    "what is only baked",
    "stand-in shapes",
    "repeats",
    "painted density",
    "what is seen",
    "triangle budget",
    "budgets of parts",
  ],
  edges: ["names of parts", "game meshes"],
  unwrap: [
    "names of parts",
    "game meshes",
    "hard edges",
    "seams wanted",
    "texel weights",
    "repeats",
    "sheet size",
    "padding",
    "sheets and density wanted",
  ],
  bake: [
    "source meshes",
    "how sources are settled",
    "source normals",
    "what lies under a new skin",
    "game meshes",
    "game normals",
    "UVs",
    "shared texels",
    "round edges",
    "cages",
    "repeats",
    "which parts are cards",
    "sheet size",
    "padding",
    "which way green points",
  ],
  finish: ["names of materials"],
  collide: [
    "names of parts",
    "meshes that hulls hold",
    "repeats",
    "hull count",
  ],
  ship: [
    "the asset's name",
    "names of parts",
    "game meshes",
    "game materials",
    "game normals",
    "vertex colours",
    "UVs",
    "levels",
    "maps",
    "looks",
    "which parts are cards",
    "hulls",
    "triangle budget",
    "vertex limit",
    "limits of levels",
    "hull count",
    "sheets and density wanted",
    "delivery profile",
    "what is stale",
    "what other stages found",
  ],
};

export type StageState = "empty" | "current" | "stale";

/** A short name for the present state of an input: equal names mean equal bytes. */
const printOf = (name: string, document: AssetDocument): string | undefined =>
  name in PRINTS
    ? digest(JSON.stringify(PRINTS[name as Input](document)) ?? "")
    : undefined;

/** Names of what an operation's result is made from, which may hang on its options. */
export const inputNames = <O>(
  {
    stage,
    madeFrom,
  }: {
    stage: Stage;
    madeFrom?: readonly Input[] | ((options: O) => readonly Input[]);
  },
  options: O,
): readonly Input[] =>
  (typeof madeFrom === "function" ? madeFrom(options) : madeFrom) ??
  INPUTS[stage];

/** What a result is made from, to be kept with it. */
export const inputsOf = (
  names: readonly Input[],
  document: AssetDocument,
): Record<string, string> =>
  Object.fromEntries(names.map((name) => [name, printOf(name, document)!]));

/** Names of the inputs of a result that are no longer what it was made from. */
export const changedSince = (
  { madeFrom }: { madeFrom: Record<string, string> },
  document: AssetDocument,
): string[] =>
  Object.keys(madeFrom).filter(
    (name) => madeFrom[name] !== printOf(name, document),
  );

/** Whether figures of a result that hang on more than it is made from are no longer those of what is there. */
export const toldNoLonger = (
  { toldOf }: Pick<StageResult, "toldOf">,
  document: AssetDocument,
): boolean =>
  !toldOf || changedSince({ madeFrom: toldOf }, document).length > 0;

/**
 * What changed since a kept report was made, in words, or null where it still says what is. Faces that it names by
 * number may be others by now.
 */
export function agedBy(document: AssetDocument, id: string): string | null {
  const result = document.reports[id];
  const changed = result ? changedSince(result, document) : [];
  return changed.length ? `${changed.join(", ")} changed since` : null;
}

export interface StageStanding {
  stage: Stage;
  state: StageState;
  /** Names of the inputs that changed since, where the state is stale. */
  changed: string[];
}

/** For each stage: nothing there yet, current, or stale and what changed. Computed, never stored. */
export function stageStates(document: AssetDocument): StageStanding[] {
  return STAGES.map((stage) => {
    const result = document.results[stage];
    if (!result) return { stage, state: "empty", changed: [] };
    const changed = changedSince(result, document);
    return { stage, state: changed.length ? "stale" : "current", changed };
  });
}

/** Stages that a delivery is made from whose results are stale. */
export function staleStages(document: AssetDocument): Stage[] {
  return STAGES.filter((stage) => {
    if (["intake", "survey", "ship"].includes(stage)) return false;
    const result = document.results[stage];
    return !!result && changedSince(result, document).length > 0;
  });
}

/** What each stage makes, of what results are made from. */
const MADE: Partial<Record<Stage, readonly Input[]>> = {
  reduce: [
    "game meshes",
    "game materials",
    "game normals",
    "vertex colours",
    "game IDs",
    "hard edges",
    "UVs",
    "seams",
    "meshes that hulls hold",
  ],
  edges: ["hard edges", "game normals"],
  unwrap: ["UVs", "seams", "shared texels"],
  bake: ["maps"],
  collide: ["hulls"],
};

/**
 * What bringing up to date will redo: what is stale, and what goes stale by that being redone. What comes out as it
 * was leaves what reads it current after all.
 */
export function willRedo(document: AssetDocument): Stage[] {
  const redone = new Set(
    stageStates(document).flatMap(({ stage, state }) =>
      state === "stale" ? [stage] : [],
    ),
  );
  // Until nothing more is drawn in: a stage may read what a later one makes.
  for (let before = -1; before < redone.size;) {
    before = redone.size;
    const made = new Set([...redone].flatMap((stage) => MADE[stage] ?? []));
    for (const stage of STAGES) {
      const read = Object.keys(document.results[stage]?.madeFrom ?? {});
      if (read.some((name) => made.has(name as Input))) redone.add(stage);
    }
  }
  return STAGES.filter((stage) => redone.has(stage));
}

/** FNV-1a twice over: names states, guards nothing. */
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
