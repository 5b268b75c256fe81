import { MeshoptSimplifier } from "meshoptimizer";
import { recordTogether } from "./core/asset/reduce-meshes";
import { dealOut, seek } from "./core/mesh/collapse-record";
import { gatherSoup } from "./core/mesh/soup";
import { plainContext } from "./core/operation";
import { buildBvh } from "./core/space/bvh";
import { ClosestPoint } from "./core/space/closest-point";
import { sampleSurface } from "./core/space/sample";
import { DEMO_ASSETS } from "./demo/index";
await MeshoptSimplifier.ready;
const name = process.argv[2];
const made = DEMO_ASSETS[name as keyof typeof DEMO_ASSETS]();
const meshes = made.parts.map((p) => p.source!);
const soup = gatherSoup(meshes);
const pos = new Float32Array(soup.positions);
const budget = Number(process.argv[3]);
const [idx] = MeshoptSimplifier.simplify(soup.triangles, pos, 3, 3 * budget, 1e9, []);
const context = plainContext();
const reduction = recordTogether(meshes, budget, {}, context);
const raw = seek(reduction.record, dealOut(reduction.record, { budget }).taken);
const ownerOfV = new Uint16Array(pos.length / 3);
soup.triangles.forEach((v, i) => (ownerOfV[v] = soup.owner[Math.floor(i / 3)]));
const N = 60000;
function report(label: string, positions: Float32Array, tris: Uint32Array, owner: (t: number) => number) {
  const s = sampleSurface(pos, soup.triangles, N, 7);
  const cp = new ClosestPoint(buildBvh(positions, tris));
  const sum = meshes.map(() => 0), max = meshes.map(() => 0), back = meshes.map(() => 0), bmax = meshes.map(() => 0), count = meshes.map(() => 0);
  for (let i = 0; i < N; i++) { cp.find(s.points[3*i], s.points[3*i+1], s.points[3*i+2]); const o = soup.owner[s.triangles[i]]; sum[o] += cp.distance2; max[o] = Math.max(max[o], cp.distance2); }
  const b = sampleSurface(positions, tris, N, 7);
  const cq = new ClosestPoint(buildBvh(pos, soup.triangles));
  for (let i = 0; i < N; i++) { cq.find(b.points[3*i], b.points[3*i+1], b.points[3*i+2]); const o = owner(b.triangles[i]); back[o] += cq.distance2; bmax[o] = Math.max(bmax[o], cq.distance2); }
  for (let t = 0; t < tris.length / 3; t++) count[owner(t)]++;
  console.log(label, "total", (1e6 * (sum.reduce((a, b) => a + b) + back.reduce((a, b) => a + b)) / 2 / N).toFixed(3));
  meshes.forEach((_, m) => console.log("  ", made.parts[m].name.padEnd(14), count[m], "there", (1e6 * sum[m] / N).toFixed(3), "back", (1e6 * back[m] / N).toFixed(3), "max", (1000 * Math.sqrt(max[m])).toFixed(1), (1000 * Math.sqrt(bmax[m])).toFixed(1)));
}
report("ref", pos, idx, (t) => ownerOfV[idx[3 * t]]);
report("raw", new Float32Array(raw.positions), raw.triangles, (t) => raw.owner[t]);
