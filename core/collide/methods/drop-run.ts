import type { RigidBody, World } from "@dimforge/rapier3d-compat";
import type { Vector } from "../../space/vector";
import type { Body } from "./drop-body";
import { LOOKS } from "./drop-body";
import type { Rapier } from "./physics";
import type { DropOptions, Trial, TrialName } from "./trials";

/** Seconds that the simulation goes on, and how often in each a body's place is recorded. */
const SECONDS = 8;
export const FRAMES = 60;
/** In lengths of the asset: as far as it is dropped from, the gap that what is put down starts with, below what it has fallen through, and how far at rest moves in a second. */
const DROP = 0.5;
const GAP = 0.002;
const LOST = 5;
const STILL = 0.004;
const GRAVITY = 9.81;
/** Half of how thick and wide steps are, in lengths: large boxes are coarse for a small foot. */
const THICK = 1;
const WIDE = 6;
/** Steps of the stairs, how high and deep one is, metres, and what a push gives, metres a second. */
const STAIRS = 6;
const RISE = 0.17;
const TREAD = 0.29;
const PUSH = 1;

/** What a trial's asset falls on: a plane that leans about the depth (radians), or blocks along the axes, metres. */
export interface Ground {
  lean: number;
  blocks: { half: Vector; at: Vector }[];
}

/** @param size of the asset, metres */
export function groundOf(
  name: TrialName,
  { slope }: Pick<DropOptions, "slope">,
  size: number,
): Ground {
  const lean = name === "slope" ? (slope * Math.PI) / 180 : 0;
  if (name !== "steps") return { lean, blocks: [] };
  const [thick, wide] = [THICK * size, WIDE * size];
  const stairs = Array.from(
    { length: STAIRS },
    (_, k): Ground["blocks"][0] => ({
      half: [TREAD / 2, thick, wide],
      at: [(k - 0.5) * TREAD, -thick - k * RISE, 0],
    }),
  );
  return {
    lean,
    blocks: [
      ...stairs,
      {
        half: [wide, thick, wide],
        at: [(STAIRS - 1) * TREAD + wide, -thick - STAIRS * RISE, 0],
      },
      { half: [wide, thick, wide], at: [-TREAD - wide, -thick, 0] },
    ],
  };
}

/** One trial. */
export class Run {
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

  /**
   * In one piece: the loop over the steps, and what is told of them.
   * @param pose is told where each body is, FRAMES times a second
   */
  go(
    check: () => void,
    pose?: (body: number, at: Vector, turn: Quaternion) => void,
  ): Trial {
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
      if (
        pose &&
        Math.floor((s * FRAMES) / rate) !==
          Math.floor(((s - 1) * FRAMES) / rate)
      )
        bodies.forEach((each, i) => {
          const { x, y, z } = each.translation();
          pose(
            i,
            [x * body.size, y * body.size, z * body.size],
            this.turnOf(each),
          );
        });
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
    const { lean, blocks } = groundOf(name, options, body.size);
    // A plane without an end: a large box is too coarse for the foot of a small thing, which then never rests.
    if (!blocks.length)
      world.createCollider(
        new rapier.ColliderDesc(
          new rapier.HalfSpace({ x: -Math.sin(lean), y: Math.cos(lean), z: 0 }),
        ).setFriction(options.friction),
      );
    for (const { half, at } of blocks)
      world.createCollider(
        rapier.ColliderDesc.cuboid(
          ...(half.map((x) => x / body.size) as [number, number, number]),
        )
          .setTranslation(
            ...(at.map((x) => x / body.size) as [number, number, number]),
          )
          .setFriction(options.friction),
      );
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
          .setFriction(ball.contact?.friction ?? options.friction)
          .setRestitution(ball.contact?.restitution ?? 0),
        made,
      );
    for (const { points, contact } of body.solids) {
      const desc = rapier.ColliderDesc.convexHull(points);
      // Without volume there is nothing to collide with.
      if (desc)
        world.createCollider(
          desc
            .setFriction(contact?.friction ?? options.friction)
            .setRestitution(contact?.restitution ?? 0),
          made,
        );
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

export interface Quaternion {
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
