import { expect, test } from "vitest";
import { MirrorHold } from "./mirror-hold";
import { Quadrics } from "./quadrics";

/** Three vertices in a row: two in the plane x = 0, of which the second is no border, and one beside it. */
const positions = Float64Array.from([0, 0, 0, 0, 1, 0, 1, 0, 0]);
const plane = { normal: [1, 0, 0] as [number, number, number], d: 0 };
const held = () =>
  new MirrorHold(plane, positions, Uint8Array.from([1, 0, 1]), 1);

function leaning(): Quadrics {
  const quadrics = new Quadrics(3, positions);
  for (const v of [0, 1, 2]) {
    quadrics.addPlane(v, 1, 0, 0, -0.4, 1);
    quadrics.addPlane(v, 0, 1, 0, -0.2, 1);
    quadrics.addPlane(v, 0, 0, 1, 0, 1);
  }
  return quadrics;
}

test("brings the place of an edge at a held border into the plane, at what it costs there", () => {
  const quadrics = leaning();
  const free = quadrics.place(0, 2);
  expect(quadrics.x).toBeCloseTo(0.4, 3);
  const cost = held().place(quadrics, 0, 2, free);
  expect(quadrics.x).toBeCloseTo(0, 9);
  expect(quadrics.y).toBeCloseTo(0.2, 3);
  expect(cost).toBeGreaterThan(free + 0.3);
});

test("leaves other edges alone until an end of them has been joined to what is held", () => {
  const quadrics = leaning();
  const hold = held();
  const free = quadrics.place(1, 2);
  expect(hold.place(quadrics, 1, 2, free)).toBe(free);
  expect(quadrics.x).toBeCloseTo(0.4, 3);
  hold.join(1, 0);
  hold.place(quadrics, 1, 2, free);
  expect(quadrics.x).toBeCloseTo(0, 9);
});
