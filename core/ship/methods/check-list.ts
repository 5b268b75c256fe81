import { ownHulls } from "../../mesh/hull";
import type { Asset } from "../../asset/asset";
import { staleStages } from "../../asset/stale";
import { toDocument } from "../../asset/document";
import { totalTriangles } from "../../asset/parts";
import { mapsLaidFor } from "../../asset/laid-for";
import { MAP_TITLES, MISSED_ALLOWED } from "../../base/pictures";
import { spaced } from "../../base/wording";
import { engineVertices } from "../../mesh/engine-vertices";
import type { Mesh } from "../../mesh/mesh";
import { cornerNormals } from "../../mesh/normals";
import { tangentsOf } from "../../mesh/tangents";
import { triangulate } from "../../mesh/triangulate";
import { triangleCount } from "../../mesh/mesh";
import { tilesUsed } from "../../mesh/tiles";
import type { ReadBack } from "./read-back";

/** One line of the check list. */
export interface Check {
  name: string;
  /** What was found, and what is allowed, in words. */
  figure: string;
  limit: string;
  ok: boolean;
  /** Whether it stops the delivery where it is not. */
  stops: boolean;
}

/** Parts as they are delivered: without levels and hulls where those stay behind. */
type Delivered = Pick<Asset, "parts">;

/** Triangles of each level of detail, over all parts that have it. */
export function levelTriangles({ parts }: Delivered): number[] {
  const most = Math.max(0, ...parts.map(({ levels }) => levels.length));
  return Array.from({ length: most }, (_, l) =>
    parts.reduce(
      (sum, { levels }) => sum + (levels[l] ? triangleCount(levels[l]) : 0),
      0,
    ),
  );
}

/** Vertices of all game meshes as an engine counts them. */
export const splitVertices = ({ parts }: Delivered): number =>
  parts.reduce(
    (sum, { game }) => sum + (game ? engineVertices(game).split : 0),
    0,
  );

/**
 * What is delivered of an asset held against its brief before it leaves, and what was written against what it was
 * written from.
 * @param tangents whether they are written
 * In one piece: a list, in the order in which the report shows it.
 */
export function checkList(
  asset: Asset,
  delivered: Delivered,
  validator: { errors: number; warnings: number },
  back: readonly ReadBack[],
  tangents: boolean,
): Check[] {
  const { brief } = asset;
  const checks: Check[] = [];
  const add = (
    name: string,
    figure: string,
    limit: string,
    ok: boolean,
    stops = true,
  ) => checks.push({ name, figure, limit, ok, stops });
  const most = (name: string, value: number, limit: number) =>
    add(name, spaced(value), `≤ ${spaced(limit)}`, value <= limit);
  const { parts } = delivered;
  const meshes = parts.flatMap(({ game, levels }) => [
    ...(game ? [game] : []),
    ...levels,
  ]);
  most("Triangles", totalTriangles(delivered, "game"), brief.triangles);
  // What keeps its seams and borders cannot always be made as light as is wanted.
  levelTriangles(delivered).forEach((triangles, l) => {
    const limit = brief.levels[l] ?? brief.triangles;
    add(
      `Triangles, level ${l + 1}`,
      spaced(triangles),
      `≤ ${spaced(limit)}`,
      triangles <= limit,
      false,
    );
  });
  if (brief.vertices)
    most("Vertices", splitVertices(delivered), brief.vertices);
  most(
    "Hulls",
    parts.reduce((sum, { hulls }) => sum + ownHulls(hulls).length, 0),
    brief.hulls,
  );
  const games = parts.flatMap(({ game }) => game ?? []);
  const sheets = tilesUsed(games).length;
  add(
    "Sheets",
    spaced(sheets),
    `≤ ${spaced(brief.sheets)}`,
    sheets <= brief.sheets,
    false,
  );
  const bare = parts.filter(({ game }) => game && !game.uvs);
  add(
    "Parts without UVs",
    bare.length ? bare.map(({ name }) => name).join(", ") : "0",
    "0",
    !bare.length,
    asset.maps.length > 0,
  );
  const wild = meshes.reduce((sum, mesh) => sum + notFinite(mesh), 0);
  add("Coordinates that are no numbers", spaced(wild), "0", wild === 0);
  const odd = asset.maps.filter(
    ({ width, height }) => !isPower(width) || !isPower(height),
  );
  add(
    "Map sizes",
    odd.length ? `${odd[0].width} × ${odd[0].height}` : "powers of two",
    "powers of two",
    !odd.length,
    false,
  );
  const strange = parts.filter(({ name }) => !PLAIN_NAME.test(name));
  add(
    "Names that engines change",
    strange.length ? strange.map(({ name }) => name).join(", ") : "0",
    "0",
    !strange.length,
    false,
  );
  const faulty = tangents
    ? games.reduce((n, mesh) => n + badTangents(mesh), 0)
    : 0;
  add(
    "Tangents that are none",
    tangents ? spaced(faulty) : "not written",
    tangents ? "0" : "not written",
    faulty === 0,
  );
  unwrapChecks(asset, add);
  const brought = asset.maps.filter(({ from }) => from);
  const others = brought.filter(
    ({ laidFor }) => laidFor !== mapsLaidFor(asset),
  );
  if (brought.length)
    add(
      "Maps brought in",
      others.length
        ? `${others.map(({ kind }) => MAP_TITLES[kind]).join(", ")}: for other UVs`
        : "for these UVs",
      "for these UVs",
      !others.length,
      false,
    );
  const { bake, edges } = asset.results;
  if (edges && typeof edges.report.hardWithoutSplit === "number")
    add(
      "Hard edges without a UV split",
      spaced(edges.report.hardWithoutSplit),
      "0",
      edges.report.hardWithoutSplit === 0,
      false,
    );
  const found = (bake?.report.findings as { kind: string }[] | undefined) ?? [];
  if (found.some(({ kind }) => kind === "tried"))
    add("Maps", "tried small", "baked in full", false);
  if (bake && typeof bake.report.missed === "number")
    add(
      "Texels that missed",
      percent(bake.report.missed, 3),
      `≤ ${percent(MISSED_ALLOWED, 2)}`,
      bake.report.missed <= MISSED_ALLOWED,
      false,
    );
  const stale = staleStages(toDocument(asset, () => {}));
  add(
    "Stale",
    stale.length ? stale.join(", ") : "nothing",
    "nothing",
    !stale.length,
    false,
  );
  add(
    "glTF validator",
    validator.errors + validator.warnings
      ? `${validator.errors} errors, ${validator.warnings} warnings`
      : "clean",
    "clean",
    validator.errors + validator.warnings === 0,
    validator.errors > 0,
  );
  const differ = back.filter(({ differs }) => differs.length);
  add(
    "Read back",
    differ.length
      ? `${differ[0].file}: ${differ[0].differs[0]}`
      : `${back.length} ${back.length === 1 ? "file" : "files"}`,
    "as written",
    !differ.length,
  );
  return checks;
}

type Add = (
  name: string,
  figure: string,
  limit: string,
  ok: boolean,
  stops?: boolean,
) => void;

/** What Unwrap told of the sheet. */
function unwrapChecks({ results, brief }: Asset, add: Add): void {
  const report = results.unwrap?.report;
  if (!report) return;
  const { overlap, fill, density } = report;
  if (typeof overlap === "number")
    add(
      "Overlap that is not shared",
      percent(overlap, 2),
      "0 %",
      overlap === 0,
      false,
    );
  if (typeof fill === "number")
    add("Fill", percent(fill, 0), "≥ 50 %", fill >= 0.5, false);
  if (brief.texelsPerMetre && typeof density === "number")
    add(
      "Texel density",
      `${spaced(Math.round(density))} px/m`,
      `${spaced(brief.texelsPerMetre)} px/m ± 10 %`,
      Math.abs(density / brief.texelsPerMetre - 1) <= 0.1,
      false,
    );
}

const percent = (share: number, digits: number) =>
  `${(100 * share).toFixed(digits)} %`;

/** Letters without accents, digits and what parts them: formats and engines keep it as it is. */
const PLAIN_NAME = /^[A-Za-z0-9_. -]+$/;

/** Tangents that are not of length one, or whose side is neither. */
function badTangents(mesh: Mesh): number {
  if (!mesh.uvs) return 0;
  const normals = mesh.normals ?? cornerNormals(mesh);
  const tangents = tangentsOf(mesh, normals, triangulate(mesh));
  let count = 0;
  for (let i = 0; i < tangents.length; i += 4) {
    const length = Math.hypot(tangents[i], tangents[i + 1], tangents[i + 2]);
    if (!(Math.abs(length - 1) < 1e-3) || Math.abs(tangents[i + 3]) !== 1)
      count++;
  }
  return count;
}

const isPower = (size: number) => size > 0 && (size & (size - 1)) === 0;

function notFinite({ positions, uvs, normals }: Mesh): number {
  let count = 0;
  for (const values of [positions, uvs, normals])
    for (let i = 0; i < (values?.length ?? 0); i++)
      if (!Number.isFinite(values![i])) count++;
  return count;
}
