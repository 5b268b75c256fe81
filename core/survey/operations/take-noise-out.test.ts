import { expect, it } from "vitest";
import { cube, sphere } from "../../../tests/shapes";
import { createAsset, createPart } from "../../asset/asset";
import type { Asset } from "../../asset/asset";
import { seededRandom } from "../../base/random";
import { plainContext } from "../../base/context";
import { findOperation } from "../../operations";
import { runOperation } from "../../route";

const NOISE = 0.004;

function noisy(): Asset {
  const ball = sphere(40, 60);
  const random = seededRandom(4);
  const source = {
    ...ball,
    positions: ball.positions.map((x) => x * (1 + NOISE * (random() - 0.5))),
  };
  return createAsset("set", [
    createPart("ball", 0, { source }),
    createPart("box", 1, { source: cube() }),
  ]);
}

const run = (asset: Asset, options: object) =>
  runOperation(
    findOperation("survey/take-noise-out"),
    asset,
    options,
    plainContext(),
  );

it("trying keeps what would come of it beside the source, which stays", async () => {
  const asset = noisy();
  const { asset: tried, report } = await run(asset, {
    parts: ["ball"],
    only: true,
  });
  const [ball, box] = tried.parts;
  expect(ball.source).toBe(asset.parts[0].source);
  expect(ball.tried!.corners).toEqual(ball.source!.corners);
  expect(box.tried).toBeNull();
  let largest = 0;
  const [p, q] = [ball.source!.positions, ball.tried!.positions];
  for (let v = 0; v < p.length; v += 3)
    largest = Math.max(
      largest,
      Math.hypot(...[0, 1, 2].map((k) => p[v + k] - q[v + k])),
    );
  expect(largest).toBeGreaterThan(0.0005);
  expect(report.largest).toBeCloseTo(largest, 9);
});

it("taking it out does just what was tried, and a trial goes with it", async () => {
  const first = await run(noisy(), { parts: ["ball"], only: true });
  const done = await run(first.asset, { parts: ["ball"] });
  const [ball] = done.asset.parts;
  expect(ball.source!.positions).toEqual(first.asset.parts[0].tried!.positions);
  expect(ball.dense).toBe(first.asset.parts[0].source);
  expect(ball.tried).toBeNull();
  // A trial on another part takes the place of the one before.
  const other = await run(first.asset, { parts: ["box"], only: true });
  expect(other.asset.parts.map(({ tried }) => tried !== null)).toEqual([
    false,
    true,
  ]);
});
