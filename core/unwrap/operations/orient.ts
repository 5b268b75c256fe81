import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { defineOperation, field } from "../../asset/operation";
import { chosenIslands, movedResult } from "../methods/change-islands";
import { IslandOptions } from "../methods/island-options";
import type { Sheet } from "../methods/sheet";
import type { SheetIsland, SheetMove } from "../methods/sheet-islands";
import { turnAbout } from "../methods/sheet-islands";

class OrientOptions extends IslandOptions {
  @field({
    kind: "choice",
    label: "Turn by",
    help: "What comes to lie upright on the sheet.",
    choices: [
      { value: "up", label: "the model's up" },
      { value: "edge", label: "its straightest edge" },
    ],
  })
  by: "up" | "edge" = "up";
}

export const orientIslands = defineOperation({
  id: "unwrap/orient",
  stage: "unwrap",
  title: "Orient islands",
  about:
    "Turns islands so that the model's up is up on the sheet, or so that their straightest edge lies along it.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: OrientOptions,
  run(asset, options) {
    const found = chosenIslands(asset, options);
    const moves: (SheetMove | null)[] = found.islands.map(() => null);
    for (const i of found.chosen) {
      const island = found.islands[i];
      if (island.copy) continue;
      const mesh = found.meshes[island.mesh];
      const angle =
        options.by === "up"
          ? turnToUp(mesh, island, found.sheet)
          : turnToEdge(mesh, island, found.sheet);
      if (angle !== null) moves[i] = turnAbout(island.middle, angle);
    }
    return movedResult(asset, found, moves, { by: options.by });
  },
});

/** How far an island has to turn for the model's up to be up, or null where it lies level. */
export function turnToUp(
  mesh: Mesh,
  { faces }: SheetIsland,
  { width, height }: Pick<Sheet, "width" | "height">,
): number | null {
  const own = new Set(faces);
  const split = triangulate(mesh);
  const p = mesh.positions;
  let x = 0;
  let y = 0;
  let all = 0;
  for (let t = 0; t < split.faces.length; t++) {
    if (!own.has(split.faces[t])) continue;
    const [a, b, c] = [0, 1, 2].map((k) => 3 * split.vertices[3 * t + k]);
    const [i, j, k] = [0, 1, 2].map((n) => 2 * split.corners[3 * t + n]);
    // The gradient of height over the sheet, by the triangle's area there.
    const ux = (mesh.uvs![j] - mesh.uvs![i]) * width;
    const uy = (mesh.uvs![j + 1] - mesh.uvs![i + 1]) * height;
    const vx = (mesh.uvs![k] - mesh.uvs![i]) * width;
    const vy = (mesh.uvs![k + 1] - mesh.uvs![i + 1]) * height;
    const det = ux * vy - uy * vx;
    const h1 = p[b + 1] - p[a + 1];
    const h2 = p[c + 1] - p[a + 1];
    const sign = Math.sign(det);
    x += sign * (h1 * vy - h2 * uy);
    y += sign * (h2 * ux - h1 * vx);
    all += Math.abs(h1 * vy - h2 * uy) + Math.abs(h2 * ux - h1 * vx);
  }
  return Math.hypot(x, y) > 0.05 * all && all > 0
    ? Math.PI / 2 - Math.atan2(y, x)
    : null;
}

/** Least turn that lays the direction in which an island's border is longest along the sheet. */
export function turnToEdge(
  mesh: Mesh,
  { corners, faces }: SheetIsland,
  { width, height }: Pick<Sheet, "width" | "height">,
): number | null {
  const inside = new Map<string, number>();
  const at = (c: number) => [
    mesh.uvs![2 * c] * width,
    mesh.uvs![2 * c + 1] * height,
  ];
  const next = new Map<number, number>();
  for (const f of faces)
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
      next.set(c, c + 1 < mesh.faceStarts[f + 1] ? c + 1 : mesh.faceStarts[f]);
  const key = (a: number[], b: number[]) =>
    [a.join(" "), b.join(" ")].sort().join("|");
  for (const c of corners) {
    const name = key(at(c), at(next.get(c)!));
    inside.set(name, (inside.get(name) ?? 0) + 1);
  }
  // Directions a right angle apart count together: four times the angle is the same for them.
  let x = 0;
  let y = 0;
  let all = 0;
  for (const c of corners) {
    const [a, b] = [at(c), at(next.get(c)!)];
    if (inside.get(key(a, b)) !== 1) continue;
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
    const angle = 4 * Math.atan2(b[1] - a[1], b[0] - a[0]);
    x += length * length * Math.cos(angle);
    y += length * length * Math.sin(angle);
    all += length * length;
  }
  return Math.hypot(x, y) > 1e-6 * all && all > 0
    ? -Math.atan2(y, x) / 4
    : null;
}
