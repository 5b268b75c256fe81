import type { Asset, Part } from "../../asset/asset";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { chosenFaces, FaceOptions } from "../../asset/chosen-faces";
import { onGames } from "../../asset/other-mesh";
import { mapParts } from "../../asset/parts";
import { withReport } from "../../asset/reports";
import { PieceOptions } from "../../asset/worked-meshes";
import { MissingInputError } from "../../base/errors";
import type { ClingTrouble, ClingWay } from "../../remesh/cling-troubles";
import { cling, ClingTarget } from "../../remesh/cling";
import { mendCling } from "../../remesh/mend-cling";
import type { Mesh } from "../../mesh/mesh";
import { faceCount, vertexCount } from "../../mesh/mesh";
import type { MeshPlace } from "../../mesh/places";
import { placesOf } from "../../mesh/places";
import { indicesOf, toRanges } from "../../base/ranges";
import { defineOperation, field } from "../../asset/operation";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { surfaceOf } from "./judge";

/** Something that went wrong with a part that clings: how many points or faces, and where. */
export interface ClingFinding {
  part: string;
  kind: keyof ClingTrouble;
  count: number;
  /** Faces of the game mesh in short form. */
  faces: string;
  places: MeshPlace[];
}

const WAYS = [
  { value: "nearest", label: "to the nearest place" },
  { value: "normals", label: "along its normals" },
  { value: "x", label: "along x" },
  { value: "y", label: "along y" },
  { value: "z", label: "along z" },
] as const;

class ClingFormOptions extends PieceOptions {
  @field({
    kind: "choice",
    label: "Moves",
    help: "Which way each point looks for the source.",
    choices: WAYS,
  })
  way: ClingWay = "nearest";

  @field({
    kind: "choice",
    label: "Onto",
    help: "The source of the same part, or all sources together.",
    choices: [
      { value: "own", label: "its own source" },
      { value: "all", label: "all sources" },
    ],
  })
  onto: "own" | "all" = "own";

  @field({
    kind: "number",
    label: "Offset",
    help: "How far off the source the points come to lie, outwards.",
    unit: "mm",
    min: -1000,
    max: 1000,
    step: 0.5,
  })
  offset = 0;

  @field({
    kind: "number",
    label: "Reach",
    empty: "any distance",
    help: "Points farther away than this stay where they are.",
    unit: "mm",
    min: 0,
    max: 100000,
    step: 1,
  })
  reach = 0;

  @field({
    kind: "integer",
    label: "Relax",
    help: "Rounds in which the points even out along the source.",
    unit: "rounds",
    min: 0,
    max: 100,
  })
  relax = 0;

  override mesh: "source" | "game" = "game";
}

export const clingToSource = defineOperation({
  id: "reduce/cling",
  stage: "reduce",
  title: "Cling to the source",
  about:
    "Moves the points of game meshes onto the source. Points that landed on the wrong limb, folds and stretched faces are listed with their mend.",
  runs: "heavy",
  takes: "both",
  makesResult: false,
  keepsReport: true,
  madeFrom: ["names of parts", "source meshes", "game meshes"],
  Options: ClingFormOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    requireMeshes(asset, "game");
    const held = new Map<string, Uint8Array>();
    if (options.faces.length)
      for (const { part, mesh, marks } of chosenFaces(
        asset,
        onGames(asset, options),
      ))
        held.set(
          part.name,
          verticesOf(mesh, marks).map((mark) => 1 - mark),
        );
    const chosen = options.faces.length
      ? new Set(held.keys())
      : chosenParts(asset, options.parts);
    const findings: ClingFinding[] = [];
    let points = 0;
    let moved = 0;
    const next = changeGames(asset, chosen, options.onto, (part, target) => {
      context.progress(0.1, `bringing ${part.name} onto its source`);
      const mesh = part.game!;
      const done = cling(
        mesh,
        target,
        {
          way: options.way,
          offset: options.offset / 1000,
          reach: options.reach ? options.reach / 1000 : Infinity,
          relax: options.relax,
          held: held.get(part.name) ?? null,
        },
        () => context.check(),
      );
      points += vertexCount(mesh);
      moved += vertexCount(mesh) * done.moved;
      findings.push(...asFindings(part.name, done.mesh, done.trouble));
      return done.mesh;
    });
    const wrong = findings.reduce((sum, { count }) => sum + count, 0);
    return {
      asset: next,
      headline: `${spaced(points)} points`,
      report: {
        points,
        moved: moved / (points || 1),
        findings,
        offset: options.offset,
        onto: options.onto,
        summary: `${spaced(points)} points moved by ${((1000 * moved) / (points || 1)).toFixed(2)} mm on average${wrong ? `; ${findings.length} things to look at` : ""}`,
      },
    };
  },
});

/** @throws MissingInputError where no chosen part has both meshes */
function changeGames(
  asset: Asset,
  chosen: ReadonlySet<string>,
  onto: "own" | "all",
  change: (part: Part, target: ClingTarget) => Mesh,
): Asset {
  const all =
    onto === "all"
      ? new ClingTarget(surfaceOf(asset.parts.map((part) => part.source)))
      : null;
  let count = 0;
  const next = mapParts(asset, (part) => {
    if (!part.game || !chosen.has(part.name) || part.locked || part.repeat)
      return part;
    if (!all && !part.source) return part;
    count++;
    const target = all ?? new ClingTarget(surfaceOf([part.source]));
    return { ...part, game: change(part, target) };
  });
  if (!count)
    throw new MissingInputError(
      "none of the chosen parts has a game mesh and a source to cling to",
    );
  return next;
}

function verticesOf(mesh: Mesh, faces: ArrayLike<number>): Uint8Array {
  const marks = new Uint8Array(vertexCount(mesh));
  for (let f = 0; f < faceCount(mesh); f++)
    if (faces[f])
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
        marks[mesh.corners[c]] = 1;
  return marks;
}

function asFindings(
  part: string,
  mesh: Mesh,
  trouble: ClingTrouble,
): ClingFinding[] {
  const diagonal = diagonalOf(boundsOf(mesh.positions));
  const cornersOf = (f: number) => [
    ...mesh.corners.subarray(mesh.faceStarts[f], mesh.faceStarts[f + 1]),
  ];
  return (["wrong", "folded", "stretched", "missed"] as const).flatMap(
    (kind) => {
      const list = trouble[kind];
      if (!list.length) return [];
      const points = kind === "wrong" || kind === "missed";
      const marks = new Uint8Array(faceCount(mesh));
      if (points) {
        const own = new Set(list);
        for (let f = 0; f < marks.length; f++)
          if (cornersOf(f).some((v) => own.has(v))) marks[f] = 1;
      } else for (const f of list) marks[f] = 1;
      return [
        {
          part,
          kind,
          count: list.length,
          faces: toRanges(indicesOf(marks)),
          places: placesOf(
            mesh.positions,
            points ? list.map((v) => [v]) : list.map(cornersOf),
            diagonal,
          ),
        },
      ];
    },
  );
}

class MendClingOptions extends FaceOptions {
  @field({
    kind: "choice",
    label: "Points there",
    help: "What becomes of the points of the chosen faces of the game mesh: all are first brought between their neighbours.",
    choices: [
      { value: "hold", label: "stay between neighbours" },
      { value: "limit", label: "look again, within reach" },
      { value: "normals", label: "go along normals" },
    ],
  })
  how: "hold" | "limit" | "normals" = "normals";

  @field({
    kind: "number",
    label: "Reach",
    help: "How far they may look for the source.",
    unit: "mm",
    min: 0.01,
    max: 100000,
    step: 1,
  })
  reach = 20;

  @field({
    kind: "number",
    label: "Offset",
    help: "How far off the source they come to lie, outwards.",
    unit: "mm",
    min: -1000,
    max: 1000,
    step: 0.5,
    folded: true,
  })
  offset = 0;

  @field({
    kind: "choice",
    label: "Onto",
    help: "The source of the same part, or all sources together.",
    choices: [
      { value: "own", label: "its own source" },
      { value: "all", label: "all sources" },
    ],
    folded: true,
  })
  onto: "own" | "all" = "own";

  override mesh: "source" | "game" = "game";
}

export const mendClinging = defineOperation({
  id: "reduce/mend-cling",
  stage: "reduce",
  title: "Mend where it clings wrong",
  about:
    "Brings the points of chosen game faces back between their neighbours, and lets them find the source again with care.",
  runs: "instant",
  takes: "both",
  makesResult: false,
  Options: MendClingOptions,
  run(asset, options) {
    const chosen = chosenFaces(asset, onGames(asset, options));
    let points = 0;
    const next = changeGames(
      asset,
      new Set(chosen.map(({ part }) => part.name)),
      options.onto,
      (part, target) => {
        const own = chosen.find((each) => each.part === part)!;
        const marks = verticesOf(part.game!, own.marks);
        points += marks.reduce((sum, mark) => sum + mark, 0);
        return mendCling(part.game!, target, marks, options.how, {
          offset: options.offset / 1000,
          reach: options.reach / 1000,
        });
      },
    );
    const names = new Set(chosen.map(({ part }) => part.name));
    const left = (findings: readonly ClingFinding[]) =>
      findings.filter(
        (finding) =>
          !names.has(finding.part) ||
          !options.faces.includes(`${finding.part}:${finding.faces}`),
      );
    return {
      asset: withReport(next, "reduce/cling", (report) => ({
        ...report,
        findings: left((report.findings ?? []) as ClingFinding[]),
      })),
      headline: "",
      report: { points, summary: `${spaced(points)} points mended` },
    };
  },
});
