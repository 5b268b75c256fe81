import type { Pose, SheetBounds } from "./types";
import type { Rotation } from "./types";
import type { Border } from "./border";
import { OccupancyGrid } from "./occupancy-grid";

/** Places tried for an island, and how many of the best are tried out. */
const PLACES = 600;
const FINALISTS = 3;
/** Steps by which a place is tried out. */
const TRIAL_STEPS = 12;
/** What a step overshoots: neighbours give way as well. */
const OVERSHOOT = 1.2;
/** Islands that lie less deep than this stay, px. */
const STILL = 0.1;
/** Points at the border of the sheet weigh more: it never gives way. */
const BORDER_WEIGHT = 4;
/** How fast weights of pairs that stay in each other grow, how fast the others fall back, and where they end. */
const GROW = 1.6;
const SINK = 0.95;
const HEAVIEST = 1e4;

/**
 * Islands on a sheet that push one another out of the way, all of them moving and turning at once. How deep a border
 * point lies in another island, told by that island's distance field, counts squared; each island in turn takes a
 * Gauss-Newton step on what it has with its neighbours. Where that ends, pairs still in each other are weighed up
 * (guided local search: Voudouris and Tsang 1999) and islands look for other places.
 */
export class OverlapRelaxation {
  readonly count: number;
  /** How deep the deepest lay in the last sweep, px, and all of it squared. */
  deepest = 0;
  energy = 0;
  private padding = 0;
  private margin = 0;
  private readonly x: Float64Array;
  private readonly y: Float64Array;
  private readonly angle: Float64Array;
  private readonly cos: Float64Array;
  private readonly sin: Float64Array;
  /** px for each unit of the borders. */
  private readonly scales: Float64Array;
  /** Border points on the sheet, and where each island's begin. */
  private readonly points: Float64Array;
  private readonly starts: Int32Array;
  private readonly boxes: Float64Array;
  /** Groups of points: where each island's begin, their middles on the sheet and radii, where their points begin. */
  private readonly groupStarts: Int32Array;
  private readonly groupMiddles: Float64Array;
  private readonly groupRadii: Float64Array;
  private readonly groupPoints: Int32Array;
  /** count × count; those of an island with itself stand for the border of the sheet. */
  private readonly weights: Float32Array;
  /** count × count: how deep each pair lay in each other when it was last looked at. */
  private readonly pairs: Float32Array;
  private readonly ground: OccupancyGrid;
  /** Islands that had nobody to give way to when they were last looked at, and nobody came near since. */
  private readonly calm: Uint8Array;
  /** Energy, gradient (x, y, turn) and the six of the Gauss-Newton matrix of what was gathered last. */
  private readonly sums = new Float64Array(10);
  /** Depths of what was gathered last, by their weights. */
  private cost = 0;

  /**
   * @param borders those of the islands, and last the one of what does not move, in px
   * @param moving how many of them move
   */
  constructor(
    private readonly borders: readonly Border[],
    private readonly moving: number,
    private readonly room: SheetBounds,
    private readonly rotation: Rotation,
    private readonly random: () => number,
  ) {
    const n = borders.length;
    this.count = n;
    this.x = new Float64Array(n);
    this.y = new Float64Array(n);
    this.angle = new Float64Array(n);
    this.cos = new Float64Array(n);
    this.sin = new Float64Array(n);
    this.scales = new Float64Array(n).fill(1);
    this.boxes = new Float64Array(4 * n);
    this.weights = new Float32Array(n * n).fill(1);
    this.pairs = new Float32Array(n * n);
    this.calm = new Uint8Array(n);
    this.starts = new Int32Array(n + 1);
    this.groupStarts = new Int32Array(n + 1);
    borders.forEach(({ points, groups }, i) => {
      this.starts[i + 1] = this.starts[i] + points.length;
      this.groupStarts[i + 1] = this.groupStarts[i] + groups.radii.length;
    });
    this.points = new Float64Array(this.starts[n]);
    const all = this.groupStarts[n];
    this.groupMiddles = new Float64Array(2 * all);
    this.groupRadii = new Float64Array(all);
    this.groupPoints = new Int32Array(all + 1);
    borders.forEach(({ groups }, i) =>
      groups.radii.forEach((_, g) => {
        this.groupPoints[this.groupStarts[i] + g + 1] =
          this.starts[i] + 2 * groups.starts[g + 1];
      }),
    );
    this.ground = new OccupancyGrid(room.width, room.height);
    for (let i = moving; i < n; i++) {
      [this.x[i], this.y[i]] = borders[i].middle;
      this.place(i);
    }
  }

  /**
   * Begins anew from a layout at a scale, all pairs of the same weight.
   * @param slack px that padding and margin are more than the room's
   */
  begin(poses: readonly Pose[], scale: number, slack = 0): void {
    this.padding = this.room.padding + slack;
    this.margin = this.room.margin + slack;
    this.weights.fill(1);
    this.pairs.fill(0);
    poses.forEach((pose, i) => {
      this.scales[i] = scale;
      this.put(i, pose);
    });
  }

  poses(): Pose[] {
    return Array.from({ length: this.moving }, (_, i) => this.poseOf(i));
  }

  /** How deep islands lie in each other, all together, px. */
  depth(): number {
    let sum = 0;
    for (let k = 0; k < this.pairs.length; k++) sum += this.pairs[k];
    return sum / 2;
  }

  /** Islands that lie deeper than this in others. */
  stuck(depth: number): number[] {
    const { pairs, count, moving } = this;
    return Array.from({ length: moving }, (_, i) => i).filter((i) =>
      pairs.subarray(i * count, (i + 1) * count).some((deep) => deep > depth),
    );
  }

  /** Every island that lies in another one, or outside, gives way once. */
  sweep(): void {
    this.deepest = 0;
    this.energy = 0;
    for (let i = 0; i < this.moving; i++) {
      if (this.calm[i]) continue;
      const deep = this.gather(i);
      if (deep > this.deepest) this.deepest = deep;
      this.energy += this.sums[0];
      if (deep > STILL) this.step(i, OVERSHOOT);
      else this.calm[i] = 1;
    }
  }

  /** Pairs that lie in each other become heavier, the more the deeper. */
  weigh(): void {
    const { pairs, weights } = this;
    let most = 0;
    for (let k = 0; k < pairs.length; k++) if (pairs[k] > most) most = pairs[k];
    if (!(most > 0)) return;
    for (let k = 0; k < pairs.length; k++)
      if (pairs[k] > STILL)
        weights[k] = Math.min(
          HEAVIEST,
          weights[k] * (1 + (GROW - 1) * (0.3 + 0.7 * (pairs[k] / most))),
        );
      else if (weights[k] > 1) weights[k] = Math.max(1, weights[k] * SINK);
  }

  /** Looks for a place where an island lies less deep in the others, anywhere on the sheet and turned as allowed. */
  relocate(i: number): void {
    const { room, margin, random, rotation } = this;
    this.gather(i);
    let least = this.cost;
    if (!(least > 0)) return;
    const before = least;
    const own = this.poseOf(i);
    this.drawOthers(i);
    const { inner } = this.borders[i];
    const scale = this.scales[i];
    const found: { value: number; pose: Pose }[] = [];
    let worst = Infinity;
    for (let k = 0; k < PLACES; k++) {
      const angle =
        rotation === "any"
          ? 2 * Math.PI * random()
          : rotation === "none"
            ? own.angle
            : own.angle + (Math.PI / 2) * Math.floor(4 * random());
      const x = margin + random() * (room.width - 2 * margin);
      const y = margin + random() * (room.height - 2 * margin);
      const value = this.ground.valueAt(inner, scale, { x, y, angle }, worst);
      if (value >= worst) continue;
      let at = found.length;
      while (at > 0 && found[at - 1].value > value) at--;
      found.splice(at, 0, { value, pose: { x, y, angle } });
      if (found.length > FINALISTS) found.pop();
      if (found.length === FINALISTS) worst = found[FINALISTS - 1].value;
    }
    let best = own;
    for (const { pose } of found) {
      this.put(i, pose);
      let last = Infinity;
      for (let round = 0; round < TRIAL_STEPS; round++) {
        this.gather(i);
        const now = this.cost;
        if (now < least) {
          least = now;
          best = this.poseOf(i);
        }
        if (now <= 0 || now > 0.98 * last || now > 50 * before) break;
        last = now;
        this.step(i, 1);
      }
      if (least <= 0) break;
    }
    this.put(i, best);
    this.gather(i);
  }

  /** Draws all others on the ground, by the weights an island has with each. */
  private drawOthers(i: number): void {
    this.ground.clear();
    for (let j = 0; j < this.count; j++)
      if (j !== i)
        this.ground.add(
          this.borders[j].coarse,
          this.scales[j],
          this.poseOf(j),
          this.boxes.subarray(4 * j, 4 * j + 4),
          this.padding / 2,
          this.weights[i * this.count + j],
        );
  }

  /** Lets two islands change places, each turned at random where any turn is allowed. */
  exchange(a: number, b: number): void {
    const [one, other] = [this.poseOf(a), this.poseOf(b)];
    const turned = (angle: number) =>
      this.rotation === "any" ? 2 * Math.PI * this.random() : angle;
    this.put(a, { ...other, angle: turned(one.angle) });
    this.put(b, { ...one, angle: turned(other.angle) });
  }

  private poseOf(i: number): Pose {
    return { x: this.x[i], y: this.y[i], angle: this.angle[i] };
  }

  private put(i: number, { x, y, angle }: Pose): void {
    this.x[i] = x;
    this.y[i] = y;
    this.angle[i] = angle;
    this.place(i);
  }

  /** Renews where the points of an island are. */
  private place(i: number): void {
    const { points, boxes, groupMiddles, groupRadii } = this;
    const { points: local, groups } = this.borders[i];
    const scale = this.scales[i];
    const cos = Math.cos(this.angle[i]);
    const sin = Math.sin(this.angle[i]);
    this.cos[i] = cos;
    this.sin[i] = sin;
    const cs = scale * cos;
    const sn = scale * sin;
    const px = this.x[i];
    const py = this.y[i];
    let x0 = Infinity;
    let y0 = Infinity;
    let x1 = -Infinity;
    let y1 = -Infinity;
    const from = this.starts[i];
    for (let k = 0; k < local.length; k += 2) {
      const x = px + cs * local[k] - sn * local[k + 1];
      const y = py + sn * local[k] + cs * local[k + 1];
      points[from + k] = x;
      points[from + k + 1] = y;
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
      if (y < y0) y0 = y;
      if (y > y1) y1 = y;
    }
    boxes[4 * i] = x0;
    boxes[4 * i + 1] = y0;
    boxes[4 * i + 2] = x1;
    boxes[4 * i + 3] = y1;
    this.calm[i] = 0;
    for (let j = 0; j < this.moving; j++)
      if (this.calm[j] && this.near(i, j)) this.calm[j] = 0;
    const { middles, radii } = groups;
    for (let g = 0, to = this.groupStarts[i]; g < radii.length; g++, to++) {
      const u = middles[2 * g];
      const v = middles[2 * g + 1];
      groupMiddles[2 * to] = px + cs * u - sn * v;
      groupMiddles[2 * to + 1] = py + sn * u + cs * v;
      groupRadii[to] = scale * radii[g];
    }
  }

  /** Adds up all that an island has with the others and the border of the sheet. @returns the deepest, px */
  private gather(i: number): number {
    const { count, weights, pairs, sums } = this;
    sums.fill(0);
    const own = i * count + i;
    const atBorder = BORDER_WEIGHT * weights[own];
    let deepest = this.meetBorder(i, atBorder);
    pairs[own] = deepest;
    this.cost = atBorder * deepest;
    for (let j = 0; j < count; j++) {
      if (j === i) continue;
      let deep = 0;
      if (this.near(i, j)) {
        const weight = weights[i * count + j];
        deep = Math.max(this.meet(i, j, i, weight), this.meet(j, i, i, weight));
        if (deep > deepest) deepest = deep;
        this.cost += weight * deep;
      }
      pairs[i * count + j] = deep;
      pairs[j * count + i] = deep;
    }
    return deepest;
  }

  private near(i: number, j: number): boolean {
    const { boxes } = this;
    const { padding } = this;
    return (
      boxes[4 * i] < boxes[4 * j + 2] + padding &&
      boxes[4 * i + 2] > boxes[4 * j] - padding &&
      boxes[4 * i + 1] < boxes[4 * j + 3] + padding &&
      boxes[4 * i + 3] > boxes[4 * j + 1] - padding
    );
  }

  /** Adds up what the points of island a have in island b, as a change of `of` (one of them) changes it. */
  private meet(a: number, b: number, of: number, weight: number): number {
    const { points, boxes, sums } = this;
    const { groupStarts, groupMiddles, groupRadii, groupPoints } = this;
    const { field, across, up, cell, left, bottom } = this.borders[b];
    const { padding } = this;
    const scale = this.scales[b];
    const bx0 = boxes[4 * b] - padding;
    const by0 = boxes[4 * b + 1] - padding;
    const bx1 = boxes[4 * b + 2] + padding;
    const by1 = boxes[4 * b + 3] + padding;
    const ox = this.x[b];
    const oy = this.y[b];
    const cos = this.cos[b];
    const sin = this.sin[b];
    const mx = this.x[of];
    const my = this.y[of];
    const sign = of === a ? 1 : -1;
    const step = 1 / (scale * cell);
    const shiftX = -left / cell;
    const shiftY = -bottom / cell;
    let deepest = 0;
    let energy = 0;
    for (let group = groupStarts[a]; group < groupStarts[a + 1]; group++) {
      const hx = groupMiddles[2 * group];
      const hy = groupMiddles[2 * group + 1];
      const wide = groupRadii[group];
      if (hx + wide <= bx0 || hx - wide >= bx1) continue;
      if (hy + wide <= by0 || hy - wide >= by1) continue;
      const hu = (cos * (hx - ox) + sin * (hy - oy)) * step + shiftX + 0.5;
      const hv = (cos * (hy - oy) - sin * (hx - ox)) * step + shiftY + 0.5;
      if (
        hu >= 0 &&
        hv >= 0 &&
        hu < across &&
        hv < up &&
        scale * (field[(hv | 0) * across + (hu | 0)] - 0.75 * cell) - wide >
          padding
      )
        continue;
      for (let k = groupPoints[group]; k < groupPoints[group + 1]; k += 2) {
        const x = points[k];
        if (x <= bx0 || x >= bx1) continue;
        const y = points[k + 1];
        if (y <= by0 || y >= by1) continue;
        const dx = x - ox;
        const dy = y - oy;
        const u = (cos * dx + sin * dy) * step + shiftX;
        const v = (cos * dy - sin * dx) * step + shiftY;
        if (!(u >= 0 && v >= 0 && u < across - 1 && v < up - 1)) continue;
        const column = u | 0;
        const row = v | 0;
        const i = row * across + column;
        const f = u - column;
        const g = v - row;
        const d00 = field[i];
        const d10 = field[i + 1];
        const d01 = field[i + across];
        const d11 = field[i + across + 1];
        const low = d00 + f * (d10 - d00);
        const high = d01 + f * (d11 - d01);
        const deep = padding - scale * (low + g * (high - low));
        if (deep <= 0) continue;
        if (deep > deepest) deepest = deep;
        let nx = d10 - d00 + g * (d11 - d01 - d10 + d00);
        let ny = high - low;
        const length = Math.sqrt(nx * nx + ny * ny);
        if (!(length > 0)) continue;
        nx /= length;
        ny /= length;
        const wx = sign * (cos * nx - sin * ny);
        const wy = sign * (sin * nx + cos * ny);
        const turn = (x - mx) * wy - (y - my) * wx;
        energy += deep * deep;
        const w = weight * deep;
        sums[1] += w * wx;
        sums[2] += w * wy;
        sums[3] += w * turn;
        sums[4] += weight * wx * wx;
        sums[5] += weight * wx * wy;
        sums[6] += weight * wy * wy;
        sums[7] += weight * wx * turn;
        sums[8] += weight * wy * turn;
        sums[9] += weight * turn * turn;
      }
    }
    sums[0] += weight * energy;
    return deepest;
  }

  /** Adds up what the points of an island have outside the sheet. */
  private meetBorder(i: number, weight: number): number {
    const { boxes, points, starts, sums } = this;
    const { margin } = this;
    const { width, height } = this.room;
    const x1 = width - margin;
    const y1 = height - margin;
    if (
      boxes[4 * i] >= margin &&
      boxes[4 * i + 1] >= margin &&
      boxes[4 * i + 2] <= x1 &&
      boxes[4 * i + 3] <= y1
    )
      return 0;
    let deepest = 0;
    for (let k = starts[i]; k < starts[i + 1]; k += 2) {
      const x = points[k];
      const y = points[k + 1];
      const ex = x < margin ? margin - x : x > x1 ? x1 - x : 0;
      const ey = y < margin ? margin - y : y > y1 ? y1 - y : 0;
      if (ex !== 0) {
        const turn = this.y[i] - y;
        deepest = Math.max(deepest, Math.abs(ex));
        sums[0] += weight * ex * ex;
        sums[1] += weight * ex;
        sums[3] += weight * ex * turn;
        sums[4] += weight;
        sums[7] += weight * turn;
        sums[9] += weight * turn * turn;
      }
      if (ey !== 0) {
        const turn = x - this.x[i];
        deepest = Math.max(deepest, Math.abs(ey));
        sums[0] += weight * ey * ey;
        sums[2] += weight * ey;
        sums[3] += weight * ey * turn;
        sums[6] += weight;
        sums[8] += weight * turn;
        sums[9] += weight * turn * turn;
      }
    }
    return deepest;
  }

  /** One Gauss-Newton step of an island by what was gathered. */
  private step(i: number, overshoot: number): void {
    const s = this.sums;
    const reach = this.scales[i] * this.borders[i].radius;
    const turns = this.rotation === "any";
    const damp = 0.05 * (s[4] + s[6]) + 1e-9;
    // The turn is reckoned in px near the outline, so that all three weigh alike.
    const unit = 1 / Math.max(1e-9, 0.7 * reach);
    const l11 = Math.sqrt(s[4] + damp);
    const l21 = s[5] / l11;
    const l31 = turns ? (s[7] * unit) / l11 : 0;
    const l22 = Math.sqrt(Math.max(1e-12, s[6] + damp - l21 * l21));
    const l32 = turns ? (s[8] * unit - l31 * l21) / l22 : 0;
    const l33 = Math.sqrt(
      Math.max(1e-12, s[9] * unit * unit + damp - l31 * l31 - l32 * l32),
    );
    const z1 = s[1] / l11;
    const z2 = (s[2] - l21 * z1) / l22;
    const z3 = turns ? (s[3] * unit - l31 * z1 - l32 * z2) / l33 : 0;
    const dt = z3 / l33;
    const dy = (z2 - l32 * dt) / l22;
    const dx = (z1 - l21 * dy - l31 * dt) / l11;
    const far = Math.sqrt(dx * dx + dy * dy + dt * dt);
    const most = 0.25 * reach + 1;
    const k = overshoot * (far > most ? most / far : 1);
    this.x[i] += k * dx;
    this.y[i] += k * dy;
    this.angle[i] += k * dt * unit;
    this.place(i);
  }
}
