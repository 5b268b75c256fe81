import { tileAt, tileOf } from "../../mesh/tiles";
import type { Canvas } from "./canvas";
import { mix, normalize } from "./mixing";
import { SampleBaker } from "./sample-baker";
import type { BakeScene } from "./scene";
import { COUNTS } from "./status";
import { toolsFor } from "./tools";

/** How far inside of their triangles places are, as a share of the way to the corner opposite. */
const INSIDE = 1e-3;
/** UVs nearer than that are one place of a sheet. */
const SAME_UV = 1e-6;
/** A source that turns by less than this is smooth. */
const SMOOTH = Math.cos((20 * Math.PI) / 180);

/** One side of an edge: a corner of a canvas that it leaves, to the next corner of its triangle. */
export interface Side {
  canvas: Canvas;
  /** Which canvas of the scene. */
  index: number;
  corner: number;
}

/** The next corner of a triangle. */
const after = (corner: number) => (corner % 3 === 2 ? corner - 2 : corner + 1);

/** Every edge of every triangle of some canvases, as each triangle has it. */
function* sidesOf(canvases: readonly Canvas[]): Generator<Side> {
  for (const [index, canvas] of canvases.entries())
    for (let corner = 0; 2 * corner < canvas.uvs.length; corner++)
      yield { canvas, index, corner };
}

/**
 * Edges that two triangles of one part share, as each has it, and that lie at two places of their sheets; and whether
 * they run opposite ways.
 */
export function seamsOf(canvases: readonly Canvas[]): [Side, Side, boolean][] {
  const sides = new Map<string, Side[]>();
  for (const side of sidesOf(canvases)) {
    const { canvas, corner } = side;
    const ends = [placeOf(canvas, corner), placeOf(canvas, after(corner))];
    if (ends[0] === ends[1]) continue;
    const key = `${canvas.part} ${ends.sort().join(" ")}`;
    const list = sides.get(key);
    if (list) list.push(side);
    else sides.set(key, [side]);
  }
  return [...sides.values()].flatMap((list): [Side, Side, boolean][] => {
    if (list.length !== 2) return [];
    const [one, other] = list;
    const turned =
      placeOf(one.canvas, one.corner) !== placeOf(other.canvas, other.corner);
    return isParted(one, other, turned) ? [[one, other, turned]] : [];
  });
}

const placeOf = ({ positions: p }: Canvas, corner: number) =>
  `${p[3 * corner]},${p[3 * corner + 1]},${p[3 * corner + 2]}`;

/** Whether the ends of an edge lie elsewhere on the sheet for one of its sides. */
function isParted(one: Side, other: Side, turned: boolean): boolean {
  const isSame = (a: number, b: number) =>
    [0, 1].every(
      (k) =>
        Math.abs(one.canvas.uvs[2 * a + k] - other.canvas.uvs[2 * b + k]) <
        SAME_UV,
    );
  const ends = [other.corner, after(other.corner)];
  if (turned) ends.reverse();
  return !isSame(one.corner, ends[0]) || !isSame(after(one.corner), ends[1]);
}

/** How long an edge is on a sheet of some size, texels. */
export function lengthOn(
  { canvas: { uvs }, corner }: Side,
  width: number,
  height: number,
): number {
  const [a, b] = [2 * corner, 2 * after(corner)];
  return Math.hypot(
    (uvs[b] - uvs[a]) * width,
    (uvs[b + 1] - uvs[a + 1]) * height,
  );
}

/** Whether a source that faces those two ways on both sides of a seam goes on smoothly there. @param a, b unit vectors */
export const goesOn = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  a[0] * b[0] + a[1] * b[1] + a[2] * b[2] > SMOOTH;

/** Looks at what a normal map ought to show along edges, and at what it shows there. */
export class SeamLook {
  private readonly values: { normal: Float32Array };
  private readonly counts: Uint32Array;
  private readonly covered = new Uint8Array(1);
  private readonly baker: SampleBaker;
  /** Where on its sheet the place lies, in UV, and which sheet that is. */
  u = 0;
  v = 0;
  tile = 0;
  /** What a bake finds there: a unit vector in tangent space, green up. */
  readonly wanted: Float32Array;
  /** Metres. */
  readonly at = new Float64Array(3);
  private readonly normal = new Float64Array(3);
  private readonly tangent = new Float64Array(3);
  private sign = 1;

  constructor(scene: BakeScene) {
    this.values = { normal: new Float32Array(3) };
    this.wanted = this.values.normal;
    this.counts = new Uint32Array(COUNTS.length * scene.canvases.length);
    this.baker = new SampleBaker(
      { ...scene, channels: ["normal"], rays: 0 },
      toolsFor(scene),
      {
        values: this.values,
        covered: this.covered,
        counts: this.counts,
        farthest: new Float32Array(scene.canvases.length),
      },
    );
  }

  /**
   * Goes to a place along an edge; false where a ray from there meets nothing. Right on it, what belongs to which side
   * of a sharp edge of the source is anybody's guess: it is a little inside of the triangle.
   * @param share from 0 to 1
   */
  go({ canvas, index, corner }: Side, share: number): boolean {
    const t = Math.floor(corner / 3);
    const weights = [0, 0, 0];
    weights[corner % 3] = (1 - INSIDE) * (1 - share);
    weights[after(corner) % 3] = (1 - INSIDE) * share;
    weights[after(after(corner)) % 3] = INSIDE;
    const [a, b, c] = weights;
    const q = canvas.uvs.subarray(6 * t, 6 * t + 6);
    this.tile = tileOf((q[0] + q[2] + q[4]) / 3, (q[1] + q[3] + q[5]) / 3);
    const u = a * q[0] + b * q[2] + c * q[4];
    const v = a * q[1] + b * q[3] + c * q[5];
    const [right, up] = tileAt(this.tile);
    this.u = u - right;
    this.v = v - up;
    mix(canvas.positions, 9 * t, 3, a, b, c, this.at);
    mix(canvas.normals, 9 * t, 3, a, b, c, this.normal);
    mix(canvas.tangents, 12 * t, 4, a, b, c, this.tangent);
    this.sign = canvas.tangents[12 * t + 3];
    const missed = COUNTS.length * index + 1;
    const before = this.counts[missed];
    this.wanted.fill(0);
    this.covered[0] = 0;
    this.baker.triangle(canvas, t, index);
    this.baker.sample(u, v, 0, false);
    return this.counts[missed] === before && this.wanted.some((x) => x !== 0);
  }

  /** What a vector in tangent space is in the asset's space there: a unit vector. @param x 3 numbers, green up */
  turned(x: ArrayLike<number>): Float64Array {
    const { normal: n, tangent: t, sign } = this;
    const out = Float64Array.of(
      x[0] * t[0] + x[1] * sign * (n[1] * t[2] - n[2] * t[1]) + x[2] * n[0],
      x[0] * t[1] + x[1] * sign * (n[2] * t[0] - n[0] * t[2]) + x[2] * n[1],
      x[0] * t[2] + x[1] * sign * (n[0] * t[1] - n[1] * t[0]) + x[2] * n[2],
    );
    normalize(out);
    return out;
  }
}
