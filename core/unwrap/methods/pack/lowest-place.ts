import type { Grid } from "./first-grid";
import { placeAll, placementOf } from "./first-grid";
import type { PackResult, PackSettings, Turned } from "./types";
import { ArnikError } from "../../../base/errors";
import { maskOf } from "./raster";

/**
 * Whether so many points can lie on the sheet with the padding between them: circles of that width round them do not
 * overlap, and lie on the sheet but for half of theirs.
 */
export function mayHavePlace(
  count: number,
  margin: number,
  { width, height, padding }: PackSettings,
): boolean {
  const across = width - 2 * margin;
  const up = height - 2 * margin;
  const needed = (count * Math.PI * padding ** 2) / 4;
  return across > 0 && up > 0 && needed <= (across + padding) * (up + padding);
}

/** The largest island as long as this, in px, is as good as a point: what has no place now has none smaller. */
const POINT = 0.1;

/** Below so many px scales fall faster. */
const SMALL = 2;

/** The next scale to try. @throws ArnikError where islands are points already */
export function smaller(
  scale: number,
  items: readonly Turned[][],
  options: PackSettings,
): number {
  let longest = 0;
  for (const [{ width, height }] of items)
    longest = Math.max(longest, width, height);
  if (scale * longest < POINT) throw noPlace(options);
  return scale * (scale * longest < SMALL ? 0.8 : 0.97);
}

/** The error for a sheet that is full. */
export const noPlace = ({ width, height }: PackSettings) =>
  new ArnikError(
    `no place is left on the sheet of ${width} × ${height} px: free some of it, or ask for less padding`,
  );

/** Whether islands at the wanted density cover no more than the sheet, and none is longer than its diagonal. */
export function mayFit(
  turned: readonly Turned[][],
  area: number,
  { width, height, texelsPerMetre: wanted }: PackSettings,
): boolean {
  const diagonal = Math.hypot(width, height);
  return (
    area * wanted * wanted <= width * height &&
    turned.every(
      ([item]) => Math.max(item.width, item.height) * wanted <= diagonal,
    )
  );
}

/** @throws ArnikError where less than the wanted density came out */
export function refuseLess(
  reached: number,
  { width, height, texelsPerMetre: wanted }: PackSettings,
): void {
  if (reached >= 0.9999 * wanted) return;
  throw new ArnikError(
    `the islands do not fit on a sheet of ${width} × ${height} px at ${Math.round(wanted)} texels per metre, ` +
      `but at ${Math.floor(reached)} they do: ask for a lower density, a larger sheet, more tiles, or 0 for as many as fit`,
  );
}

/** Islands one after the other on fine cells, each as low as it goes, at the largest scale at which all find room. */
export function lowest(
  items: readonly Turned[][],
  order: readonly number[],
  grid: Grid,
  from: number,
  options: PackSettings,
  check: () => void,
): PackResult {
  for (let scale = from; ; scale = smaller(scale, items, options)) {
    check();
    const spots = placeAll(
      items.map((turns) =>
        turns.map((item) => maskOf(item, scale / grid.cell)),
      ),
      order,
      grid,
    );
    if (spots)
      return {
        placements: spots.map((spot, i) =>
          placementOf(items[i][spot.turn], spot, scale, grid),
        ),
        texelsPerMetre: scale,
        rounds: 0,
      };
  }
}
