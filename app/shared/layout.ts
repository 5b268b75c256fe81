/** A rectangle of the view's holder, px from its left and its top. */
export interface Rect {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** How table and sheet share the room. */
export interface Sharing {
  /** Share of the width, or of the height, that the sheet takes: 0 for none. */
  share: number;
  /** Whether one lies above the other instead of beside it. */
  turned: boolean;
  /** Whether the sheet comes first. */
  first: boolean;
}

/** Neither gets narrower than this while there is room for both, px. */
const LEAST = 140;

/** Where table and sheet lie in a holder of so many px. */
export function layoutOf(
  width: number,
  height: number,
  { share, turned, first }: Sharing,
): { table: Rect; sheet: Rect | null } {
  const whole = { left: 0, top: 0, width, height };
  if (!share) return { table: whole, sheet: null };
  const along = turned ? height : width;
  const least = Math.min(LEAST, along / 2);
  const own = Math.round(
    Math.max(least, Math.min(along - least, along * share)),
  );
  const part = (from: number, size: number): Rect =>
    turned
      ? { ...whole, top: from, height: size }
      : { ...whole, left: from, width: size };
  return first
    ? { sheet: part(0, own), table: part(own, along - own) }
    : { table: part(0, along - own), sheet: part(along - own, own) };
}

export const isWithin = (
  { left, top, width, height }: Rect,
  x: number,
  y: number,
) => x >= left && x < left + width && y >= top && y < top + height;

/** What of a rectangle is left where so many px are covered above and below; half of it at least. */
export function clearOf(
  rect: Rect,
  covered: { above: number; below: number },
): Rect {
  const most = rect.height / 2;
  const k = Math.min(1, most / Math.max(1e-9, covered.above + covered.below));
  return {
    ...rect,
    top: rect.top + k * covered.above,
    height: rect.height - k * (covered.above + covered.below),
  };
}
