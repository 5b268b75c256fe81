import type { Asset } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import type { Mesh } from "../core/mesh/mesh";
import type { Point } from "./shapes";
import { Builder, dome, lathe, rounded, tube } from "./shapes";

/** The mooring bollard of Sorrel Quay: cast iron on a bolted plate, a laid rope wound round its waist. */
export function mooringBollard(): Asset {
  const parts: Record<string, Mesh> = {
    post: post(),
    plate: plate(),
    bolts: bolts(),
    rope: rope(),
  };
  return createAsset(
    "Mooring bollard",
    Object.entries(parts).map(([name, source], i) =>
      createPart(name, i, { source }),
    ),
  );
}

function post(): Mesh {
  const builder = new Builder();
  const profile = rounded(
    [
      [0, 0.045],
      [0.19, 0.045, 0.004],
      [0.19, 0.06, 0.01],
      [0.145, 0.085, 0.04],
      [0.12, 0.16, 0.08],
      [0.12, 0.4, 0.08],
      [0.15, 0.46, 0.04],
      [0.19, 0.49, 0.025],
      [0.19, 0.53, 0.025],
      [0.14, 0.575, 0.05],
      [0.04, 0.59, 0.02],
      [0.03, 0.6, 0.008],
      [0, 0.602],
    ],
    0.006,
    10,
  );
  // Sand-cast skin: shallow dents that never repeat round the post.
  lathe(builder, profile, 300, (angle, r, y) => {
    const skin =
      Math.sin(7 * angle + 31 * y) * Math.sin(13 * angle - 47 * y + 1) +
      0.6 * Math.sin(23 * angle + 90 * y);
    return [r + (r > 0.05 ? 0.0007 * skin : 0), y];
  });
  return builder.mesh("iron");
}

/** A round-cornered foot plate with a raised rim. */
function plate(): Mesh {
  const builder = new Builder();
  const profile = rounded(
    [
      [0, 0],
      [0.28, 0, 0.004],
      [0.285, 0.03, 0.008],
      [0.25, 0.034, 0.006],
      [0.24, 0.046, 0.006],
      [0, 0.046],
    ],
    0.006,
    8,
  );
  lathe(builder, profile, 256, (angle, r, y) => {
    const c = Math.abs(Math.cos(angle));
    const s = Math.abs(Math.sin(angle));
    const square = 1 / (c ** 5 + s ** 5) ** 0.2;
    return [r * (1 + (square - 1) * Math.min(1, r / 0.24)), y];
  });
  return builder.mesh("iron");
}

/** Four hexagon bolts with domed ends. */
function bolts(): Mesh {
  const builder = new Builder();
  for (let k = 0; k < 4; k++) {
    const angle = (Math.PI / 2) * k + Math.PI / 4;
    const at: Point = [
      0.262 * Math.cos(angle),
      0.031,
      -0.262 * Math.sin(angle),
    ];
    const profile = rounded(
      [
        [0, 0],
        [0.026, 0, 0.001],
        [0.026, 0.004, 0.001],
        [0.0195, 0.005, 0.001],
        [0.0195, 0.019, 0.003],
        [0, 0.021],
      ],
      0.0025,
      4,
    );
    lathe(
      builder,
      profile,
      96,
      (a, r, y) => {
        if (y < 0.0045 || r < 0.002) return [r, y];
        const sector = ((a % (Math.PI / 3)) + Math.PI / 3) % (Math.PI / 3);
        return [(r * 0.92) / Math.cos(sector - Math.PI / 6), y];
      },
      at,
    );
    dome(builder, [at[0], 0.05, at[2]], [0, 1, 0], 0.011, 0.009, 40, 12);
  }
  return builder.mesh("steel");
}

/** Three strands laid together, four and a half turns, both ends leading away and down. */
function rope(): Mesh {
  const builder = new Builder();
  const path: Point[] = [];
  const thick = 0.0185;
  const turns = 4.4;
  const steps = 1500;
  for (let i = 0; i <= steps; i++) {
    const t = i / steps;
    const angle = 2 * Math.PI * turns * t;
    const lead = Math.max(0, 0.07 - t) / 0.07;
    const tail = Math.max(0, t - 0.93) / 0.07;
    const away = 0.16 * (lead ** 1.6 + tail ** 1.6);
    const r = 0.1212 + thick * 0.96 + away;
    const y =
      0.215 + 2 * thick * 1.03 * turns * t - 0.12 * lead ** 2 - 0.2 * tail ** 4;
    path.push([r * Math.cos(angle), y, -r * Math.sin(angle)]);
  }
  const lay = 92;
  tube(builder, path, 54, (t, angle) => {
    const phase = angle * 3 + lay * 2 * Math.PI * t;
    const strand = 0.86 + 0.14 * Math.abs(Math.cos(phase / 2)) ** 0.7;
    const yarn = 0.012 * Math.cos(27 * angle - 3 * lay * 2 * Math.PI * t);
    return thick * (strand + yarn);
  });
  return builder.mesh("hemp");
}
