import type { Mesh } from "../../mesh/mesh";
import { toRanges } from "../../base/ranges";
import { rasterizeTriangle } from "../../space/raster";
import { stretchOf } from "./measure";
import type { Sheet } from "./sheet";
import { tileAt, tileOf } from "../../mesh/tiles";
import type { SheetIsland } from "./sheet-islands";

export type UvFault =
  | "overlap"
  | "outside"
  | "flipped"
  | "no area"
  | "padding"
  | "tiny"
  | "stretched";

/** Something wrong with UVs, of one part. */
export interface UvFinding {
  kind: UvFault;
  part: string;
  /** Islands it concerns, and texels where that says more (0 where not). */
  islands: number;
  texels: number;
  /** Faces of the game mesh in short form. */
  faces: string;
  /** Middles and radii on the model, m, worst first. */
  places: { at: [number, number, number]; radius: number }[];
}

/** Islands of no more faces than this are mostly traces of a step done by accident. */
const TINY_FACES = 2;
/** Places named in one finding. */
const MOST_PLACES = 40;
/** Islands stretched by more than this are named. */
const STRETCHED = 1.15;
/** Rasters larger than this are looked at on coarser texels. */
const LARGEST = 2048;

/** What is wrong with the UVs of some meshes on their sheets; what shares texels on purpose is no overlap. */
export function checkUvs(
  names: readonly string[],
  meshes: readonly Mesh[],
  islands: readonly SheetIsland[],
  sheet: Sheet,
): { findings: UvFinding[]; worstStretch: number } {
  const faults = new Map<
    string,
    { kind: UvFault; mesh: number; of: Map<number, number> }
  >();
  const note = (kind: UvFault, island: number, amount: number) => {
    const { mesh } = islands[island];
    const key = `${kind} ${mesh}`;
    const fault = faults.get(key) ?? { kind, mesh, of: new Map() };
    fault.of.set(island, (fault.of.get(island) ?? 0) + amount);
    faults.set(key, fault);
  };
  const stretch = stretchOf(meshes, islands, sheet);
  stretch.forEach((each, i) => {
    if (each > STRETCHED && !islands[i].copy) note("stretched", i, each);
  });
  islands.forEach((island, i) => {
    if (
      island.faces.length <= TINY_FACES &&
      isTiny(meshes[island.mesh], island)
    )
      note("tiny", i, 1);
    if (!(island.covered > 1e-9 * island.area) && island.area > 0)
      note("no area", i, 1);
    else if (!island.copy && isFlipped(island)) note("flipped", i, 1);
  });
  rasterFaults(islands, sheet, note);
  const order: UvFault[] = [
    "overlap",
    "outside",
    "flipped",
    "no area",
    "padding",
    "tiny",
    "stretched",
  ];
  const findings = [...faults.values()]
    .sort(
      (a, b) =>
        order.indexOf(a.kind) - order.indexOf(b.kind) || a.mesh - b.mesh,
    )
    .map(({ kind, mesh, of }): UvFinding => {
      const worst = [...of].sort((a, b) => b[1] - a[1] || a[0] - b[0]);
      const faces = worst
        .flatMap(([i]) => islands[i].faces)
        .sort((a, b) => a - b);
      return {
        kind,
        part: names[mesh],
        islands: of.size,
        texels: ["overlap", "outside", "padding"].includes(kind)
          ? worst.reduce((sum, [, amount]) => sum + amount, 0)
          : 0,
        faces: toRanges(faces),
        places: worst
          .slice(0, MOST_PLACES)
          .map(([i]) => placeOf(meshes[mesh], islands[i].faces)),
      };
    });
  return { findings, worstStretch: Math.max(1, ...stretch) };
}

/** An island of one or two faces on a mesh that has more to go with it. */
const isTiny = (mesh: Mesh, { faces }: SheetIsland) =>
  mesh.faceStarts.length - 1 > 12 * faces.length &&
  faces.some((f) => {
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
      if (mesh.seams?.[c] && !mesh.hard?.[c]) return true;
    return false;
  });

function isFlipped({ pixels }: SheetIsland): boolean {
  let sum = 0;
  for (let i = 0; i < pixels.length; i += 6)
    sum +=
      (pixels[i + 2] - pixels[i]) * (pixels[i + 5] - pixels[i + 1]) -
      (pixels[i + 4] - pixels[i]) * (pixels[i + 3] - pixels[i + 1]);
  return sum < 0;
}

/** Overlaps, what lies on no tile, and islands nearer to each other than the padding. */
function rasterFaults(
  islands: readonly SheetIsland[],
  sheet: Sheet,
  note: (kind: UvFault, island: number, amount: number) => void,
): void {
  const less = Math.min(1, LARGEST / Math.max(sheet.width, sheet.height));
  const width = Math.round(sheet.width * less);
  const height = Math.round(sheet.height * less);
  const apart = sheet.padding * less - 1;
  const tiles = new Map<number, Int32Array>();
  islands.forEach((island, i) => {
    if (island.copy) return;
    const { pixels } = island;
    let lost = 0;
    for (let k = 0; k < pixels.length; k += 6) {
      const q = pixels.subarray(k, k + 6);
      const tile = tileOf(
        (q[0] + q[2] + q[4]) / 3 / sheet.width,
        (q[1] + q[3] + q[5]) / 3 / sheet.height,
      );
      if (tile < 0) {
        lost++;
        continue;
      }
      let own = tiles.get(tile);
      if (!own) tiles.set(tile, (own = new Int32Array(width * height)));
      const taken = own;
      const [dx, dy] = tileAt(tile);
      const at = (n: number) =>
        less * (q[n] - (n % 2 ? dy * sheet.height : dx * sheet.width));
      rasterizeTriangle(
        at(0),
        at(1),
        at(2),
        at(3),
        at(4),
        at(5),
        width,
        height,
        (row, from, to) => {
          for (let x = row * width + from; x < row * width + to; x++) {
            const other = taken[x] - 1;
            if (other >= 0 && other !== i) {
              note("overlap", i, 1);
              note("overlap", other, 1);
            } else if (other === i) note("overlap", i, 1);
            taken[x] = i + 1;
          }
        },
      );
    }
    if (lost) note("outside", i, lost);
  });
  for (const taken of tiles.values())
    paddingFaults(taken, width, height, apart, note);
}

/** Texels at islands' borders with another island nearer than the padding. */
function paddingFaults(
  taken: Int32Array,
  width: number,
  height: number,
  apart: number,
  note: (kind: UvFault, island: number, amount: number) => void,
): void {
  if (apart < 1) return;
  const reach = Math.floor(apart);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const own = taken[y * width + x];
      if (!own) continue;
      const inner =
        x > 0 &&
        y > 0 &&
        x + 1 < width &&
        y + 1 < height &&
        taken[y * width + x + 1] === own &&
        taken[(y + 1) * width + x] === own &&
        taken[y * width + x - 1] === own &&
        taken[(y - 1) * width + x] === own;
      if (inner) continue;
      // Half the surroundings are enough: the other half sees this texel from there.
      for (let dy = 0; dy <= reach && y + dy < height; dy++) {
        const wide = Math.floor(Math.sqrt(apart * apart - dy * dy));
        const from = dy ? Math.max(0, x - wide) : x + 1;
        const to = Math.min(width - 1, x + wide);
        for (let c = from; c <= to; c++) {
          const other = taken[(y + dy) * width + c];
          if (other && other !== own) {
            note("padding", own - 1, 1);
            note("padding", other - 1, 1);
            dy = reach;
            break;
          }
        }
      }
    }
}

/** Middle and radius of some faces on the model. */
export function placeOf(
  mesh: Mesh,
  faces: readonly number[],
): { at: [number, number, number]; radius: number } {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const f of faces)
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
      for (let k = 0; k < 3; k++) {
        const x = mesh.positions[3 * mesh.corners[c] + k];
        low[k] = Math.min(low[k], x);
        high[k] = Math.max(high[k], x);
      }
  return {
    at: [0, 1, 2].map((k) => (low[k] + high[k]) / 2) as [
      number,
      number,
      number,
    ],
    radius: Math.hypot(...[0, 1, 2].map((k) => high[k] - low[k])) / 2,
  };
}
