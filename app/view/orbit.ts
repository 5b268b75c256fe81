import type { Box3 } from "three";
import { Vector3 } from "three";
import type { PerspectiveCamera } from "three";
import type { Camera } from "../shared/view-types";
import type { Rect } from "../shared/layout";

/** Field of view of the table along its shorter side, degrees: what is framed stays whole however it is split. */
export const FOV = 32;
/** Room that is left above and below when all of a box is framed. */
const ROOM = 1.16;
const SLOPE = Math.tan(((FOV / 2) * Math.PI) / 180);

/** The camera on its sphere about a point. */
export class Orbit {
  at: Camera | null = null;

  /** Turns or moves by pixels. @param size px of the shorter side of what is framed into */
  move(how: "orbit" | "pan", x: number, y: number, size: number) {
    const { at } = this;
    if (!at) return;
    at.framed = false;
    if (how === "orbit") {
      at.yaw -= x * 0.008;
      at.pitch = Math.max(-1.55, Math.min(1.55, at.pitch + y * 0.008));
    } else this.shift(-x, y, size);
  }

  /** Goes nearer or away; what lies x px right and y px above of the middle stays where it is. */
  zoom(by: number, x: number, y: number, size: number) {
    const { at } = this;
    if (!at) return;
    const times = Math.exp(by * 0.0012);
    at.framed = false;
    this.shift((1 - times) * x, (1 - times) * y, size);
    at.distance *= times;
  }

  /** Moves the point that is looked at across the view by pixels. */
  private shift(x: number, y: number, size: number) {
    const at = this.at!;
    const step = this.metres(1, at.distance, size);
    const { right, up } = axes(at.yaw, at.pitch);
    at.target = [0, 1, 2].map(
      (k) =>
        at.target[k] +
        right.getComponent(k) * x * step +
        up.getComponent(k) * y * step,
    ) as Camera["target"];
  }

  /** Turns about a point from now on, which comes to the middle. */
  turnAbout(point: readonly [number, number, number]) {
    if (this.at) Object.assign(this.at, { target: [...point], framed: false });
  }

  /** Looks at all of a box, from where it looks now. @param aspect width over height */
  frame(box: Box3, aspect: number): void {
    if (box.isEmpty()) return;
    const middle = box.getCenter(new Vector3());
    const yaw = this.at?.yaw ?? 0.6;
    const pitch = this.at?.pitch ?? 0.28;
    this.at = {
      yaw,
      pitch,
      distance: distanceFor(box, middle, yaw, pitch, aspect),
      target: [middle.x, middle.y, middle.z],
      framed: true,
    };
  }

  /** Looks at a place with some room about it. */
  lookAt(target: readonly number[], radius: number): void {
    this.at = {
      yaw: this.at?.yaw ?? 0.6,
      pitch: this.at?.pitch ?? 0.28,
      distance: Math.max(1e-4, (2.6 * radius) / SLOPE),
      target: [target[0], target[1], target[2]],
    };
  }

  /** A square view that a box just fills from top to bottom or from side to side, from the same side. */
  placeWhole(camera: PerspectiveCamera, box: Box3): void {
    const whole = new Orbit();
    whole.at = this.at && { ...this.at };
    whole.frame(box, 1);
    if (whole.at) whole.at.distance /= ROOM;
    whole.place(camera, 1);
  }

  /** @param aspect width over height of what is framed into */
  place(camera: PerspectiveCamera, aspect: number): void {
    const { at } = this;
    if (!at) return;
    const [x, y, z] = at.target;
    const flat = Math.cos(at.pitch) * at.distance;
    camera.position.set(
      x + flat * Math.sin(at.yaw),
      y + Math.sin(at.pitch) * at.distance,
      z + flat * Math.cos(at.yaw),
    );
    camera.near = at.distance / 200;
    camera.far = at.distance * 20;
    camera.aspect = aspect;
    camera.fov = (360 / Math.PI) * Math.atan(SLOPE / Math.min(1, aspect));
    camera.lookAt(x, y, z);
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
  }

  /** Looks into the clear part of a rectangle, and draws beyond it to all of its edges. */
  placeIn(camera: PerspectiveCamera, rect: Rect, clear: Rect): void {
    camera.clearViewOffset();
    this.place(camera, clear.width / clear.height);
    camera.setViewOffset(
      clear.width,
      clear.height,
      rect.left - clear.left,
      rect.top - clear.top,
      rect.width,
      rect.height,
    );
  }

  /** Metres that a number of pixels cover at a distance. @param size px of the shorter side of what is framed into */
  metres(pixels: number, distance: number, size: number): number {
    return (2 * distance * SLOPE * pixels) / size;
  }
}

function axes(yaw: number, pitch: number) {
  const back = new Vector3(
    Math.cos(pitch) * Math.sin(yaw),
    Math.sin(pitch),
    Math.cos(pitch) * Math.cos(yaw),
  );
  const right = new Vector3(Math.cos(yaw), 0, -Math.sin(yaw));
  return { back, right, up: back.clone().cross(right) };
}

/** How far off the camera must be for every corner of a box to lie in the view, with a little room. */
function distanceFor(
  box: Box3,
  middle: Vector3,
  yaw: number,
  pitch: number,
  aspect: number,
): number {
  const { back, right, up } = axes(yaw, pitch);
  const [wide, high] = [Math.max(1, aspect), Math.max(1, 1 / aspect)];
  let distance = 1e-6;
  for (let k = 0; k < 8; k++) {
    const corner = new Vector3(
      k & 1 ? box.max.x : box.min.x,
      k & 2 ? box.max.y : box.min.y,
      k & 4 ? box.max.z : box.min.z,
    ).sub(middle);
    const near = corner.dot(back);
    distance = Math.max(
      distance,
      near + (1.08 * Math.abs(corner.dot(right))) / (SLOPE * wide),
      near + (ROOM * Math.abs(corner.dot(up))) / (SLOPE * high),
    );
  }
  return distance;
}
