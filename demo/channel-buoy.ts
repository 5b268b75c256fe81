import type { Asset, Part } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import type { Mesh } from "../core/mesh/mesh";
import { joinMeshes } from "../core/mesh/change-faces";
import {
  multiply,
  rotation,
  transformMesh,
  translation,
} from "../core/mesh/transform";
import { plank } from "./plank";
import type { Point } from "./shapes";
import { Builder, dome, lathe, rounded, tube } from "./shapes";

/** The channel buoy of Sorrel Quay: four metres of plated float and tower, ballast and bulkheads inside that nobody sees, a ladder of like rungs. */
export function channelBuoy(): Asset {
  const parts: Record<string, Mesh> = {
    float: float(),
    ballast: ballast(),
    bulkheads: bulkheads(),
    fender: fender(),
    tower: tower(),
    braces: braces(),
    deck: deck(),
    lantern: lantern(),
    topmark: topmark(),
    "ladder rails": rails(),
    rungs: rungs(),
    "mooring eye": mooringEye(),
    bolts: bolts(),
  };
  return createAsset(
    "Channel buoy",
    Object.entries(parts).map(([name, source], i): Part =>
      createPart(name, i, { source }),
    ),
  );
}

/** A plated drum with a skirt, pressed ribs and two dents. */
function float(): Mesh {
  const builder = new Builder();
  const profile = rounded(
    [
      [0, -0.95],
      [0.35, -0.95, 0.05],
      [0.5, -0.72, 0.1],
      [1.05, -0.5, 0.12],
      [1.18, -0.3, 0.06],
      [1.18, 0.22, 0.06],
      [1.02, 0.38, 0.05],
      [0.98, 0.42, 0.02],
      [0, 0.42],
    ],
    0.028,
    6,
  );
  lathe(builder, profile, 220, (angle, r, y) => {
    if (r < 0.6) return [r, y];
    const rib = 0.008 * Math.exp(-(((y + 0.04) / 0.03) ** 2));
    const plate = (((angle * 8) / (2 * Math.PI)) % 1) - 0.5;
    const seam = -0.004 * Math.exp(-((40 * plate) ** 2));
    const dent = (a: number, h: number, deep: number) =>
      deep * Math.exp(-((angle - a) ** 2) * 30 - ((y - h) / 0.14) ** 2);
    return [
      r + rib + seam - dent(1.3, 0.05, 0.03) - dent(4.4, -0.15, 0.045),
      y,
    ];
  });
  return builder.mesh("red paint");
}

/** A block of iron inside the float. */
function ballast(): Mesh {
  const builder = new Builder();
  const profile = rounded(
    [
      [0, -0.8],
      [0.3, -0.8, 0.03],
      [0.34, -0.5, 0.03],
      [0, -0.48],
    ],
    0.03,
    4,
  );
  lathe(builder, profile, 96);
  return builder.mesh("iron");
}

/** Plates that stiffen the float from within. */
function bulkheads(): Mesh {
  const builder = new Builder();
  plank(builder, [1.7, 0.5, 0.016], 0.004, 60);
  const one = transformMesh(builder.mesh("iron"), translation(0, -0.06, 0));
  return joinMeshes([
    one,
    transformMesh(
      one,
      multiply(translation(0, 0.001, 0), rotation([0, 1, 0], Math.PI / 3)),
    ),
    transformMesh(one, rotation([0, 1, 0], (2 * Math.PI) / 3)),
  ]);
}

function fender(): Mesh {
  const builder = new Builder();
  const path = ring(1.235, -0.02, 200);
  tube(
    builder,
    path,
    24,
    (t) => 0.07 + 0.003 * Math.sin(2 * Math.PI * 40 * t),
    true,
  );
  return builder.mesh("rubber");
}

const LEGS = 4;
const legAt = (k: number, t: number): Point => {
  const angle = (2 * Math.PI * k) / LEGS + Math.PI / 4;
  const r = 0.78 - 0.5 * t;
  return [r * Math.cos(angle), 0.38 + 2.02 * t, -r * Math.sin(angle)];
};

function tower(): Mesh {
  const builder = new Builder();
  for (let k = 0; k < LEGS; k++) {
    const path = Array.from({ length: 61 }, (_, i) => legAt(k, i / 60));
    tube(builder, path, 24, () => 0.034);
  }
  return builder.mesh("red paint");
}

function braces(): Mesh {
  const builder = new Builder();
  for (let k = 0; k < LEGS; k++)
    for (const [low, high] of [
      [0.12, 0.5],
      [0.5, 0.86],
    ])
      for (const [from, to] of [
        [low, high],
        [high, low],
      ]) {
        const a = legAt(k, from);
        const b = legAt(k + 1, to);
        const path = Array.from({ length: 25 }, (_, i): Point => {
          const t = i / 24;
          return [0, 1, 2].map(
            (axis) => a[axis] + (b[axis] - a[axis]) * t,
          ) as unknown as Point;
        });
        tube(builder, path, 14, () => 0.016);
      }
  return builder.mesh("red paint");
}

function deck(): Mesh {
  const builder = new Builder();
  const profile = rounded(
    [
      [0, 2.36],
      [0.42, 2.36, 0.01],
      [0.44, 2.4, 0.01],
      [0.42, 2.42, 0.006],
      [0, 2.42],
    ],
    0.012,
    5,
  );
  lathe(builder, profile, 160);
  return builder.mesh("red paint");
}

function lantern(): Mesh {
  const builder = new Builder();
  const profile = rounded(
    [
      [0, 2.415],
      [0.15, 2.415, 0.01],
      [0.16, 2.5, 0.02],
      [0.12, 2.54, 0.01],
      [0.125, 2.78, 0.01],
      [0.17, 2.8, 0.01],
      [0.15, 2.85, 0.02],
      [0.04, 2.93, 0.02],
      [0, 2.935],
    ],
    0.007,
    6,
  );
  lathe(builder, profile, 140, (_, r, y) => {
    const lens = y > 2.55 && y < 2.77 && r > 0.1;
    return [lens ? r + 0.006 * Math.abs(Math.sin(95 * (y - 2.55))) : r, y];
  });
  return builder.mesh("glass");
}

/** A cone on a short staff above the lantern. */
function topmark(): Mesh {
  const builder = new Builder();
  const profile = rounded(
    [
      [0, 2.925],
      [0.016, 2.925],
      [0.016, 3.02, 0.004],
      [0.2, 3.03, 0.008],
      [0.012, 3.42, 0.008],
      [0, 3.425],
    ],
    0.012,
    5,
  );
  lathe(builder, profile, 96);
  return builder.mesh("red paint");
}

/** The ladder leans on one side of the tower, its feet on the float. */
const railAt = (side: number, t: number): Point => [
  side * 0.17,
  0.37 + 1.98 * t,
  0.75 - 0.42 * t,
];

function rails(): Mesh {
  const builder = new Builder();
  for (const side of [-1, 1])
    tube(
      builder,
      Array.from({ length: 41 }, (_, i) => railAt(side, i / 40)),
      18,
      () => 0.018,
    );
  return builder.mesh("steel");
}

/** Seven rungs, one like the other, with a grip wound into the steel. */
function rungs(): Mesh {
  const builder = new Builder();
  const path: Point[] = [];
  for (let i = 0; i <= 60; i++) path.push([-0.17 + (0.34 * i) / 60, 0, 0]);
  tube(
    builder,
    path,
    20,
    (t) => 0.0125 + 0.0006 * Math.sin(2 * Math.PI * 30 * t),
  );
  const rung = builder.mesh("steel");
  return joinMeshes(
    Array.from({ length: 7 }, (_, k) => {
      const [, y, z] = railAt(1, (k + 0.8) / 7.6);
      return transformMesh(rung, translation(0, y, z));
    }),
  );
}

function mooringEye(): Mesh {
  const builder = new Builder();
  const path: Point[] = [];
  for (let i = 0; i < 80; i++) {
    const a = (2 * Math.PI * i) / 80;
    path.push([0.13 * Math.cos(a), -1.03 + 0.13 * Math.sin(a), 0]);
  }
  tube(builder, path, 20, () => 0.034, true);
  return builder.mesh("iron");
}

/** Bolt heads that float on the rim of the float's deck. */
function bolts(): Mesh {
  const builder = new Builder();
  for (let k = 0; k < 24; k++) {
    const a = (2 * Math.PI * k) / 24;
    dome(
      builder,
      [0.9 * Math.cos(a), 0.4205, -0.9 * Math.sin(a)],
      [0, 1, 0],
      0.02,
      0.011,
      16,
      5,
    );
  }
  return builder.mesh("steel");
}

function ring(radius: number, y: number, steps: number): Point[] {
  return Array.from({ length: steps }, (_, i) => {
    const a = (2 * Math.PI * i) / steps;
    return [radius * Math.cos(a), y, -radius * Math.sin(a)];
  });
}
