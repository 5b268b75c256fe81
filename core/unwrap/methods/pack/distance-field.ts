const COARSER = 4;

/** The same field with fewer nodes. */
export function coarser({
  field,
  across,
  up,
  cell,
  left,
  bottom,
}: Field): Field {
  const wide = Math.ceil(across / COARSER);
  const high = Math.ceil(up / COARSER);
  const some = new Float32Array(wide * high);
  for (let r = 0; r < high; r++)
    for (let c = 0; c < wide; c++)
      some[r * wide + c] = field[COARSER * (r * across + c)];
  return {
    field: some,
    across: wide,
    up: high,
    cell: COARSER * cell,
    left,
    bottom,
  };
}

/**
 * Nodes well inside an island, beside the points of its border.
 * @param inside across × up
 * @param border 2 × count, px
 */
export function pointsInside(
  inside: Uint8Array,
  across: number,
  up: number,
  cell: number,
  left: number,
  bottom: number,
  border: Float64Array,
): Float64Array {
  let covered = 0;
  for (const bit of inside) covered += bit;
  const step = Math.max(1, Math.sqrt(covered / INNER));
  const out: number[] = [];
  for (let y = step / 2; y < up; y += step)
    for (let x = step / 2; x < across; x += step)
      if (inside[Math.floor(y) * across + Math.floor(x)])
        out.push(left + cell * Math.floor(x), bottom + cell * Math.floor(y));
  if (out.length < 8) out.push(...border.subarray(0, 16));
  return Float64Array.from(out);
}

/**
 * Distances to the nearest piece of border: exact at the nodes beside it, then handed on from node to node, each
 * reckoning its own distance to the piece its neighbour found (after Danielsson 1980).
 * In one piece: the passes share their arrays and allocate nothing.
 * @param segments 4 × count: both ends of each piece, px
 * @returns across × up, px
 */
export function distances(
  segments: Float64Array,
  across: number,
  up: number,
  cell: number,
  left: number,
  bottom: number,
): Float32Array {
  const nearest = new Int32Array(across * up).fill(-1);
  const squared = new Float64Array(across * up).fill(Infinity);
  const tryAt = (column: number, row: number, s: number) => {
    const px = left + column * cell;
    const py = bottom + row * cell;
    const ax = segments[s];
    const ay = segments[s + 1];
    const dx = segments[s + 2] - ax;
    const dy = segments[s + 3] - ay;
    const length = dx * dx + dy * dy;
    let t = length > 0 ? ((px - ax) * dx + (py - ay) * dy) / length : 0;
    t = t < 0 ? 0 : t > 1 ? 1 : t;
    const ex = px - ax - t * dx;
    const ey = py - ay - t * dy;
    const far = ex * ex + ey * ey;
    const i = row * across + column;
    if (far >= squared[i]) return;
    squared[i] = far;
    nearest[i] = s;
  };
  for (let s = 0; s < segments.length; s += 4) {
    const cells = (v: number, from: number) => (v - from) / cell;
    const x0 = cells(Math.min(segments[s], segments[s + 2]), left);
    const x1 = cells(Math.max(segments[s], segments[s + 2]), left);
    const y0 = cells(Math.min(segments[s + 1], segments[s + 3]), bottom);
    const y1 = cells(Math.max(segments[s + 1], segments[s + 3]), bottom);
    const wide = Math.max(1e-9, x1 - x0);
    for (
      let row = Math.max(0, Math.floor(y0));
      row <= Math.min(up - 1, Math.ceil(y1));
      row++
    ) {
      // Only the nodes near the piece in this row, not its whole box.
      const slope = (segments[s + 3] - segments[s + 1]) / cell;
      let from = x0;
      let to = x1;
      if (Math.abs(slope) > 1e-9 && wide > 3) {
        const xa = cells(segments[s], left);
        const xb = cells(segments[s + 2], left);
        const ya = cells(segments[s + 1], bottom);
        const at = (y: number) => {
          const t = Math.max(0, Math.min(1, (y - ya) / slope));
          return xa + t * (xb - xa);
        };
        from = Math.min(at(row - 1), at(row + 1));
        to = Math.max(at(row - 1), at(row + 1));
      }
      for (
        let column = Math.max(0, Math.floor(from));
        column <= Math.min(across - 1, Math.ceil(to));
        column++
      )
        tryAt(column, row, s);
    }
  }
  const hand = (column: number, row: number, dx: number, dy: number) => {
    const c = column + dx;
    const r = row + dy;
    if (c < 0 || r < 0 || c >= across || r >= up) return;
    const s = nearest[r * across + c];
    if (s >= 0) tryAt(column, row, s);
  };
  for (let pass = 0; pass < 2; pass++) {
    for (let row = 0; row < up; row++) {
      for (let c = 0; c < across; c++) {
        hand(c, row, -1, 0);
        hand(c, row, 0, -1);
        hand(c, row, -1, -1);
        hand(c, row, 1, -1);
      }
      for (let c = across - 1; c >= 0; c--) hand(c, row, 1, 0);
    }
    for (let row = up - 1; row >= 0; row--) {
      for (let c = across - 1; c >= 0; c--) {
        hand(c, row, 1, 0);
        hand(c, row, 0, 1);
        hand(c, row, 1, 1);
        hand(c, row, -1, 1);
      }
      for (let c = 0; c < across; c++) hand(c, row, -1, 0);
    }
  }
  return Float32Array.from(squared, Math.sqrt);
}

/** Distances at the nodes of a grid. */
export interface Field {
  field: Float32Array;
  across: number;
  up: number;
  cell: number;
  /** Where the first node lies. */
  left: number;
  bottom: number;
}

/** Points all over an island, about. */
export const INNER = 40;
