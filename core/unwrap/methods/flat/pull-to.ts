import type { Chart } from "../chart";
import { fitMove } from "../held";
import type { BlockSystem } from "./block-system";
import { relax } from "./relax";
import { countFlips, rescale } from "./shapes";

/** Steps in which pinned vertices go to their places, and relaxation between them. */
const STEPS = 8;
const ROUNDS = 3;

/**
 * Brings chosen vertices of a layout to given places and lets the rest follow: first the whole by turn, scale and
 * shift, then the vertices step by step, each as far as no triangle turns over.
 * @param shapes as `triangleShapes` gives them
 * @param uv 2 × vertexCount, metres; is changed: comes out in the units of the places
 */
export function pullTo(
  chart: Chart,
  shapes: Float64Array,
  system: BlockSystem,
  uv: Float64Array,
  pins: ReadonlyMap<number, readonly [number, number]>,
): void {
  rescale(chart, shapes, uv);
  const from = [...pins.keys()].flatMap((v) => [uv[2 * v], uv[2 * v + 1]]);
  const to = [...pins.values()].flatMap((at) => [...at]);
  const { move } = fitMove(from, to);
  const size = Math.hypot(move.a, move.c) || 1;
  // Relaxing works in metres: places are brought there, and the layout to the places' units at the end.
  const back = (x: number, y: number): [number, number] => [
    (move.a * (x - move.e) + move.c * (y - move.f)) / (size * size),
    (move.b * (x - move.e) + move.d * (y - move.f)) / (size * size),
  ];
  const goals = [...pins].map(([v, [x, y]]) => [v, ...back(x, y)] as const);
  const held = new Set(pins.keys());
  for (let step = 1; step <= STEPS; step++) {
    for (const [v, x, y] of goals) {
      const [ox, oy] = [uv[2 * v], uv[2 * v + 1]];
      for (let share = 1 / (STEPS - step + 1); share > 0.01; share /= 2) {
        uv[2 * v] = ox + share * (x - ox);
        uv[2 * v + 1] = oy + share * (y - oy);
        if (countFlips(chart, shapes, uv) === 0) break;
        uv[2 * v] = ox;
        uv[2 * v + 1] = oy;
      }
    }
    relax(chart, shapes, system, uv, {
      rounds: ROUNDS,
      evenness: 1,
      pins: held,
    });
  }
  for (let v = 0; v < chart.vertexCount; v++) {
    const [x, y] = [uv[2 * v], uv[2 * v + 1]];
    uv[2 * v] = move.a * x + move.b * y + move.e;
    uv[2 * v + 1] = move.c * x + move.d * y + move.f;
  }
}
