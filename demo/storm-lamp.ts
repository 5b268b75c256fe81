import type { Asset, Part } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import type { Mesh } from "../core/mesh/mesh";
import type { Point } from "./shapes";
import { Builder, dome, lathe, rounded, tube } from "./shapes";

/** The storm lamp of Sorrel Quay: turned brass, a caged glass, a bent handle, rivets floating on the tank. */
export function stormLamp(): Asset {
  const parts: Record<string, Mesh> = {
    tank: tank(),
    burner: burner(),
    glass: glass(),
    cage: cage(),
    cap: cap(),
    handle: handle(),
    grip: grip(),
    knob: knob(),
    rivets: rivets(),
  };
  return createAsset(
    "Storm lamp",
    Object.entries(parts).map(([name, source], i): Part =>
      createPart(name, i, { source }),
    ),
  );
}

/** A fuel tank with a rolled foot, a waist groove and a twisted rope moulding. */
function tank(): Mesh {
  const builder = new Builder();
  const profile = rounded(
    [
      [0, 0.006],
      [0.06, 0.006, 0.004],
      [0.068, 0, 0.004],
      [0.086, 0, 0.004],
      [0.09, 0.01, 0.006],
      [0.082, 0.018, 0.004],
      [0.088, 0.026, 0.008],
      [0.088, 0.062, 0.006],
      [0.083, 0.066, 0.003],
      [0.083, 0.072, 0.003],
      [0.087, 0.076, 0.004],
      [0.074, 0.098, 0.02],
      [0.046, 0.106, 0.006],
      [0.044, 0.118, 0.004],
      [0.03, 0.12, 0.003],
      [0, 0.12],
    ],
    0.0022,
    6,
  );
  lathe(builder, profile, 240, (angle, r, y) => {
    const rope = y > 0.0655 && y < 0.0725 && r > 0.07;
    return [
      rope
        ? r + 0.0022 * (0.5 + 0.5 * Math.sin(30 * angle + (y - 0.066) * 900))
        : r,
      y,
    ];
  });
  return builder.mesh("brass");
}

function burner(): Mesh {
  const builder = new Builder();
  const profile = rounded(
    [
      [0, 0.118],
      [0.034, 0.118, 0.001],
      [0.036, 0.124, 0.002],
      [0.026, 0.13, 0.004],
      [0.024, 0.146, 0.004],
      [0.014, 0.156, 0.004],
      [0.005, 0.158, 0.002],
      [0.0045, 0.166, 0.001],
      [0, 0.166],
    ],
    0.0016,
    5,
  );
  lathe(builder, profile, 144, (angle, r, y) => [
    y > 0.118 && y < 0.126 && r > 0.033 ? r + 0.0011 * Math.cos(48 * angle) : r,
    y,
  ]);
  return builder.mesh("brass");
}

/** A barrel of glass with both its walls. */
function glass(): Mesh {
  const builder = new Builder();
  const wall: [number, number][] = [];
  const steps = 56;
  const radius = (t: number) =>
    0.034 + 0.03 * Math.sin(Math.PI * (0.08 + 0.84 * t)) ** 0.8;
  for (let i = 0; i <= steps; i++)
    wall.push([radius(i / steps), 0.13 + 0.145 * (i / steps)]);
  for (let i = steps; i >= 0; i--)
    wall.push([radius(i / steps) - 0.0022, 0.13 + 0.145 * (i / steps)]);
  wall.push(wall[0]);
  lathe(builder, wall, 120);
  return builder.mesh("glass");
}

/** Four bowed struts and three hoops, as wire. */
function cage(): Mesh {
  const builder = new Builder();
  for (let k = 0; k < 4; k++) {
    const angle = (Math.PI / 2) * k + Math.PI / 4;
    const path: Point[] = [];
    for (let i = 0; i <= 90; i++) {
      const t = i / 90;
      const r = 0.066 + 0.014 * Math.sin(Math.PI * t) ** 0.7;
      path.push([r * Math.cos(angle), 0.1 + 0.19 * t, -r * Math.sin(angle)]);
    }
    tube(builder, path, 20, () => 0.0031);
  }
  for (const [y, r] of [
    [0.15, 0.0795],
    [0.195, 0.083],
    [0.24, 0.0795],
  ]) {
    const path: Point[] = [];
    for (let i = 0; i < 180; i++) {
      const angle = (2 * Math.PI * i) / 180;
      path.push([r * Math.cos(angle), y, -r * Math.sin(angle)]);
    }
    tube(builder, path, 14, () => 0.0024, true);
  }
  return builder.mesh("iron");
}

/** A hooded cap with pressed ribs and a vented crown. */
function cap(): Mesh {
  const builder = new Builder();
  const profile = rounded(
    [
      [0, 0.278],
      [0.03, 0.278, 0.003],
      [0.036, 0.272, 0.003],
      [0.09, 0.27, 0.001],
      [0.093, 0.273, 0.002],
      [0.066, 0.292, 0.016],
      [0.05, 0.318, 0.01],
      [0.038, 0.324, 0.003],
      [0.036, 0.344, 0.003],
      [0.042, 0.348, 0.003],
      [0.03, 0.362, 0.01],
      [0.012, 0.368, 0.003],
      [0.009, 0.376, 0.003],
      [0, 0.378],
    ],
    0.0024,
    6,
  );
  lathe(builder, profile, 240, (angle, r, y) => {
    if (y > 0.28 && y < 0.316) {
      const fade = Math.sin((Math.PI * (y - 0.28)) / 0.036);
      return [r + 0.0016 * fade * Math.max(0, Math.cos(16 * angle)) ** 2, y];
    }
    if (y > 0.326 && y < 0.342) {
      const slot = Math.max(0, Math.cos(12 * angle)) ** 6;
      const fade = Math.sin((Math.PI * (y - 0.326)) / 0.016) ** 0.5;
      return [r - 0.0035 * slot * fade, y];
    }
    return [r, y];
  });
  return builder.mesh("brass");
}

function handlePath(from: number, to: number, steps: number): Point[] {
  const path: Point[] = [];
  for (let i = 0; i <= steps; i++) {
    const a = Math.PI * (from + (to - from) * (i / steps));
    path.push([0.098 * Math.cos(a), 0.29 + 0.155 * Math.sin(a) ** 0.85, 0]);
  }
  return path;
}

function handle(): Mesh {
  const builder = new Builder();
  tube(builder, handlePath(0.02, 0.98, 150), 18, () => 0.0032);
  for (const side of [-1, 1]) {
    dome(
      builder,
      [side * 0.0925, 0.292, 0],
      [side, 0, 0],
      0.0085,
      0.01,
      32,
      10,
    );
  }
  return builder.mesh("iron");
}

/** A turned wooden grip on the handle, with scored rings. */
function grip(): Mesh {
  const builder = new Builder();
  tube(builder, handlePath(0.36, 0.64, 110), 40, (t) => {
    const swell = 0.0074 + 0.0026 * Math.sin(Math.PI * t);
    const score = [0.12, 0.16, 0.5, 0.84, 0.88].some(
      (at) => Math.abs(t - at) < 0.008,
    );
    return score ? swell - 0.0011 : swell;
  });
  return builder.mesh("wood");
}

/** The wick knob: a knurled wheel on a stem. */
function knob(): Mesh {
  const builder = new Builder();
  const turned = new Builder();
  const profile = rounded(
    [
      [0, 0],
      [0.003, 0, 0.0005],
      [0.003, 0.02, 0.0005],
      [0.0105, 0.021, 0.001],
      [0.0115, 0.023, 0.001],
      [0.0115, 0.028, 0.001],
      [0.0105, 0.03, 0.001],
      [0.004, 0.0315, 0.001],
      [0, 0.0315],
    ],
    0.0009,
    4,
  );
  lathe(turned, profile, 128, (angle, r, y) => [
    y > 0.0222 && y < 0.0288 && r > 0.01
      ? r + 0.0007 * Math.cos(32 * angle)
      : r,
    y,
  ]);
  for (let i = 0; i < turned.points.length; i += 3)
    builder.vertex(
      0.024 + turned.points[i + 1],
      0.132 + turned.points[i],
      -turned.points[i + 2],
    );
  for (let f = 0; f + 1 < turned.starts.length; f++)
    builder.face(
      ...turned.corners.slice(turned.starts[f], turned.starts[f + 1]),
    );
  return builder.mesh("brass");
}

/** Two rows of rivets that stand on the tank without being joined to it. */
function rivets(): Mesh {
  const builder = new Builder();
  for (let k = 0; k < 20; k++) {
    const angle = (2 * Math.PI * k) / 20;
    for (const y of [0.036, 0.055])
      dome(
        builder,
        [0.0878 * Math.cos(angle), y, -0.0878 * Math.sin(angle)],
        [Math.cos(angle), 0, -Math.sin(angle)],
        0.0034,
        0.0022,
      );
  }
  return builder.mesh("brass");
}
