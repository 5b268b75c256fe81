import type { World, RigidBody } from "@dimforge/rapier3d-compat";
import type { Hull } from "../../mesh/hull";
import type { Vector } from "../../space/vector";
import { octantsOf } from "./octants";

type Rapier = typeof import("@dimforge/rapier3d-compat").default;

export const TRIALS = [
  "placed",
  "dropped",
  "pushed",
  "rolled",
  "stacked",
  "slope",
  "steps",
] as const;
export type TrialName = (typeof TRIALS)[number];

export interface Trial {
  name: TrialName;
  /** When it came to rest and stayed so, seconds; null where it never did. */
  restSeconds: number | null;
  /** How deep it lay in what it met at most, once at rest and on the way there; metres. */
  penetration: number;
  deepest: number;
  /** How far it still moved in the last second, metres. */
  jitter: number;
  fellThrough: boolean;
  /** Degrees between how it stood and how it lies at the end. */
  tilt: number;
  /** How far it went from where it began, level, metres. */
  moved: number;
}

export interface DropFigures {
  trials: Trial[];
  /** Over all trials on level ground: the last to rest, or null where one did not. */
  restSeconds: number | null;
  penetrationMetres: number;
  fellThrough: boolean;
  /** Whether it keeps standing where it is put down, without tipping or rocking. */
  stands: boolean;
  /** Of the hulls, as if they were solid and alike all through; metres. */
  centreOfMass: Vector;
}

export interface DropOptions {
  /** Degrees. */
  slope: number;
  friction: number;
}

/** Steps of the simulation in a second for what is a metre large, the most of them, seconds it goes on, and looks at it in each. */
const STEPS = 240;
const MOST_STEPS = 2400;
const SECONDS = 8;
const LOOKS = 20;
/** In lengths of the asset: as far as it is dropped from, the gap that what is put down starts with, below what it has fallen through, and how far at rest moves in a second. */
const DROP = 0.5;
const GAP = 0.002;
const LOST = 5;
const STILL = 0.004;
/** Tilt of a thing that still stands, degrees. */
const STANDS = 4;
const GRAVITY = 9.81;
/** Half of how thick and wide steps are, in lengths: large boxes are coarse for a small foot. */
const THICK = 1;
const WIDE = 6;
/** Steps of the stairs, how high and deep one is, metres, and what a push gives, metres a second. */
const STAIRS = 6;
const RISE = 0.17;
const TREAD = 0.29;
const PUSH = 1;

let engine: Promise<Rapier> | null = null;

/** The physics library, ready. */
function ready(): Promise<Rapier> {
  engine ??= import("@dimforge/rapier3d-compat").then(async (module) => {
    const rapier = module.default ?? (module as unknown as Rapier);
    await rapier.init();
    return rapier;
  });
  return engine;
}

/**
 * Lets hulls, joined as one body, fall, be pushed, rolled, stacked, and lie on a slope and steps. Everything is made one
 * length large for the simulation, so that a button and a ship are told alike, with gravity to match; the same hulls
 * give the same result.
 * @param hulls of the whole asset, at least one; metres
 * @param check is called all the while, and throws where the work is cancelled
 */
export async function dropTest(
  hulls: readonly Hull[],
  options: DropOptions,
  check: (share: number, name: string) => void,
): Promise<DropFigures> {
  const rapier = await ready();
  const body = bodyOf(hulls);
  const trials = TRIALS.map((name, i) => {
    check(i / TRIALS.length, name);
    return new Run(rapier, body, options, name).go(() =>
      check(i / TRIALS.length, name),
    );
  });
  // On a slope and steps it may well slide on for ever.
  const level = trials.filter(
    ({ name }) => name !== "slope" && name !== "steps",
  );
  const rests = level.map(({ restSeconds }) => restSeconds);
  const placed = trials[0];
  return {
    trials,
    restSeconds: rests.includes(null)
      ? null
      : Math.max(...rests.map((seconds) => seconds!)),
    penetrationMetres: Math.max(
      ...trials.map(({ penetration }) => penetration),
    ),
    fellThrough: trials.some(({ fellThrough }) => fellThrough),
    stands: placed.restSeconds !== null && placed.tilt < STANDS,
    centreOfMass: centreOfMass(rapier, body),
  };
}

/** Hulls as the simulation takes them: one length large, standing on nought. */
interface Body {
  /** 3 × points of each convex piece, in lengths of the asset, from the middle of its foot. */
  solids: Float32Array[];
  /** Balls in the place of hulls that are spheres: middle and radius. */
  balls: { middle: Vector; radius: number }[];
  /** Metres of a length. */
  size: number;
  height: number;
  /** Steps in a second: small things fall through many of their lengths in one. */
  steps: number;
  /** Where the middle of its foot is, metres. */
  foot: Vector;
}

function bodyOf(hulls: readonly Hull[]): Body {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const { positions } of hulls)
    for (let i = 0; i < positions.length; i++) {
      low[i % 3] = Math.min(low[i % 3], positions[i]);
      high[i % 3] = Math.max(high[i % 3], positions[i]);
    }
  const size = Math.max(...high.map((x, k) => x - low[k])) || 1;
  const foot = [(low[0] + high[0]) / 2, low[1], (low[2] + high[2]) / 2];
  const points = hulls.map(({ positions }) =>
    positions.map((x, i) => (x - foot[i % 3]) / size),
  );
  return {
    solids: points.flatMap((each, h) =>
      hulls[h].kind === "sphere" ? [] : octantsOf(each),
    ),
    balls: points.flatMap((each, h) =>
      hulls[h].kind === "sphere" ? [ballOf(each)] : [],
    ),
    size,
    height: (high[1] - low[1]) / size,
    steps:
      LOOKS *
      Math.round(
        Math.min(MOST_STEPS, Math.max(STEPS, STEPS / Math.sqrt(size))) / LOOKS,
      ),
    foot: foot as unknown as Vector,
  };
}

function ballOf(points: Float32Array) {
  const middle: Vector = [0, 1, 2].map((k) => {
    let low = Infinity;
    let high = -Infinity;
    for (let i = k; i < points.length; i += 3) {
      low = Math.min(low, points[i]);
      high = Math.max(high, points[i]);
    }
    return (low + high) / 2;
  }) as unknown as Vector;
  let radius = 0;
  for (let i = 0; i < points.length; i += 3)
    radius = Math.max(
      radius,
      Math.hypot(...middle.map((x, k) => points[i + k] - x)),
    );
  return { middle, radius };
}

function centreOfMass(rapier: Rapier, body: Body): Vector {
  const run = new Run(rapier, body, { slope: 0, friction: 1 }, "placed");
  const found = run.centre();
  return found.map((x, k) => x * body.size + body.foot[k]) as unknown as Vector;
}

/** One trial. */
class Run {
  private readonly world: World;
  private readonly bodies: RigidBody[] = [];

  constructor(
    private readonly rapier: Rapier,
    private readonly body: Body,
    private readonly options: DropOptions,
    private readonly name: TrialName,
  ) {
    this.world = new rapier.World({ x: 0, y: -GRAVITY / body.size, z: 0 });
    this.world.timestep = 1 / body.steps;
    this.ground();
    this.bring();
  }

  /** The centre of mass of the first body, in lengths from its foot. */
  centre(): Vector {
    this.world.step();
    const { x, y, z } = this.bodies[0].localCom();
    this.world.free();
    return [x, y, z];
  }

  /** In one piece: the loop over the steps, and what is told of them. */
  go(check: () => void): Trial {
    const { world, bodies, body, name } = this;
    const rate = body.steps;
    const steps = SECONDS * rate;
    const start = bodies.map((each) => this.turnOf(each));
    let since = 0;
    let deepest = 0;
    let atRest = 0;
    let last = this.places();
    let jitter = 0;
    for (let s = 0; s < steps; s++) {
      world.step();
      if (s % (rate / LOOKS) !== 0) continue;
      check();
      const deep = this.penetration();
      deepest = Math.max(deepest, deep);
      const places = this.places();
      const moved = farthest(places, last) * LOOKS;
      last = places;
      if (moved > STILL) {
        since = s + 1;
        atRest = 0;
      } else atRest = Math.max(atRest, deep);
      if (s >= steps - rate) jitter = Math.max(jitter, moved / LOOKS);
    }
    const rests = since < steps - rate / 2;
    const fellThrough = bodies.some((each) => this.isLost(each));
    const trial: Trial = {
      name,
      restSeconds: rests && !fellThrough ? since / rate : null,
      penetration: atRest * body.size,
      deepest: deepest * body.size,
      jitter: jitter * body.size,
      fellThrough,
      tilt: Math.max(
        ...bodies.map((each, i) => degreesBetween(this.turnOf(each), start[i])),
      ),
      moved: body.size * Math.max(...bodies.map((each) => levelWay(each))),
    };
    world.free();
    return trial;
  }

  /** What the asset falls on. */
  private ground(): void {
    const { rapier, world, body, name, options } = this;
    const solid = (half: Vector, at: Vector, lean = 0) => {
      const turn = (lean * Math.PI) / 360;
      const desc = rapier.ColliderDesc.cuboid(...half)
        .setTranslation(...at)
        .setRotation({ x: 0, y: 0, z: Math.sin(turn), w: Math.cos(turn) })
        .setFriction(options.friction);
      world.createCollider(desc);
    };
    if (name !== "steps") {
      const lean = name === "slope" ? (options.slope * Math.PI) / 180 : 0;
      // A plane without an end: a large box is too coarse for the foot of a small thing, which then never rests.
      world.createCollider(
        new rapier.ColliderDesc(
          new rapier.HalfSpace({ x: -Math.sin(lean), y: Math.cos(lean), z: 0 }),
        ).setFriction(options.friction),
      );
      return;
    }
    const rise = RISE / body.size;
    const tread = TREAD / body.size;
    for (let k = 0; k < STAIRS; k++)
      solid(
        [tread / 2, THICK, WIDE],
        [(k - 0.5) * tread, -THICK - k * rise, 0],
      );
    solid(
      [WIDE, THICK, WIDE],
      [(STAIRS - 1) * tread + WIDE, -THICK - STAIRS * rise, 0],
    );
    solid([WIDE, THICK, WIDE], [-tread - WIDE, -THICK, 0]);
  }

  /** Brings the asset, twice where it is stacked, to where the trial begins. */
  private bring(): void {
    const { body, name, options } = this;
    const falls = name === "dropped" || name === "slope" || name === "steps";
    const lean = (options.slope * Math.PI) / 180;
    const slanted = name === "slope" ? lean : name === "dropped" ? 0.35 : 0;
    const first = this.add([0, falls ? DROP : GAP, 0], slanted);
    if (name === "stacked") this.add([0, body.height + 3 * GAP, 0], 0);
    const push = PUSH / body.size;
    if (name === "pushed" || name === "steps")
      first.setLinvel({ x: push, y: 0, z: 0 }, true);
    if (name === "rolled") first.setAngvel({ x: 0, y: 0, z: -push * 4 }, true);
  }

  /** @param lean turn about the depth, radians */
  private add([x, y, z]: Vector, lean: number): RigidBody {
    const { rapier, world, body, options } = this;
    const made = world.createRigidBody(
      rapier.RigidBodyDesc.dynamic()
        .setTranslation(x, y, z)
        .setRotation({
          x: 0,
          y: 0,
          z: Math.sin(lean / 2),
          w: Math.cos(lean / 2),
        })
        // What rolling and air take.
        .setAngularDamping(1)
        .setLinearDamping(0.05)
        .setCcdEnabled(true),
    );
    for (const ball of body.balls)
      world.createCollider(
        rapier.ColliderDesc.ball(ball.radius)
          .setTranslation(...ball.middle)
          .setFriction(options.friction),
        made,
      );
    for (const points of body.solids) {
      const desc = rapier.ColliderDesc.convexHull(points);
      // Without volume there is nothing to collide with.
      if (desc) world.createCollider(desc.setFriction(options.friction), made);
    }
    this.bodies.push(made);
    return made;
  }

  /** Whether a body lies far under what it was dropped on. */
  private isLost(body: RigidBody): boolean {
    const { x, y } = body.translation();
    const lean =
      this.name === "slope" ? (this.options.slope * Math.PI) / 180 : 0;
    const foot = this.name === "steps" ? (STAIRS * RISE) / this.body.size : 0;
    return y * Math.cos(lean) - x * Math.sin(lean) + foot < -LOST;
  }

  /** How deep bodies lie in what they meet, in lengths of the asset. */
  private penetration(): number {
    const { world, bodies } = this;
    let deepest = 0;
    for (const body of bodies)
      for (let i = 0; i < body.numColliders(); i++) {
        const own = body.collider(i);
        world.contactPairsWith(own, (other) =>
          world.contactPair(own, other, (manifold) => {
            for (let k = 0; k < manifold.numContacts(); k++)
              deepest = Math.max(deepest, -manifold.contactDist(k));
          }),
        );
      }
    return deepest;
  }

  private turnOf(body: RigidBody): Quaternion {
    const { x, y, z, w } = body.rotation();
    return { x, y, z, w };
  }

  /** Where the corners of a unit box about each body are: how they move says how the body does. */
  private places(): number[] {
    return this.bodies.flatMap((body) => {
      const { x, y, z } = body.translation();
      const turn = body.rotation();
      return [
        [0, 0, 0],
        [0.5, 0, 0],
        [0, this.body.height, 0],
        [0, 0, 0.5],
      ].flatMap(([a, b, c]) => {
        const [dx, dy, dz] = turned(turn, a, b, c);
        return [x + dx, y + dy, z + dz];
      });
    });
  }
}

/** How far a body is from where all begin, level, in lengths of the asset. */
function levelWay(body: RigidBody): number {
  const { x, z } = body.translation();
  return Math.hypot(x, z);
}

interface Quaternion {
  x: number;
  y: number;
  z: number;
  w: number;
}

function turned(
  { x, y, z, w }: Quaternion,
  a: number,
  b: number,
  c: number,
): Vector {
  const tx = 2 * (y * c - z * b);
  const ty = 2 * (z * a - x * c);
  const tz = 2 * (x * b - y * a);
  return [
    a + w * tx + y * tz - z * ty,
    b + w * ty + z * tx - x * tz,
    c + w * tz + x * ty - y * tx,
  ];
}

/** Angle between where two turns bring what was upright, degrees. */
function degreesBetween(a: Quaternion, b: Quaternion): number {
  const up = turned(a, 0, 1, 0);
  const was = turned(b, 0, 1, 0);
  const cos = up[0] * was[0] + up[1] * was[1] + up[2] * was[2];
  return (Math.acos(Math.max(-1, Math.min(1, cos))) * 180) / Math.PI;
}

/** The farthest that any of some points are from where they were; 3 numbers per point. */
function farthest(now: readonly number[], was: readonly number[]): number {
  let most = 0;
  for (let i = 0; i < now.length; i += 3)
    most = Math.max(
      most,
      Math.hypot(
        now[i] - was[i],
        now[i + 1] - was[i + 1],
        now[i + 2] - was[i + 2],
      ),
    );
  return most;
}
