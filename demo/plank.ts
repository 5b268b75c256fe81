import type { Builder } from "./shapes";

const ARC = 4;
const FLAT = 5;

/** The rounded rectangle of a board's section, as [y, z], counter-clockwise seen from +x. */
function section(height: number, depth: number, radius: number) {
  const ring: [number, number][] = [];
  const h = height / 2 - radius;
  const d = depth / 2 - radius;
  const corners = [
    [h, d],
    [-h, d],
    [-h, -d],
    [h, -d],
  ] as const;
  const at = (k: number, i: number): [number, number] => {
    const [y, z] = corners[k % 4];
    const a = (Math.PI / 2) * ((k % 4) + i / ARC);
    return [y + radius * Math.cos(a), z + radius * Math.sin(a)];
  };
  for (let k = 0; k < 4; k++) {
    for (let i = 0; i <= ARC; i++) ring.push(at(k, i));
    const from = at(k, ARC);
    const to = at(k + 1, 0);
    for (let i = 1; i < FLAT; i++)
      ring.push([
        from[0] + ((to[0] - from[0]) * i) / FLAT,
        from[1] + ((to[1] - from[1]) * i) / FLAT,
      ]);
  }
  return ring;
}

/**
 * A board with rounded edges and ends about the origin, long along x, closed.
 * @param size length, height (y) and depth (z), metres
 * @param along how many rings the straight run is made of
 * @param shape may move a point, to bend and weather the board
 */
export function plank(
  builder: Builder,
  size: readonly [number, number, number],
  radius: number,
  along: number,
  shape: (
    x: number,
    y: number,
    z: number,
  ) => readonly [number, number, number] = (x, y, z) => [x, y, z],
): void {
  const [length, height, depth] = size;
  const outline = section(height, depth, radius);
  const half = length / 2;
  const starts: number[] = [];
  const put = (x: number, inset: number) => {
    starts.push(builder.points.length / 3);
    for (const [y, z] of outline)
      builder.vertex(
        ...shape(
          x,
          y * (1 - (2 * inset) / height),
          z * (1 - (2 * inset) / depth),
        ),
      );
  };
  // From an end inwards: how far from the end, and how much narrower.
  const rounding = Array.from({ length: ARC }, (_, i) => {
    const a = (Math.PI / 2) * ((i + 1) / (ARC + 1));
    return [radius * (1 - Math.cos(a)), radius * (1 - Math.sin(a))] as const;
  });
  for (const [off, inset] of rounding) put(-half + off, inset);
  for (let k = 0; k <= along; k++)
    put(-half + radius + ((length - 2 * radius) * k) / along, 0);
  for (const [off, inset] of [...rounding].reverse()) put(half - off, inset);
  const around = outline.length;
  for (let k = 0; k + 1 < starts.length; k++)
    builder.band(starts[k], starts[k + 1], around);
  const first = builder.vertex(...shape(-half, 0, 0));
  const last = builder.vertex(...shape(half, 0, 0));
  builder.fan(starts[0], around, first, false);
  builder.fan(starts[starts.length - 1], around, last, true);
}
