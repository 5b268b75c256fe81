import type { PerspectiveCamera } from "three";
import type { Steps } from "./messages";

/** Height of the eye over the ground, metres. */
export const EYE = 1.65;
/** Metres a second, walking and running. */
const PACE = 1.5;
const RUN = 5;
const STEEPEST = 1.45;

/** Somebody who walks through the yard on the ground. */
export class Walker {
  x = 0;
  z = 3;
  yaw = 0;
  pitch = 0;

  /** Stands before a thing so that it is seen from top to bottom. @param height and radius of the thing, metres */
  standBefore(height: number, radius: number): void {
    this.x = 0;
    this.z = Math.max(1.2, radius + 1.6 * Math.max(height, 2 * radius));
    this.yaw = 0;
    this.pitch = Math.atan2(height / 2 - EYE, this.z);
  }

  /** Looks round by pixels. */
  turn(x: number, y: number): void {
    this.yaw -= x * 0.004;
    this.pitch = Math.max(
      -STEEPEST,
      Math.min(STEEPEST, this.pitch - y * 0.004),
    );
  }

  /** @param seconds since the last one */
  walk({ forward, side, fast }: Steps, seconds: number): void {
    const length = Math.hypot(forward, side);
    if (!length) return;
    const way = ((fast ? RUN : PACE) * seconds) / Math.max(1, length);
    const [sin, cos] = [Math.sin(this.yaw), Math.cos(this.yaw)];
    this.x += way * (side * cos - forward * sin);
    this.z += way * (-side * sin - forward * cos);
  }

  /** @param aspect width over height */
  place(camera: PerspectiveCamera, aspect: number, fov: number): void {
    camera.position.set(this.x, EYE, this.z);
    camera.rotation.set(this.pitch, this.yaw, 0, "YXZ");
    camera.near = 0.03;
    camera.far = 600;
    camera.aspect = aspect;
    camera.fov = fov;
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
  }
}
