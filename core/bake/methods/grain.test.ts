import { expect, it } from "vitest";
import { seededRandom } from "../../base/random";
import { noiseOf, UNIT } from "./channels";
import { withoutGrain } from "./grain";

const SIZE = 48;
const up = () =>
  Int16Array.from({ length: 3 * SIZE * SIZE }, (_, i) =>
    i % 3 === 2 ? UNIT : 0,
  );
const rms = (
  a: ArrayLike<number>,
  b: ArrayLike<number>,
  from: number,
  to: number,
) => {
  let sum = 0;
  let count = 0;
  for (let i = 0; i < a.length; i++)
    if (i % SIZE >= from && i % SIZE < to) {
      sum += (a[i] - b[i]) ** 2;
      count++;
    }
  return Math.sqrt(sum / count);
};

it("takes grain out of flat ground, and leaves the border of a shadow where it is", () => {
  const random = seededRandom(3);
  const noise = noiseOf("sky", { rays: 64, depthUnder: 1 });
  const truth = Float32Array.from({ length: SIZE * SIZE }, (_, i) =>
    i % SIZE < 24 ? 0.3 : 0.8,
  );
  // As much grain as 64 rays leave.
  const grainy = truth.map((x) => x + 0.05 * (random() - 0.5));
  const covered = new Uint8Array(SIZE * SIZE).fill(1);
  const smooth = withoutGrain(grainy, up(), covered, SIZE, SIZE, noise);
  expect(rms(smooth, truth, 2, 20)).toBeLessThan(
    0.4 * rms(grainy, truth, 2, 20),
  );
  expect(rms(smooth, truth, 22, 26)).toBeLessThan(rms(grainy, truth, 22, 26));
  // Without knowing how much grain there is the border would be washed out.
  const washed = withoutGrain(grainy, up(), covered, SIZE, SIZE, Infinity);
  expect(rms(washed, truth, 22, 26)).toBeGreaterThan(
    5 * rms(smooth, truth, 22, 26),
  );
});

it("lends nothing over the ground, nor over a ridge", () => {
  const values = Float32Array.from({ length: SIZE * SIZE }, (_, i) =>
    i % SIZE < 24 ? 0.5 : 0.51,
  );
  const covered = new Uint8Array(SIZE * SIZE).fill(1);
  const normals = up();
  for (let i = 0; i < SIZE * SIZE; i++)
    if (i % SIZE >= 24) normals.set([UNIT, 0, 0], 3 * i);
  expect(withoutGrain(values, normals, covered, SIZE, SIZE, 1)).toEqual(values);
  const half = covered.map((_, i) => (i % SIZE < 24 ? 1 : 0));
  const left = withoutGrain(values, up(), half, SIZE, SIZE, 1);
  expect(rms(left, values, 0, 24)).toBeLessThan(1e-6);
});
