import type { Asset } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import type { Point } from "./shapes";
import { Builder, tube } from "./shapes";

const COLUMNS = 26;
const ROWS = 34;
const WIDTH = 1.3;
const HEIGHT = 1.7;

/** Where knot (i, j) of the net hangs: diamonds, drawn together at the top, sagging in the middle. */
function knot(i: number, j: number): Point {
  const u = (i + (j % 2) * 0.5) / COLUMNS;
  const v = j / ROWS;
  const waist = 1 - 0.16 * Math.sin(Math.PI * v) * (0.4 + 0.6 * v);
  return [
    (u - 0.5) * WIDTH * waist,
    HEIGHT * (1 - v) - 0.07 * Math.sin(Math.PI * u) * (1 - v),
    0.05 * Math.sin(5 * u + 2 * v) * v + 0.02 * Math.sin(9 * v),
  ];
}

/** The net panel of Sorrel Quay: thousands of thin strands between two ropes, meant for a card later on. */
export function netPanel(): Asset {
  const strands = new Builder();
  const knots = new Builder();
  for (let j = 0; j < ROWS; j++)
    for (let i = 0; i <= COLUMNS; i++) {
      if (j % 2 && i === COLUMNS) continue;
      const left = j % 2 ? i : i - 1;
      const right = j % 2 ? i + 1 : i;
      for (const k of [left, right])
        if (k >= 0 && k < COLUMNS + (j % 2))
          strand(strands, knot(i, j), knot(k, j + 1));
      if (j > 0) bead(knots, knot(i, j));
    }
  const rope = (y: number, radius: number, sag: number) => {
    const builder = new Builder();
    const path: Point[] = [];
    for (let k = 0; k <= 220; k++) {
      const u = k / 220;
      path.push([
        (u - 0.5) * (WIDTH + 0.14),
        y - sag * Math.sin(Math.PI * u),
        0,
      ]);
    }
    tube(builder, path, 20, (t) => radius * (1 + 0.06 * Math.sin(420 * t)));
    return builder.mesh("hemp");
  };
  return createAsset("Net panel", [
    createPart("strands", 0, { source: strands.mesh("hemp") }),
    createPart("knots", 1, { source: knots.mesh("hemp") }),
    createPart("head rope", 2, { source: rope(HEIGHT + 0.004, 0.014, 0.07) }),
    createPart("floats", 3, { source: floats() }),
  ]);
}

function strand(builder: Builder, a: Point, b: Point): void {
  const path: Point[] = Array.from({ length: 6 }, (_, k) => {
    const t = k / 5;
    const sag = 0.0025 * Math.sin(Math.PI * t);
    return [
      a[0] + (b[0] - a[0]) * t,
      a[1] + (b[1] - a[1]) * t - sag,
      a[2] + (b[2] - a[2]) * t,
    ];
  });
  tube(builder, path, 6, () => 0.0011);
}

/** A knot as a small round bead. */
function bead(builder: Builder, at: Point): void {
  const rings = 5;
  const around = 8;
  const starts: number[] = [];
  for (let r = 1; r < rings; r++) {
    const t = (Math.PI * r) / rings - Math.PI / 2;
    starts.push(builder.points.length / 3);
    for (let i = 0; i < around; i++) {
      const a = (2 * Math.PI * i) / around;
      builder.vertex(
        at[0] + 0.003 * Math.cos(t) * Math.cos(a),
        at[1] + 0.0036 * Math.sin(t),
        at[2] - 0.003 * Math.cos(t) * Math.sin(a),
      );
    }
  }
  for (let k = 0; k + 1 < starts.length; k++)
    builder.band(starts[k], starts[k + 1], around);
  const bottom = builder.vertex(at[0], at[1] - 0.0036, at[2]);
  const top = builder.vertex(at[0], at[1] + 0.0036, at[2]);
  builder.fan(starts[0], around, bottom, false);
  builder.fan(starts[starts.length - 1], around, top, true);
}

/** Cork floats along the head rope. */
function floats() {
  const builder = new Builder();
  for (let k = 0; k < 9; k++) {
    const u = (k + 0.5) / 9;
    const x = (u - 0.5) * (WIDTH + 0.1);
    const y = HEIGHT + 0.004 - 0.07 * Math.sin((Math.PI * (x + 0.72)) / 1.44);
    const path: Point[] = [];
    for (let i = 0; i <= 24; i++) path.push([x - 0.04 + (0.08 * i) / 24, y, 0]);
    tube(
      builder,
      path,
      28,
      (t) =>
        0.031 + 0.004 * Math.sin(Math.PI * t) + 0.0004 * Math.sin(57 * t + k),
    );
  }
  return builder.mesh("cork");
}
