import type { Asset } from "../../asset/asset";
import type { ReferencePicture } from "../../base/pictures";
import { mapParts } from "../../asset/parts";
import type { KeptRepeat } from "../../formats/kept-extras";
import type { ReadMeshes } from "../../formats/index";
import { distinctNames } from "../../formats/raw-mesh";
import type { Mesh } from "../../mesh/mesh";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { transformPoints } from "../../mesh/transform";

/** How far a repeat may lie from where its matrix puts it, as a share of its size. */
const TOLERANCE = 1e-3;

/**
 * An asset with what a file that came from here keeps besides its meshes: which parts repeat others, reference pictures
 * and the painted picture. A repeat that was changed elsewhere since stands for itself.
 * @param partOf parts by their names in the file
 */
export function withKept(
  asset: Asset,
  kept: ReadMeshes["kept"],
  partOf: ReadonlyMap<string, string>,
): Asset {
  let next = asset;
  for (const { repeats, references, painted } of kept) {
    next = withRepeats(next, repeats, partOf);
    const known = next.references;
    // Source and game mesh of one asset come in files that both keep them.
    const others = references.filter(
      (one) => !known.some((other) => isSame(one, other)),
    );
    if (others.length) {
      const names = distinctNames([
        ...known.map(({ name }) => name),
        ...others.map(({ name }) => name),
      ]).slice(known.length);
      const named = others.map((each, i) => ({ ...each, name: names[i] }));
      next = { ...next, references: [...known, ...named] };
    }
    if (painted) next = { ...next, painted };
  }
  return next;
}

const isSame = (a: ReferencePicture, b: ReferencePicture) =>
  a.name === b.name &&
  a.plane === b.plane &&
  a.bytes.length === b.bytes.length &&
  a.bytes.every((byte, i) => byte === b.bytes[i]);

function withRepeats(
  asset: Asset,
  repeats: readonly KeptRepeat[],
  partOf: ReadonlyMap<string, string>,
): Asset {
  const byPart = new Map(
    repeats.map((repeat) => [partOf.get(repeat.part), repeat]),
  );
  const named = new Map(asset.parts.map((part) => [part.name, part]));
  return mapParts(asset, (part) => {
    const repeat = byPart.get(part.name);
    const origin = repeat && named.get(partOf.get(repeat.of) ?? "");
    if (!origin || origin === part || byPart.has(origin.name)) return part;
    const { matrix } = repeat;
    const alike = (["source", "game"] as const).every((which) =>
      liesAt(part[which], origin[which], matrix),
    );
    return alike ? { ...part, repeat: { of: origin.name, matrix } } : part;
  });
}

/** Whether a mesh is another one under a matrix. */
function liesAt(
  mesh: Mesh | null,
  origin: Mesh | null,
  matrix: readonly number[],
): boolean {
  if (!mesh || !origin) return mesh === origin;
  if (
    mesh.positions.length !== origin.positions.length ||
    mesh.corners.length !== origin.corners.length
  )
    return false;
  // A mirrored copy has its vertices in another order: both ends and the middle are compared.
  const placed = transformPoints(origin.positions, matrix);
  const { min, max } = boundsOf(mesh.positions);
  const wanted = boundsOf(placed);
  const near = TOLERANCE * diagonalOf({ min, max });
  return [0, 1, 2].every(
    (k) =>
      Math.abs(min[k] - wanted.min[k]) <= near &&
      Math.abs(max[k] - wanted.max[k]) <= near &&
      Math.abs(meanOf(mesh.positions, k) - meanOf(placed, k)) <= near,
  );
}

/** Mean of one coordinate of all vertices. @param positions 3 × vertexCount, metres */
function meanOf(positions: Float32Array, axis: number): number {
  let sum = 0;
  for (let i = axis; i < positions.length; i += 3) sum += positions[i];
  return sum / (positions.length / 3);
}
