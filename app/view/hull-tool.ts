import { Group, Quaternion, Raycaster, Vector2, Vector3 } from "three";
import type { MeshBasicMaterial } from "three";
import type { HullFrame } from "../../core/mesh/hull-frame";
import { hullFrame } from "../../core/mesh/hull-frame";
import type { HullMove } from "../../core/mesh/move-hull";
import { moveHull, pivotOf, STILL } from "../../core/mesh/move-hull";
import { boundsOf } from "../../core/space/bounds";
import { WORLD_AXES } from "../../core/space/principal-axes";
import type { FromView, Spot, ToView, ViewState } from "../shared/messages";
import type { Eye, Handle, Moved } from "./hull-drag";
import { draggedBy, saidOf } from "./hull-drag";
import type { ShownHandle } from "./hull-handles";
import {
  allHandles,
  ARM,
  HANDLE_COLOURS,
  HELD_COLOUR,
  KNOB,
  RING,
  ringPoints,
} from "./hull-handles";
import type { HullObject } from "./hull-object";
import type { TableScene } from "./table-scene";

type Vector = [number, number, number];

/** How near the pointer must be to take hold of a handle, px. */
const NEAR = 10;
const AXES = [0, 1, 2] as const;

/** A line drawn over hulls cuts straight across one whose axis it is within this of, degrees. */
const STRAIGHT = 12;

/** How large a placed shape is, as a share of the asset's diagonal. */
const PLACED = 0.2;

/** The hand that works hulls on the table: chooses, moves, turns and sizes them by handles, and cuts them. */
export class HullTool {
  readonly object = new Group();
  private readonly handles: ShownHandle[];
  private chosen: HullObject[] = [];
  private frame: HullFrame | null = null;
  private wanted = false;
  private over: Handle | null = null;
  private held: {
    handle: Handle;
    from: [number, number];
    moved: Moved;
    by: HullMove;
  } | null = null;

  constructor(
    private readonly table: TableScene,
    private readonly post: (message: FromView) => void,
    private readonly draw: () => void,
  ) {
    this.handles = allHandles();
    this.object.add(...this.handles.map(({ mesh }) => mesh));
    this.object.visible = false;
  }

  /** Takes what is chosen from the page. */
  update(state: ViewState): void {
    const wanted = new Set(state.chosenHulls);
    for (const { hullObjects } of this.table.visibleViews())
      showLevel(hullObjects, state.level);
    const all = this.hullObjects();
    for (const each of all)
      each.applyStyle(wanted.has(each.hull.name), state.hullSolid);
    this.chosen = all.filter(({ hull }) => wanted.has(hull.name));
    if (!this.held) this.frame = frameOf(this.chosen);
    this.wanted =
      state.hullTool !== "" && state.hulls && this.chosen.length > 0;
  }

  /**
   * Puts the handles where they are to be seen from here; they are as large however far off.
   * @param away whether hulls are not where they belong: none is shown then
   */
  place(away: boolean): void {
    const tool = this.table.state?.hullTool;
    this.object.visible = this.wanted && !away;
    if (!this.object.visible || !this.frame || !tool) return;
    const eye = this.eye();
    const { centre, axes, half } = this.shownFrame();
    for (const { handle, mesh } of this.handles) {
      const way = tool === "move" ? WORLD_AXES[handle.axis] : axes[handle.axis];
      mesh.visible =
        handle.what === tool || (handle.what === "slide" && tool === "move");
      mesh.scale.setScalar(eye.pixel);
      mesh.position.set(...(centre as Vector));
      if (handle.what === "size")
        mesh.position.addScaledVector(
          new Vector3(...way),
          handle.way * half[handle.axis],
        );
      // Handles are made along y.
      mesh.quaternion.copy(
        new Quaternion().setFromUnitVectors(
          new Vector3(0, 1, 0),
          new Vector3(...way).normalize(),
        ),
      );
      const lit = same(handle, this.held?.handle ?? this.over);
      (mesh.material as MeshBasicMaterial).color.set(
        lit
          ? HELD_COLOUR
          : HANDLE_COLOURS[handle.what === "slide" ? 3 : handle.axis],
      );
    }
  }

  /** @returns whether anything looks different now */
  handle(message: Extract<ToView, { kind: "hull" }>): void {
    const { what, x, y, free } = message;
    if (what === "hover") {
      const over = this.handleAt(x, y);
      if (same(over, this.over)) return;
      this.over = over;
      this.post({ kind: "hull-over", over: over !== null });
    } else if (what === "grab") this.grab(x, y);
    else if (what === "move") this.drag([x, y], free);
    else if (what === "end") this.end();
    else this.reset();
    this.draw();
  }

  /** The hull under a pixel: of a repeat the one that it repeats. */
  pick(x: number, y: number): string | null {
    this.table.placeCamera();
    const caster = new Raycaster();
    caster.setFromCamera(
      new Vector2(...this.table.onTable(x, y)),
      this.table.camera,
    );
    let best: HullObject | null = null;
    let least = Infinity;
    for (const each of this.hullObjects()) {
      const [hit] = each.body ? caster.intersectObject(each.body, false) : [];
      if (!hit || hit.distance >= least) continue;
      least = hit.distance;
      best = each;
    }
    if (!best) return null;
    const { document } = this.table;
    const part = document?.parts.find(({ name }) => name === best.part);
    if (!part?.repeat) return best.hull.name;
    const at = part.hulls.findIndex(({ name }) => name === best.hull.name);
    const origin = document!.parts.find(({ name }) => name === part.repeat!.of);
    return origin?.hulls[at]?.name ?? null;
  }

  /** Where a shape is put by a click: on what lies there. */
  spot(x: number, y: number): Spot | null {
    const hit = this.table.cast(x, y, this.table.sourceAt(x));
    return (
      hit && {
        part: hit.view.name,
        at: hit.point.toArray(),
        size: this.table.parts.size * PLACED,
      }
    );
  }

  /** The plane through a line drawn over the table and the eye; straight across a hull where it nearly is. */
  plane(
    [from, to]: readonly [[number, number], [number, number]],
    free: boolean,
  ): { normal: Vector; point: Vector } | null {
    const { camera } = this.table;
    this.table.placeCamera();
    const rayTo = ([x, y]: readonly [number, number]) => {
      const [cx, cy] = this.table.onTable(x, y);
      return new Vector3(cx, cy, 0.5).unproject(camera).sub(camera.position);
    };
    const normal = rayTo(from).cross(rayTo(to)).normalize();
    if (!(normal.length() > 0.5)) return null;
    const point = camera.position.clone();
    const axes = this.chosen.length === 1 && this.frame ? this.frame.axes : [];
    const straight = free
      ? undefined
      : axes.find(
          (axis) =>
            Math.abs(normal.dot(new Vector3(...axis))) >
            Math.cos((STRAIGHT * Math.PI) / 180),
        );
    if (straight) {
      // Through what lies behind the middle of the line, as far off as the hull.
      const middle = rayTo([(from[0] + to[0]) / 2, (from[1] + to[1]) / 2]);
      middle.normalize();
      const off = new Vector3(...(this.frame!.centre as Vector)).sub(point);
      point.addScaledVector(middle, off.dot(middle));
      normal.set(...(straight as Vector));
    }
    return { normal: normal.toArray(), point: point.toArray() };
  }

  private hullObjects(): HullObject[] {
    return this.table
      .visibleViews()
      .flatMap((view) => view.hullObjects)
      .filter(({ object }) => object.visible);
  }

  /** The frame as it stands while it is dragged. */
  private shownFrame(): HullFrame {
    return this.held ? frameOf(this.chosen, this.held.by)! : this.frame!;
  }

  private eye(): Eye {
    const { camera, orbit } = this.table;
    this.table.placeCamera();
    const { left, top, width, height } = this.table.rects().table;
    const centre = new Vector3(...(this.frame!.centre as Vector));
    const [right, up, towards] = [0, 1, 2].map((k) =>
      new Vector3().setFromMatrixColumn(camera.matrixWorld, k).toArray(),
    );
    return {
      toPixels: (at) => {
        const on = new Vector3(...at).project(camera);
        return [
          left + ((on.x + 1) / 2) * width,
          top + ((1 - on.y) / 2) * height,
        ];
      },
      pixel: orbit.metres(
        1,
        Math.max(
          1e-9,
          camera.position
            .clone()
            .sub(centre)
            .dot(new Vector3(...towards)),
        ),
        this.table.clearSize(),
      ),
      right,
      up,
      towards,
    };
  }

  private handleAt(x: number, y: number): Handle | null {
    const tool = this.table.state?.hullTool;
    if (!this.object.visible || !this.frame || !tool) return null;
    const eye = this.eye();
    const { centre, axes, half } = this.frame;
    let best: Handle | null = null;
    let least = NEAR;
    const offer = (handle: Handle, at: Vector3) => {
      const [px, py] = eye.toPixels(at.toArray());
      const far = Math.hypot(px - x, py - y);
      if (far >= least) return;
      least = far;
      best = handle;
    };
    const middle = new Vector3(...(centre as Vector));
    for (const { handle } of this.handles) {
      const { what, axis, way } = handle;
      if (what === "slide" && tool === "move") offer(handle, middle);
      if (what !== tool) continue;
      const unit = new Vector3(
        ...(tool === "move" ? WORLD_AXES[axis] : axes[axis]),
      );
      if (what === "size")
        offer(handle, middle.clone().addScaledVector(unit, way * half[axis]));
      if (what === "move")
        for (let t = 16; t <= ARM + KNOB; t += 4)
          offer(handle, middle.clone().addScaledVector(unit, t * eye.pixel));
      if (what === "turn")
        for (const at of ringPoints(unit, RING * eye.pixel))
          offer(handle, at.add(middle));
    }
    return best;
  }

  private grab(x: number, y: number): void {
    const handle = this.handleAt(x, y);
    this.post({ kind: "hull-held", held: handle !== null });
    if (!handle || !this.frame) return;
    const [only, ...others] = this.chosen;
    const { kind } = only.hull;
    this.held = {
      handle,
      from: [x, y],
      by: STILL,
      moved: {
        frame: this.frame,
        kind: others.length
          ? null
          : kind === "box" || kind === "sphere" || kind === "capsule"
            ? kind
            : "other",
        steps: null,
        sides: this.sides(this.frame),
      },
    };
  }

  /** Where the sides of parts lie along the axes of a frame. */
  private sides({ axes }: HullFrame): number[][] {
    const meshes = this.table
      .visibleViews()
      .flatMap((view) => view.gameMesh ?? view.sourceMesh ?? []);
    return axes.map(([ax, ay, az]) =>
      meshes.flatMap(({ positions: p }) => {
        let low = Infinity;
        let high = -Infinity;
        for (let i = 0; i < p.length; i += 3) {
          const at = ax * p[i] + ay * p[i + 1] + az * p[i + 2];
          low = Math.min(low, at);
          high = Math.max(high, at);
        }
        return [low, high];
      }),
    );
  }

  private drag(to: [number, number], free: boolean): void {
    const { held } = this;
    const { state } = this.table;
    if (!held || !state) return;
    held.moved.steps = free || !state.snap ? null : state.snap;
    held.by = draggedBy(held.handle, held.moved, held.from, to, this.eye());
    const pivot = pivotOf(this.chosen.map(({ hull }) => hull));
    for (const each of this.chosen)
      each.draw(moveHull(each.hull, held.by, pivot));
    this.post({
      kind: "hull-drag",
      text: saidOf(held.handle, held.by, held.moved),
    });
  }

  private end(): void {
    const { held } = this;
    this.held = null;
    this.post({ kind: "hull-drag", text: "" });
    const moves =
      (held && [...held.by.move, ...held.by.turn].some((x) => x)) ||
      held?.by.scale.some((x) => x !== 1);
    if (moves) this.post({ kind: "hull-moved", by: held!.by });
    else this.reset();
  }

  /** Shows hulls where they are, not where they were dragged to. */
  private reset(): void {
    this.held = null;
    for (const each of this.chosen) each.draw(each.hull);
    this.post({ kind: "hull-drag", text: "" });
  }
}

const same = (a: Handle | null | undefined, b: Handle | null | undefined) =>
  a === b ||
  (!!a && !!b && a.what === b.what && a.axis === b.axis && a.way === b.way);

/** Shows the hulls of a part that stand for a level of detail, or its own where that has none. */
function showLevel(hulls: readonly HullObject[], level: number): void {
  const has = hulls.some(({ hull }) => hull.level === level);
  for (const { hull, object } of hulls)
    object.visible = (hull.level ?? 0) === (has ? level : 0);
}

/** The frame of one hull, or the box round several; as they were moved where that is given. */
function frameOf(
  chosen: readonly HullObject[],
  by: HullMove = STILL,
): HullFrame | null {
  if (!chosen.length) return null;
  const hulls = chosen.map(({ hull }) => hull);
  const pivot = pivotOf(hulls);
  const moved =
    by === STILL ? hulls : hulls.map((hull) => moveHull(hull, by, pivot));
  if (moved.length === 1) return hullFrame(moved[0]);
  const { min, max } = boundsOf(...moved.map(({ positions }) => positions));
  const half = AXES.map((k) => (max[k] - min[k]) / 2) as Vector;
  return {
    centre: AXES.map((k) => min[k] + half[k]) as Vector,
    axes: WORLD_AXES,
    half,
  };
}
