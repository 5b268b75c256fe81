import type { Tell } from "./tell";
import type { Asset } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import type { Mesh } from "../core/mesh/mesh";
import { fromRanges } from "../core/base/ranges";
import { faceCount } from "../core/mesh/mesh";
import { triangulate } from "../core/mesh/triangulate";
import type { Context } from "../core/base/context";
import { findOperation } from "../core/operations";
import { runOperation } from "../core/route";
import { boundsOf, diagonalOf } from "../core/space/bounds";
import { buildBvh } from "../core/space/bvh";
import { seededRandom } from "../core/base/random";
import { RayScene, widen } from "../core/space/ray-scene";
import { cross, unit } from "../core/space/vector";
import { MENDS, mendMesh } from "../core/survey/methods/mend";
import { surveyMesh } from "../core/survey/methods/survey-mesh";
import type { UnseenReport } from "../core/survey/operations/look-from-outside";
import { DEMO_ASSETS } from "../demo/index";
import { PLANTS, thirtyMeshes } from "../tests/planted";
import { sphere } from "../tests/shapes";
const TOLERANCE = 1e-5;
const ALL = new Set(MENDS.map(({ value }) => value));

/** What Survey finds, mends and lists, against what was planted and what can be seen. */
export async function benchSurvey(context: Context, tell: Tell): Promise<void> {
  benchPlanted(tell);
  await benchClean(context, tell);
  await benchUnseen(context, tell);
  await benchMillion(context, tell);
}

function benchPlanted(tell: Tell): void {
  let planted = 0;
  let found = 0;
  let closed = 0;
  for (const { mesh } of thirtyMeshes())
    for (const { finds, plant } of PLANTS) {
      planted++;
      const broken = plant(mesh, seededRandom(planted));
      const { findings } = surveyMesh("part", broken, TOLERANCE, true);
      if (findings.some(({ kind }) => kind === finds)) found++;
      const { mesh: mended } = mendMesh(broken, ALL, { tolerance: TOLERANCE });
      if (surveyMesh("part", mended, TOLERANCE, false).survey.closed) closed++;
    }
  tell(
    "planted defects found, share",
    `${planted} defects`,
    found / planted,
    "1",
  );
  tell(
    "mended meshes that are closed, share",
    `${planted} meshes`,
    closed / planted,
    "1",
  );
}

async function benchClean(context: Context, tell: Tell): Promise<void> {
  for (const [name, make] of Object.entries(DEMO_ASSETS)) {
    const { report } = await survey(make(), context);
    tell("false alarms", name, Number(report.defects), "0");
  }
}

const survey = (asset: Asset, context: Context, options: object = {}) =>
  runOperation(findOperation("survey/count"), asset, options, context);

const VIEWS = 10_000;
const WIDE = 40;
const HIGH = 30;

/** Looks at the lamp from everywhere and counts the views in which a listed face shows. */
async function benchUnseen(context: Context, tell: Tell): Promise<void> {
  const asset = DEMO_ASSETS["storm-lamp"]();
  const start = performance.now();
  const result = await runOperation(
    findOperation("survey/unseen"),
    asset,
    { transparent: "glass" },
    context,
  );
  const seconds = (performance.now() - start) / 1000;
  const report = result.report as unknown as UnseenReport;
  const listed = new Map(report.parts.map((part) => [part.part, part.faces]));
  const checker = new ViewChecker(asset, listed);
  const random = seededRandom(99);
  let wrong = 0;
  for (let view = 0; view < VIEWS; view++) if (checker.shows(random)) wrong++;
  tell(
    "unseen: views that show a listed face",
    `storm-lamp, ${VIEWS} views`,
    wrong,
    "0",
  );
  tell("unseen: triangles listed", "storm-lamp", report.triangles, "");
  tell("unseen: seconds", "storm-lamp", seconds, "");
}

/** Renders small pictures by rays and looks for faces that are said to be unseen. */
class ViewChecker {
  private readonly scene: RayScene;
  private readonly listed: Uint8Array[] = [];
  private readonly middle: number[];
  private readonly size: number;

  constructor(asset: Asset, ranges: ReadonlyMap<string, string>) {
    const opaque: { mesh: Mesh; marks: Uint8Array }[] = [];
    const clear: typeof opaque = [];
    for (const part of asset.parts) {
      const mesh = part.source!;
      const marks = fromRanges(ranges.get(part.name) ?? "", faceCount(mesh));
      (mesh.materials.includes("glass") ? clear : opaque).push({ mesh, marks });
    }
    this.scene = new RayScene([opaque, clear].map((list) => this.tree(list)));
    const bounds = boundsOf(
      ...asset.parts.map((part) => part.source!.positions),
    );
    this.middle = bounds.min.map((low, k) => (low + bounds.max[k]) / 2);
    this.size = diagonalOf(bounds);
  }

  private tree(list: { mesh: Mesh; marks: Uint8Array }[]) {
    const points: number[] = [];
    const marks: number[] = [];
    for (const { mesh, marks: own } of list) {
      const { vertices, faces } = triangulate(mesh);
      for (const v of vertices)
        points.push(...mesh.positions.subarray(3 * v, 3 * v + 3));
      for (const f of faces) marks.push(own[f]);
    }
    this.listed.push(Uint8Array.from(marks));
    const indices = Uint32Array.from(
      { length: points.length / 3 },
      (_, i) => i,
    );
    return widen(buildBvh(new Float32Array(points), indices));
  }

  /** Whether a listed face shows from a random place round about. */
  shows(random: () => number): boolean {
    const z = 2 * random() - 1;
    const turn = 2 * Math.PI * random();
    const flat = Math.sqrt(1 - z * z);
    const out = [flat * Math.cos(turn), z, flat * Math.sin(turn)];
    const distance = this.size * (0.55 + 2 * random());
    const eye = this.middle.map((m, k) => m + distance * out[k]);
    const forward = out.map((x) => -x);
    const side = unit(cross(forward, [0.01, 1, 0.02]));
    const up = cross(side, forward);
    const reach = (0.55 * this.size) / distance;
    const shift = [random(), random()];
    for (let y = 0; y < HIGH; y++)
      for (let x = 0; x < WIDE; x++) {
        const sx = reach * ((2 * (x + shift[0])) / WIDE - 1) * (WIDE / HIGH);
        const sy = reach * ((2 * (y + shift[1])) / HIGH - 1);
        const d = [0, 1, 2].map((k) => forward[k] + sx * side[k] + sy * up[k]);
        if (this.hitsListed(eye, d) && this.confirmed(eye, d)) return true;
      }
    return false;
  }

  /**
   * A single ray can slip between two triangles that meet, where a picture has no gap: what shows must show a
   * millionth to some side too.
   */
  private confirmed(eye: readonly number[], d: readonly number[]): boolean {
    let shown = 0;
    for (const [x, y] of [
      [1, 0.3],
      [-1, -0.3],
      [0.3, -1],
      [-0.3, 1],
    ])
      if (
        this.hitsListed(eye, [
          d[0] + 1e-6 * x,
          d[1] + 1e-6 * y,
          d[2] - 1e-6 * x,
        ])
      )
        shown++;
    return shown > 1;
  }

  private hitsListed(eye: readonly number[], d: readonly number[]): boolean {
    const far = 100 * this.size;
    const cast = (tree: number, near: number, to: number) =>
      this.scene.first(
        tree,
        eye[0],
        eye[1],
        eye[2],
        d[0],
        d[1],
        d[2],
        near,
        to,
      );
    const hit = cast(0, 0, far);
    const wall = hit < 0 ? far : this.scene.distance;
    if (hit >= 0 && this.listed[0][hit]) return true;
    for (let near = 0; ;) {
      const pane = cast(1, near, wall);
      if (pane < 0) return false;
      if (this.listed[1][pane]) return true;
      near = this.scene.distance * (1 + 1e-6) + 1e-7;
    }
  }
}

async function benchMillion(context: Context, tell: Tell): Promise<void> {
  const mesh = sphere(
    708,
    708,
    1,
    (a, t) => 0.01 * Math.sin(20 * a) * Math.cos(t),
  );
  const asset = createAsset("million", [
    createPart("ball", 0, { source: mesh }),
  ]);
  let best = Infinity;
  for (let round = 0; round < 3; round++) {
    const start = performance.now();
    await survey(asset, context, { crossings: false });
    best = Math.min(best, (performance.now() - start) / 1000);
  }
  tell("survey without crossings, seconds", "1 001 112 triangles", best, "≤ 3");
}
