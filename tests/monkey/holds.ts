import { isDeepStrictEqual } from "node:util";
import type { Asset, Part } from "../../core/asset/asset";
import type { AssetDocument } from "../../core/asset/document";
import { toDocument } from "../../core/asset/document";
import { fromDocument } from "../../core/asset/read-document";
import type { Mesh } from "../../core/mesh/mesh";
import { faceCount, triangleCount, vertexCount } from "../../core/mesh/mesh";
import { STREAM_NAMES, STREAMS } from "../../core/mesh/streams";
import type { OperationResult } from "../../core/asset/operation";
import type { HullMeshes } from "../../core/collide/methods/hull-meshes";
import { meshForHulls } from "../../core/collide/methods/hull-meshes";
import { farthestOutside } from "../../core/collide/methods/containment";
import { describe } from "../../core/route";
import { boundsOf } from "../../core/space/bounds";

/** What must hold after any operation; each tells what does not, or nothing. */

const meshesOf = (part: Part): [string, Mesh][] =>
  [
    ["source", part.source],
    ["settled", part.settled?.mesh],
    ["game", part.game],
    ["laid", part.previousUnwrap],
    ["dense", part.dense],
    ["light", part.light],
    ["tried", part.tried],
    ...part.levels.map((level, l) => [`level ${l + 1}`, level]),
  ].flatMap(([what, mesh]) => (mesh ? [[what, mesh] as [string, Mesh]] : []));

/** Arrays as long as they must be, numbers that name what is there, coordinates that are numbers. */
export function soundMeshes(asset: Asset): string | null {
  for (const part of asset.parts)
    for (const [what, mesh] of meshesOf(part)) {
      const wrong = wrongIn(mesh, asset.palette.length);
      if (wrong) return `${what} of ${part.name}: ${wrong}`;
    }
  return null;
}

function wrongIn(mesh: Mesh, colours: number): string | null {
  const { positions, faceStarts, corners, materials } = mesh;
  if (positions.some((x) => !Number.isFinite(x)))
    return "a coordinate is no number";
  if (faceStarts[0] !== 0 || faceStarts.at(-1) !== corners.length)
    return "faces do not cover the corners";
  for (let f = 0; f < faceCount(mesh); f++)
    if (faceStarts[f + 1] - faceStarts[f] < 3) return `face ${f} is none`;
  if (corners.some((v) => v >= vertexCount(mesh)))
    return "a corner names a vertex that is not there";
  for (const name of STREAM_NAMES) {
    const { on, width } = STREAMS[name];
    const count = width * (on === "faces" ? faceCount(mesh) : corners.length);
    const values = mesh[name];
    if (values && values.length !== count)
      return `${name} has ${values.length} numbers for ${count}`;
    if (values?.some((x) => !Number.isFinite(x)))
      return `${name} has what is no number`;
  }
  if (mesh.faceMaterials?.some((m) => m >= materials.length))
    return "a face has a material that is not there";
  if (mesh.ids?.some((id) => id > colours)) return "an ID has no colour";
  return null;
}

/** Every figure of a report is a number that can be stored. */
export function soundReport(value: unknown, path = "report"): string | null {
  if (typeof value === "number")
    return Number.isFinite(value) ? null : `${path} is ${value}`;
  if (ArrayBuffer.isView(value)) return `${path} is no plain value`;
  if (value && typeof value === "object")
    for (const [key, each] of Object.entries(value)) {
      const wrong = soundReport(each, `${path}.${key}`);
      if (wrong) return wrong;
    }
  return null;
}

/** A document gives back the asset that it is of. */
export function comesBack(asset: Asset): string | null {
  const bytes = new Map<string, Uint8Array>();
  const document = toDocument(asset, (hash, stream) => {
    bytes.set(hash, stream.slice());
  });
  const text = JSON.stringify(document);
  const back = describe(
    fromDocument(JSON.parse(text) as AssetDocument, (hash) => bytes.get(hash)!),
  );
  return isDeepStrictEqual(JSON.parse(JSON.stringify(back)), JSON.parse(text))
    ? null
    : "its document gives another asset back";
}

/** Operations that move, name or take away whatever there is, locked or not. */
const MOVES_ALL = /^intake\/|^survey\/(delete-parts|rename|place-copies|link)/;

/** Locked parts keep their meshes, their UVs and their hulls. */
export function heedsLocks(
  before: AssetDocument,
  after: AssetDocument,
  id: string,
): string | null {
  if (MOVES_ALL.test(id)) return null;
  for (const part of before.parts) {
    if (!part.locked) continue;
    const now = after.parts.find(({ name }) => name === part.name);
    if (!now) return `locked ${part.name} is gone`;
    for (const what of ["game", "hulls", "levels"] as const)
      if (JSON.stringify(now[what]) !== JSON.stringify(part[what]))
        return `${what} of locked ${part.name} changed`;
  }
  return null;
}

/** A reduction keeps to its budget, or says that it failed. */
export function keepsBudget({ asset, report }: OperationResult): string | null {
  const { triangles, budget, failed } = report as {
    triangles?: number;
    budget?: number | null;
    failed?: string;
  };
  if (triangles === undefined || !budget || failed) return null;
  const all = asset.parts.reduce(
    (sum, { game }) => sum + (game ? triangleCount(game) : 0),
    0,
  );
  return triangles > budget
    ? `${triangles} of ${budget} triangles without a word (${all} in all)`
    : null;
}

/** Islands neither lie on one another nor are turned over, and lie on their sheets. */
export function soundIslands({ report }: OperationResult): string | null {
  const { flipped = 0, overlap = 0 } = report as Record<string, number>;
  if (flipped > 0) return `${flipped} triangles are turned over`;
  return overlap > 0 ? `islands overlap by ${overlap}` : null;
}

/** Hulls hold what they stand for, or the report says how far it stands out. */
export function hullsHold(
  { asset, report }: OperationResult,
  {
    parts = [],
    from = "game",
    smallestPiece = 0,
    unseenToo = false,
  }: Partial<HullMeshes & { parts: string[] }>,
): string | null {
  if (from !== "game" || smallestPiece) return null;
  const ways = { from, smallestPiece, unseenToo };
  const meshOf = meshForHulls(asset, ways, () => {});
  const { outside = 0 } = report as { outside?: number };
  for (const part of asset.parts) {
    const mesh = meshOf(part);
    const made = !parts.length || parts.includes(part.name);
    if (!mesh || !made || part.locked || !part.hulls.length) continue;
    const { min, max } = boundsOf(mesh.positions);
    const size = Math.max(...max.map((high, k) => high - min[k]));
    const far = farthestOutside(part.hulls, mesh.positions);
    // A ground mesh holds nothing.
    if (part.hulls.some(({ kind }) => kind === "ground")) continue;
    // Hulls of other parts may hold what stands out of this one's.
    if (part.hulls.length === 1 && far > outside + 1e-4 * size)
      return `${part.name} stands ${far} m out of its hull, ${outside} are told`;
  }
  return null;
}
