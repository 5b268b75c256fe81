import { PerspectiveCamera, Vector3 } from "three";
import { expect, it } from "vitest";
import { EYE, Walker } from "./walker";

const forward = { forward: 1, side: 0, fast: false };

it("walks the way it looks, no faster aslant, and stays on the ground", () => {
  const walker = new Walker();
  const [x, z] = [walker.x, walker.z];
  walker.walk(forward, 1);
  expect(walker.z).toBeLessThan(z);
  expect(walker.x).toBeCloseTo(x);
  const far = (steps: typeof forward) => {
    const other = new Walker();
    other.turn(300, 40);
    other.walk(steps, 1);
    return Math.hypot(other.x, other.z - 3);
  };
  const pace = far(forward);
  expect(far({ ...forward, side: 1 })).toBeCloseTo(pace);
  expect(far({ ...forward, fast: true })).toBeGreaterThan(2 * pace);
  const turned = new Walker();
  turned.turn(0, 1e6);
  const camera = new PerspectiveCamera();
  turned.place(camera, 1.6, 50);
  const way = camera.getWorldDirection(new Vector3());
  turned.walk(forward, 1);
  turned.place(camera, 1.6, 50);
  expect(camera.position.y).toBe(EYE);
  expect(way.y).toBeLessThan(-0.9);
});

it("stands before a thing and sees all of it", () => {
  for (const height of [0.4, 2, 12]) {
    const walker = new Walker();
    walker.standBefore(height, height / 3);
    const camera = new PerspectiveCamera();
    walker.place(camera, 1.2, 50);
    for (const y of [0.02 * height, 0.98 * height]) {
      const at = new Vector3(0, y, 0).project(camera);
      expect(Math.abs(at.y), `${height} ${y}`).toBeLessThan(1);
    }
  }
});
