import type { Pose, SheetBounds } from "./types";
import type { Rotation } from "./types";
import type { Border } from "./border";
import { OccupancyGrid } from "./occupancy-grid";
import { PlacedBorders } from "./placed-borders";

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
  /** count × count; those of an island with itself stand for the border of the sheet. */
  private readonly weights: Float32Array;
  /** count × count: how deep each pair lay in each other when it was last looked at. */
  private readonly pairs: Float32Array;
  private readonly placed: PlacedBorders;
  private readonly ground: OccupancyGrid;
  /** Islands that had nobody to give way to when they were last looked at, and nobody came near since. */
  private readonly calm: Uint8Array;
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
    this.placed = new PlacedBorders(borders, room);
    this.weights = new Float32Array(n * n).fill(1);
    this.pairs = new Float32Array(n * n);
    this.calm = new Uint8Array(n);
    this.ground = new OccupancyGrid(room.width, room.height);
    for (let i = moving; i < n; i++) {
      [this.placed.x[i], this.placed.y[i]] = borders[i].middle;
      this.place(i);
    }
  }

  /**
   * Begins anew from a layout at a scale, all pairs of the same weight.
   * @param slack px that padding and margin are more than the room's
   */
  begin(poses: readonly Pose[], scale: number, slack = 0): void {
    this.placed.padding = this.room.padding + slack;
    this.placed.margin = this.room.margin + slack;
    this.weights.fill(1);
    this.pairs.fill(0);
    poses.forEach((pose, i) => {
      this.placed.scales[i] = scale;
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
      this.energy += this.placed.sums[0];
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
    const { room, random, rotation } = this;
    const { margin } = this.placed;
    this.gather(i);
    let least = this.cost;
    if (!(least > 0)) return;
    const before = least;
    const own = this.poseOf(i);
    this.drawOthers(i);
    const { inner } = this.borders[i];
    const scale = this.placed.scales[i];
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
          this.placed.scales[j],
          this.poseOf(j),
          this.placed.boxes.subarray(4 * j, 4 * j + 4),
          this.placed.padding / 2,
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
    return {
      x: this.placed.x[i],
      y: this.placed.y[i],
      angle: this.placed.angle[i],
    };
  }

  private put(i: number, { x, y, angle }: Pose): void {
    this.placed.x[i] = x;
    this.placed.y[i] = y;
    this.placed.angle[i] = angle;
    this.place(i);
  }

  /** Renews where the points of an island are, and who near it has to look round again. */
  private place(i: number): void {
    this.placed.place(i);
    this.calm[i] = 0;
    for (let j = 0; j < this.moving; j++)
      if (this.calm[j] && this.placed.near(i, j)) this.calm[j] = 0;
  }

  /** Adds up all that an island has with the others and the border of the sheet. @returns the deepest, px */
  private gather(i: number): number {
    const { count, weights, pairs } = this;
    const { sums } = this.placed;
    sums.fill(0);
    const own = i * count + i;
    const atBorder = BORDER_WEIGHT * weights[own];
    let deepest = this.placed.meetBorder(i, atBorder);
    pairs[own] = deepest;
    this.cost = atBorder * deepest;
    for (let j = 0; j < count; j++) {
      if (j === i) continue;
      let deep = 0;
      if (this.placed.near(i, j)) {
        const weight = weights[i * count + j];
        deep = Math.max(
          this.placed.meet(i, j, i, weight),
          this.placed.meet(j, i, i, weight),
        );
        if (deep > deepest) deepest = deep;
        this.cost += weight * deep;
      }
      pairs[i * count + j] = deep;
      pairs[j * count + i] = deep;
    }
    return deepest;
  }

  /** One Gauss-Newton step of an island by what was gathered. */
  private step(i: number, overshoot: number): void {
    const s = this.placed.sums;
    const reach = this.placed.scales[i] * this.borders[i].radius;
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
    this.placed.x[i] += k * dx;
    this.placed.y[i] += k * dy;
    this.placed.angle[i] += k * dt * unit;
    this.place(i);
  }
}
