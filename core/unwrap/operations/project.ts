import type { Mesh } from "../../mesh/mesh";
import { faceNormals } from "../../mesh/normals";
import { defineOperation, field } from "../../asset/operation";
import { principalAxes } from "../../space/principal-axes";
import type { Vector } from "../../space/vector";
import { meshesResult } from "../methods/change-islands";
import { chosenGames, IslandOptions } from "../methods/island-options";
import { seamsFromUvs } from "../../mesh/seams-from-uvs";
import type { Sheet } from "../methods/sheet";
import { sheetOf } from "../methods/sheet";
import {
  boxOf,
  densityOfIsland,
  gatherIslands,
} from "../methods/sheet-islands";

export type Projection =
  "plane" | "x" | "y" | "z" | "view" | "box" | "cylinder" | "sphere";

class ProjectOptions extends IslandOptions {
  @field({
    kind: "choice",
    label: "From",
    help: "What the chosen faces are projected from.",
    choices: [
      { value: "plane", label: "best plane" },
      { value: "view", label: "the view" },
      { value: "x", label: "side (x)" },
      { value: "y", label: "above (y)" },
      { value: "z", label: "front (z)" },
      { value: "box", label: "box" },
      { value: "cylinder", label: "cylinder" },
      { value: "sphere", label: "sphere" },
    ],
  })
  from: Projection = "plane";

  @field({
    kind: "number",
    label: "Towards x",
    help: "Direction towards the eye, where that is what is projected from.",
    folded: true,
    from: "camera x",
  })
  towardsX = 0;

  @field({
    kind: "number",
    label: "Towards y",
    help: "Direction towards the eye, where that is what is projected from.",
    folded: true,
    from: "camera y",
  })
  towardsY = 0;

  @field({
    kind: "number",
    label: "Towards z",
    help: "Direction towards the eye, where that is what is projected from.",
    folded: true,
    from: "camera z",
  })
  towardsZ = 1;
}

export const projectFaces = defineOperation({
  id: "unwrap/project",
  stage: "unwrap",
  title: "Project",
  about:
    "Gives chosen faces UVs as seen from a plane, a box, a cylinder or a sphere; they keep their aspect and the density of the rest.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: ProjectOptions,
  run(asset, options) {
    const games = chosenGames(asset, options, false).filter(({ marks }) =>
      marks.some((mark) => mark),
    );
    const sheet = sheetOf(asset);
    const towards: Vector = [
      options.towardsX,
      options.towardsY,
      options.towardsZ,
    ];
    const meshes = games.map(({ mesh, marks }) =>
      projectMarked(mesh, marks, options.from, towards, sheet),
    );
    return meshesResult(
      asset,
      games.map(({ name }) => name),
      meshes,
      sheet,
      {
        projected: games.reduce(
          (sum, { marks }) => sum + marks.reduce((all, mark) => all + mark, 0),
          0,
        ),
      },
    );
  },
});

/** A mesh whose marked faces have UVs by projection, apart from all others. */
export function projectMarked(
  mesh: Mesh,
  marks: ArrayLike<number>,
  from: Projection,
  towards: Vector,
  sheet: Pick<Sheet, "width" | "height">,
): Mesh {
  const faces: number[] = [];
  for (let f = 0; f + 1 < mesh.faceStarts.length; f++)
    if (marks[f]) faces.push(f);
  const old = mesh.uvs ? gatherIslands([mesh], sheet) : [];
  const all = old.filter((each) => !each.faces.every((f) => marks[f]));
  const density =
    meanOf(all.length ? all : old) || sheet.height / (2 * sizeOf(mesh));
  const uvs = mesh.uvs?.slice() ?? new Float32Array(2 * mesh.corners.length);
  const flat = projectedPlaces(mesh, faces, from, towards);
  const boxes = new Map<number, number[]>();
  // Sides of a box lie one beside the other.
  for (const { group, at } of flat.values())
    boxes.set(group, [...(boxes.get(group) ?? []), at[0], at[1]]);
  const shifts = new Map<number, [number, number]>();
  let x = 0;
  for (const [group, points] of [...boxes].sort(([a], [b]) => a - b)) {
    const [x0, y0, x1] = boxOf(points);
    shifts.set(group, [x - x0, -y0]);
    x += 1.03 * (x1 - x0) + 1e-6;
  }
  for (const [c, { group, at }] of flat) {
    const [dx, dy] = shifts.get(group)!;
    uvs[2 * c] = ((at[0] + dx) * density) / sheet.width;
    uvs[2 * c + 1] = ((at[1] + dy) * density) / sheet.height;
  }
  return { ...mesh, uvs, seams: seamsFromUvs(mesh, uvs) };
}

function meanOf(islands: ReturnType<typeof gatherIslands>): number {
  const logs = islands
    .map((island) => ({ area: island.area, density: densityOfIsland(island) }))
    .filter(({ density }) => density > 0);
  const area = logs.reduce((sum, each) => sum + each.area, 0);
  return area > 0
    ? Math.exp(
        logs.reduce(
          (sum, each) => sum + each.area * Math.log(each.density),
          0,
        ) / area,
      )
    : 0;
}

function sizeOf({ positions }: Mesh): number {
  let most = 1e-9;
  for (const x of positions) most = Math.max(most, Math.abs(x));
  return most;
}

type Flat = Map<number, { group: number; at: [number, number] }>;

/** Where the corners of some faces lie, metres; corners of another group never join. */
function projectedPlaces(
  mesh: Mesh,
  faces: readonly number[],
  from: Projection,
  towards: Vector,
): Flat {
  const points = pointsOf(mesh, faces);
  const normals = faceNormals(mesh);
  const flat: Flat = new Map();
  const each = (
    place: (
      point: Vector,
      face: number,
      corner: number,
    ) => { group: number; at: [number, number] },
  ) => {
    for (const f of faces)
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
        const v = 3 * mesh.corners[c];
        const p = mesh.positions;
        flat.set(c, place([p[v], p[v + 1], p[v + 2]], f, c));
      }
  };
  if (from === "cylinder" || from === "sphere") {
    round(mesh, faces, points, from, each);
    return flat;
  }
  if (from === "box") {
    each((p, f) => {
      const n = [0, 1, 2].map((k) => normals[3 * f + k]);
      const axis = [0, 1, 2].reduce(
        (best, k) => (Math.abs(n[k]) > Math.abs(n[best]) + 1e-6 ? k : best),
        0,
      );
      const sign = n[axis] < 0 ? -1 : 1;
      const [u, v] = axesFor(axis, sign);
      return {
        group: 2 * axis + (sign < 0 ? 1 : 0),
        at: [dot(p, u), dot(p, v)],
      };
    });
    return flat;
  }
  const normal: Vector =
    from === "x"
      ? [1, 0, 0]
      : from === "y"
        ? [0, 1, 0]
        : from === "z"
          ? [0, 0, 1]
          : from === "view" && Math.hypot(...towards) > 0
            ? towards
            : bestPlane(faces, normals, points);
  const [u, v] = frameOf(normal);
  each((p) => ({ group: 0, at: [dot(p, u), dot(p, v)] }));
  return flat;
}

const dot = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

function pointsOf(mesh: Mesh, faces: readonly number[]): Float32Array {
  const used = new Set<number>();
  for (const f of faces)
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
      used.add(mesh.corners[c]);
  return Float32Array.from(
    [...used].flatMap((v) => [...mesh.positions.subarray(3 * v, 3 * v + 3)]),
  );
}

/** Right and up on the sheet for the side of a box. */
function axesFor(axis: number, sign: number): [Vector, Vector] {
  if (axis === 0)
    return [
      [0, 0, -sign],
      [0, 1, 0],
    ];
  if (axis === 1)
    return [
      [1, 0, 0],
      [0, 0, -sign],
    ];
  return [
    [sign, 0, 0],
    [0, 1, 0],
  ];
}

/** Two unit vectors across a direction, the second as far up as it goes. */
function frameOf(normal: Vector): [Vector, Vector] {
  const size = Math.hypot(...normal) || 1;
  const n = normal.map((x) => x / size);
  const up = Math.abs(n[1]) > 0.999 ? [0, 0, -Math.sign(n[1])] : [0, 1, 0];
  const along = dot(up, n);
  const v = [0, 1, 2].map((k) => up[k] - along * n[k]);
  const long = Math.hypot(...v) || 1;
  const y: Vector = [v[0] / long, v[1] / long, v[2] / long];
  return [
    [
      y[1] * n[2] - y[2] * n[1],
      y[2] * n[0] - y[0] * n[2],
      y[0] * n[1] - y[1] * n[0],
    ],
    y,
  ];
}

/** The mean normal, or the flattest direction of the points where normals cancel out. */
function bestPlane(
  faces: readonly number[],
  normals: Float32Array,
  points: Float32Array,
): Vector {
  const sum: [number, number, number] = [0, 0, 0];
  for (const f of faces)
    for (let k = 0; k < 3; k++) sum[k] += normals[3 * f + k];
  if (Math.hypot(...sum) > 0.2 * faces.length) return sum;
  const [, , [x, y, z]] = principalAxes(points);
  return [x, y, z];
}

/** Round the upright axis through the middle: angles as lengths on the mean radius, parted where they jump. */
function round(
  mesh: Mesh,
  faces: readonly number[],
  points: Float32Array,
  from: "cylinder" | "sphere",
  each: (
    place: (
      point: Vector,
      face: number,
      corner: number,
    ) => { group: number; at: [number, number] },
  ) => void,
): void {
  const count = points.length / 3;
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i++) {
    low[i % 3] = Math.min(low[i % 3], points[i]);
    high[i % 3] = Math.max(high[i % 3], points[i]);
  }
  const middle = [0, 1, 2].map((k) => (low[k] + high[k]) / 2);
  let radius = 0;
  for (let i = 0; i < points.length; i += 3) {
    const [x, y, z] = [0, 1, 2].map((k) => points[i + k] - middle[k]);
    radius +=
      (from === "cylinder" ? Math.hypot(x, z) : Math.hypot(x, y, z)) / count;
  }
  const turnOf = new Map<number, number>();
  for (const f of faces) {
    let sx = 0;
    let sz = 0;
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      const v = 3 * mesh.corners[c];
      sx += mesh.positions[v] - middle[0];
      sz += mesh.positions[v + 2] - middle[2];
    }
    turnOf.set(f, Math.atan2(sx, sz));
  }
  each((p, f) => {
    const [x, y, z] = [0, 1, 2].map((k) => p[k] - middle[k]);
    // A corner on the axis has no angle of its own: it takes that of its face.
    let angle =
      Math.hypot(x, z) < 1e-6 * radius ? turnOf.get(f)! : Math.atan2(x, z);
    const own = turnOf.get(f)!;
    if (angle - own > Math.PI) angle -= 2 * Math.PI;
    if (own - angle > Math.PI) angle += 2 * Math.PI;
    const up =
      from === "cylinder" ? y : radius * Math.atan2(y, Math.hypot(x, z));
    return { group: 0, at: [radius * angle, up] };
  });
}
