import type { Asset } from "../../asset/asset";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { carryMarks } from "../../asset/carry";
import { gameMeshes, withGameMeshes } from "../../asset/parts";
import { INPUTS } from "../../asset/stale";
import { MissingInputError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import { seamsFromUvs } from "../../mesh/seams-from-uvs";
import { defineOperation, field } from "../../asset/operation";
import { spanOf } from "../../base/context";
import { keepHeldPlaces } from "../methods/held";
import { packAsset } from "../methods/pack-asset";
import { followed } from "../methods/pack-meshes";
import { PackOptions } from "../methods/pack-options";
import { reportUnwrap } from "../methods/report";
import { borderSeams } from "../methods/seams/border-seams";
import type { SeenFrom } from "../methods/seams/exposure";
import { SEEN_FROM } from "../methods/seams/exposure";
import type { Sheet } from "../methods/sheet";
import { sheetOf } from "../methods/sheet";
import { gatherIslands } from "../methods/sheet-islands";
import { layOut, spreadOut } from "../methods/unwrap-parts";

export type KeepSeams = "hand" | "all" | "none";

class UnwrapOptions extends PackOptions {
  @field({
    kind: "number",
    label: "Stretch allowed",
    help: "L2 stretch an island may have; 1 is none. Less stretch makes more islands.",
    min: 1.01,
    max: 2,
    step: 0.01,
  })
  stretch = 1.08;

  @field({
    kind: "integer",
    label: "Islands at most",
    empty: "as many as needed",
    help: "Lets islands stretch more until there are so few; 0 for as few as the stretch allows.",
    min: 0,
    max: 10000,
  })
  islands = 0;

  @field({
    kind: "number",
    label: "Seams hide",
    help: "How much seams go where little shows: 0 not at all, 1 wherever they can.",
    min: 0,
    max: 1,
    step: 0.1,
  })
  hide = 0.8;

  @field({
    kind: "choice",
    label: "Looked at from",
    help: "From where seams should not show.",
    choices: SEEN_FROM,
    folded: true,
  })
  from: SeenFrom = "standing";

  @field({
    kind: "choice",
    label: "Keep seams",
    help: "Which seams stay whatever else is found; those carried from the mesh before count as made by hand.",
    choices: [
      { value: "hand", label: "by hand" },
      { value: "all", label: "all there are" },
      { value: "none", label: "none" },
    ],
  })
  keep: KeepSeams = "hand";

  @field({
    kind: "flag",
    label: "Seams where materials meet",
    help: "UVs part where materials do; an engine parts vertices there anyhow.",
    folded: true,
  })
  atMaterials = true;

  @field({
    kind: "flag",
    label: "Seams where IDs meet",
    help: "UVs part where IDs do, so that no texel lies between two of them.",
    folded: true,
  })
  atIds = false;

  @field({
    kind: "flag",
    label: "Symmetric",
    help: "Seams of symmetric parts lie alike on both sides.",
    folded: true,
  })
  symmetric = true;

  @field({
    kind: "choice",
    label: "Share repeats",
    help: "Islands that are the same or mirrored lie on one another and share their texels.",
    choices: [
      { value: "never", label: "never" },
      { value: "never seen together", label: "never seen together" },
      { value: "all", label: "all that are alike" },
    ],
  })
  share: "never" | "never seen together" | "all" = "never";

  @field({
    kind: "parts",
    label: "Parts",
    help: "Which parts get new islands; empty for all. The others are packed with them.",
  })
  parts: string[] = [];
}

export const unwrapParts = defineOperation({
  id: "unwrap/unwrap",
  stage: "unwrap",
  title: "Unwrap",
  about:
    "Finds seams, lays the islands flat, evens out the texel density and packs them on the sheet.",
  runs: "heavy",
  takes: "game",
  makesResult: true,
  madeFrom: ({ atMaterials, atIds }) => [
    ...INPUTS.unwrap,
    ...(atMaterials ? (["game materials"] as const) : []),
    ...(atIds ? (["game IDs"] as const) : []),
  ],
  Options: UnwrapOptions,
  run(asset, options, context) {
    requireMeshes(asset, "game");
    const parts = gameMeshes(asset, chosenParts(asset, options.parts));
    if (!parts.length) throw new MissingInputError("every game mesh is locked");
    const start = performance.now();
    const sheet = sheetOf(asset, options);
    const meshes = parts.map(({ name, mesh }) => {
      const { previousUnwrap } = asset.parts.find(
        (part) => part.name === name,
      )!;
      return previousUnwrap && !mesh.uvs && !mesh.seams
        ? carryMarks(previousUnwrap, mesh)
        : mesh;
    });
    const islands = layOut(
      meshes,
      {
        stretch: options.stretch,
        spread: 0.09,
        islands: options.islands,
        hide: options.hide,
        from: options.from,
        symmetric: options.symmetric,
        keep: meshes.map((mesh) => givenSeams(mesh, options)),
      },
      spanOf(context, 0, 0.55),
    );
    const bare = spreadOut(
      options.keep === "none"
        ? meshes.map((mesh) => ({ ...mesh, seamOverrides: null }))
        : meshes,
      islands,
      sheet.width / sheet.height,
    );
    const placed = bare.map((mesh, i) =>
      keepHeldPlaces(mesh, heldOf(asset, parts[i].name), sheet),
    );
    const laid = withGameMeshes(
      asset,
      new Map(parts.map(({ name }, i) => [name, placed[i]])),
    );
    const { asset: next, rounds } = packAsset(
      laid,
      sheet,
      { ...options, stacked: stackedParts(asset, sheet) },
      spanOf(context, 0.6, 0.95),
    );
    options.rounds = rounds || options.rounds;
    context.progress(0.96, "measuring");
    const before = asset.results.unwrap?.report as
      { parts?: { part: string; islands?: number }[] } | undefined;
    const told = reportUnwrap(next, sheet, (performance.now() - start) / 1000);
    return {
      asset: next,
      headline: told.headline,
      report: {
        ...told.report,
        rounds,
        changed: changesOf(before?.parts ?? [], told.report.parts),
      },
    };
  },
});

/** Corners at whose edges UVs part whatever else is found: seams that are kept, and borders. */
function givenSeams(mesh: Mesh, options: UnwrapOptions): Uint8Array | null {
  const marks = borderSeams(mesh, {
    hard: false,
    materials: options.atMaterials,
    ids: options.atIds,
  });
  keptSeams(mesh, options.keep)?.forEach((mark, c) => (marks[c] |= mark));
  return marks.some((mark) => mark) ? marks : null;
}

function keptSeams(mesh: Mesh, keep: KeepSeams): Uint8Array | null {
  if (keep === "all")
    return mesh.seams ?? (mesh.uvs ? seamsFromUvs(mesh, mesh.uvs) : null);
  // Seams without UVs have come along from the mesh before.
  return keep === "hand" && !mesh.uvs ? mesh.seams : null;
}

/** The mesh that says where islands held by hand were: the present one, or the one laid out before it. */
function heldOf(asset: Asset, name: string): Mesh | null {
  const part = asset.parts.find((each) => each.name === name)!;
  const own = part.game?.uvs ? part.game : part.previousUnwrap;
  return own?.uvs && own.held ? own : null;
}

/** Parts with islands that lay on others before, and those whose islands they lay on. */
function stackedParts(asset: Asset, sheet: Sheet): Set<string> {
  const before = asset.parts.flatMap((part) => {
    const mesh = part.game?.uvs ? part.game : part.previousUnwrap;
    return mesh?.uvs ? [{ name: part.name, mesh }] : [];
  });
  if (!before.some(({ mesh }) => mesh.copies?.some(Boolean))) return new Set();
  const islands = gatherIslands(
    before.map(({ mesh }) => mesh),
    sheet,
  );
  const names = new Set<string>();
  followed(islands).forEach((of, i) => {
    if (of < 0) return;
    names.add(before[islands[i].mesh].name);
    names.add(before[islands[of].mesh].name);
  });
  return names;
}

/** Parts whose number of islands is another one than before. */
function changesOf(
  before: readonly { part: string; islands?: number }[],
  now: readonly { part: string; islands: number }[],
) {
  const was = new Map(before.map(({ part, islands }) => [part, islands ?? 0]));
  return now.flatMap(({ part, islands }) =>
    was.has(part) && was.get(part) === islands
      ? []
      : [{ part, before: was.get(part) ?? 0, islands }],
  );
}
