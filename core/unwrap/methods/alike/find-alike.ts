import type { Mesh } from "../../../mesh/mesh";
import type { Context } from "../../../base/context";
import { seededRandom } from "../../../base/random";
import { fitMove } from "../held";
import { alignToBox } from "../pack/turned";
import type { SheetIsland, SheetMove } from "../sheet-islands";

/** An island that is the same as another one, or its mirror image. */
export interface Alike {
  /** Number of the island, and the move that lays it exactly on the first of its group (px). */
  island: number;
  move: SheetMove;
  mirrored: boolean;
}

/** Islands that are alike; all are told against the first one. */
export interface AlikeGroup {
  first: number;
  others: Alike[];
}

/** Outline points compared closely, and pairs of them whose distance in space is. */
const POINTS = 120;
const PAIRS = 240;
/** Rounds of bringing outlines onto each other. */
const ROUNDS = 4;

/** An island's shape, to be compared: without its place, turn and scale on the sheet. */
interface Outline {
  island: SheetIsland;
  /** 6 a triangle, metres, the middle of its area at the origin. */
  triangles: Float64Array;
  /** 2 × corners, the same; and 3 × corners in space. */
  flat: Float64Array;
  space: Float64Array;
  length: number;
  wide: number;
  high: number;
  /** Turns that lay its smallest box, and its longest axis of area, along the sheet's; and metres a pixel. */
  angles: readonly [number, number];
  scale: number;
  centre: [number, number];
}

/**
 * Finds islands that are the same by shape, turned or mirrored, within a tolerance: outlines are laid on each other
 * in eight ways by their boxes, and in eight by their axes; one counts where all points of each lie on the other and where points of both have the same
 * distances from each other in space too.
 * @param tolerance share of an island's size that points may be off
 */
export function findAlike(
  meshes: readonly Mesh[],
  islands: readonly SheetIsland[],
  tolerance: number,
  context: Context,
): AlikeGroup[] {
  const outlines = islands.map((island) =>
    island.area > 0 && island.covered > 0
      ? outlineOf(meshes[island.mesh], island)
      : null,
  );
  const order = outlines
    .flatMap((each, i) => (each ? [i] : []))
    .sort((a, b) => islands[b].area - islands[a].area || a - b);
  const taken = new Uint8Array(islands.length);
  const groups: AlikeGroup[] = [];
  order.forEach((first, k) => {
    if (taken[first]) return;
    if ((k & 15) === 0) {
      context.check();
      context.progress(k / order.length, "comparing islands");
    }
    const one = outlines[first]!;
    const others: Alike[] = [];
    for (const i of order.slice(k + 1)) {
      if (islands[i].area < one.island.area * (1 - 4 * tolerance)) break;
      if (taken[i]) continue;
      const found = compare(one, outlines[i]!, tolerance);
      if (!found) continue;
      taken[i] = 1;
      others.push({ island: i, ...found });
    }
    if (others.length) groups.push({ first, others });
  });
  return groups;
}

function outlineOf(mesh: Mesh, island: SheetIsland): Outline {
  const scale = Math.sqrt(island.area / island.covered);
  const box = alignToBox({ triangles: island.pixels });
  const { middle, axis } = momentsOf(island.pixels);
  const [cx, cy] = middle;
  // Corners lie among the triangles' points; the mesh says where they are in space.
  const flat = new Float64Array(2 * island.corners.length);
  const space = new Float64Array(3 * island.corners.length);
  const { uvs } = mesh;
  const [w, h] = sizeOf(mesh, island);
  island.corners.forEach((c, i) => {
    flat[2 * i] = (uvs![2 * c] * w - cx) * scale;
    flat[2 * i + 1] = (uvs![2 * c + 1] * h - cy) * scale;
    space.set(
      mesh.positions.subarray(3 * mesh.corners[c], 3 * mesh.corners[c] + 3),
      3 * i,
    );
  });
  const triangles = island.pixels.map(
    (x, i) => (x - (i % 2 ? cy : cx)) * scale,
  );
  let length = 0;
  for (let i = 0; i < triangles.length; i += 6)
    for (let k = 0; k < 3; k++) {
      const j = (2 * k + 2) % 6;
      length += Math.hypot(
        triangles[i + j] - triangles[i + 2 * k],
        triangles[i + j + 1] - triangles[i + 2 * k + 1],
      );
    }
  return {
    island,
    triangles,
    flat,
    space,
    length,
    wide: Math.max(box.width, box.height) * scale,
    high: Math.min(box.width, box.height) * scale,
    angles: [box.angle + (box.height > box.width ? Math.PI / 2 : 0), -axis],
    scale,
    centre: [cx, cy],
  };
}

/** Where the middle of an area lies and how its longest axis is turned: the same however the island lies. */
function momentsOf(t: Float64Array): {
  middle: [number, number];
  axis: number;
} {
  let all = 0;
  const middle: [number, number] = [0, 0];
  const each = (what: (i: number, area: number) => void) => {
    for (let i = 0; i < t.length; i += 6)
      what(
        i,
        Math.abs(
          (t[i + 2] - t[i]) * (t[i + 5] - t[i + 1]) -
            (t[i + 4] - t[i]) * (t[i + 3] - t[i + 1]),
        ) / 2,
      );
  };
  each((i, area) => {
    all += area;
    middle[0] += (area * (t[i] + t[i + 2] + t[i + 4])) / 3;
    middle[1] += (area * (t[i + 1] + t[i + 3] + t[i + 5])) / 3;
  });
  middle[0] /= all;
  middle[1] /= all;
  let difference = 0;
  let product = 0;
  each((i, area) => {
    const x = [0, 2, 4].map((k) => t[i + k] - middle[0]);
    const y = [1, 3, 5].map((k) => t[i + k] - middle[1]);
    const sum = (a: number[], b: number[]) =>
      a[0] * b[0] +
      a[1] * b[1] +
      a[2] * b[2] +
      (a[0] + a[1] + a[2]) * (b[0] + b[1] + b[2]);
    difference += area * (sum(x, x) - sum(y, y));
    product += area * sum(x, y);
  });
  return { middle, axis: Math.atan2(2 * product, difference) / 2 };
}

/** Pixels of the sheet, told from an island's own corners. */
function sizeOf(mesh: Mesh, island: SheetIsland): [number, number] {
  let w = 0;
  let h = 0;
  let u = 0;
  let v = 0;
  for (const c of island.corners) {
    u = Math.max(u, Math.abs(mesh.uvs![2 * c]));
    v = Math.max(v, Math.abs(mesh.uvs![2 * c + 1]));
  }
  for (let i = 0; i < island.pixels.length; i += 2) {
    w = Math.max(w, Math.abs(island.pixels[i]));
    h = Math.max(h, Math.abs(island.pixels[i + 1]));
  }
  return [u > 0 ? w / u : 1, v > 0 ? h / v : 1];
}

function compare(
  one: Outline,
  other: Outline,
  tolerance: number,
): Omit<Alike, "island"> | null {
  const size = Math.sqrt(one.island.area);
  const near = (a: number, b: number) =>
    Math.abs(a - b) <= 4 * tolerance * size;
  if (!near(one.wide, other.wide) || !near(one.high, other.high)) return null;
  let best: { off: number; move: SheetMove; mirrored: boolean } | null = null;
  // Of several boxes about as small any may be found, so the axes are tried where the boxes say nothing.
  for (let by = 0; by < 2 && !best; by++)
    for (const mirrored of [false, true])
      for (let quarter = 0; quarter < 4; quarter++) {
        const turn =
          (quarter * Math.PI) / 2 -
          one.angles[by] +
          (mirrored ? -1 : 1) * other.angles[by];
        const found = layOn(one, other, mirrored, turn, tolerance * size);
        if (found && (!best || found.off < 0.5 * best.off))
          best = { ...found, mirrored };
      }
  if (!best) return null;
  // From pixels of the other to pixels of the first.
  const { a, b, c, d, e, f } = best.move;
  const k = other.scale / one.scale;
  const [ox, oy] = other.centre;
  const [x, y] = one.centre;
  return {
    mirrored: best.mirrored,
    move: {
      a: k * a,
      b: k * b,
      c: k * c,
      d: k * d,
      e: x + e / one.scale - k * (a * ox + b * oy),
      f: y + f / one.scale - k * (c * ox + d * oy),
    },
  };
}

/** Lays one outline on another, beginning from a turn. @returns null where that does not come out */
function layOn(
  one: Outline,
  other: Outline,
  mirrored: boolean,
  turn: number,
  tolerance: number,
): { off: number; move: SheetMove } | null {
  const flip = mirrored ? -1 : 1;
  const cos = Math.cos(turn);
  const sin = Math.sin(turn);
  let move: SheetMove = {
    a: cos * flip,
    b: -sin,
    c: sin * flip,
    d: cos,
    e: 0,
    f: 0,
  };
  const count = other.flat.length / 2;
  const step = Math.max(1, Math.floor(count / POINTS));
  for (let round = 0; ; round++) {
    const from: number[] = [];
    const to: number[] = [];
    const picked: number[] = [];
    const spaceOf: number[] = [];
    let worst = 0;
    for (let i = 0; i < count; i += step) {
      const px = other.flat[2 * i];
      const py = other.flat[2 * i + 1];
      const x = move.a * px + move.b * py + move.e;
      const y = move.c * px + move.d * py + move.f;
      const at = nearestCorner(one, x, y);
      const tx = one.flat[2 * at];
      const ty = one.flat[2 * at + 1];
      const inside = Math.hypot(tx - x, ty - y);
      worst = Math.max(worst, inside);
      if (round === 0 && inside > 6 * tolerance) return null;
      from.push(flip * px, py);
      to.push(tx, ty);
      picked.push(i);
      spaceOf.push(at);
    }
    if (round === ROUNDS || worst < 1e-3 * tolerance) {
      if (worst > tolerance) return null;
      const off = spaceOff(one, other, spaceOf, picked);
      return off <= tolerance ? { off: off + worst, move } : null;
    }
    const fit = fitMove(from, to).move;
    const scale = Math.hypot(fit.a, fit.c);
    if (!(scale > 0.9 && scale < 1.1)) return null;
    move = { ...fit, a: flip * fit.a, c: flip * fit.c };
  }
}

function nearestCorner({ flat }: Outline, x: number, y: number): number {
  let best = 0;
  let least = Infinity;
  for (let i = 0; i < flat.length; i += 2) {
    const d = (flat[i] - x) ** 2 + (flat[i + 1] - y) ** 2;
    if (d < least) {
      least = d;
      best = i / 2;
    }
  }
  return best;
}

/** How much distances between the same points of both differ in space, at most. */
function spaceOff(
  one: Outline,
  other: Outline,
  of: readonly number[],
  from: readonly number[],
): number {
  const random = seededRandom(11);
  const between = (p: Float64Array, a: number, b: number) =>
    Math.hypot(
      p[3 * a] - p[3 * b],
      p[3 * a + 1] - p[3 * b + 1],
      p[3 * a + 2] - p[3 * b + 2],
    );
  let worst = 0;
  for (let k = 0; k < PAIRS; k++) {
    const i = Math.floor(random() * of.length);
    const j = Math.floor(random() * of.length);
    worst = Math.max(
      worst,
      Math.abs(
        between(one.space, of[i], of[j]) -
          between(other.space, from[i], from[j]),
      ),
    );
  }
  return worst;
}
