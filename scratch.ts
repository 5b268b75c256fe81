import { MeshoptSimplifier } from "meshoptimizer";
import { finishDeal, recordTogether } from "./core/asset/reduce-meshes";
import { dealOut, seek } from "./core/mesh/collapse-record";
import { gatherSoup } from "./core/mesh/soup";
import { plainContext } from "./core/operation";
import { judgeSurfaces, surfaceOf } from "./core/reduce/judge";
import { measureDeviation } from "./core/space/deviation";
import { triangleCount } from "./core/mesh/mesh";
import { DEMO_ASSETS } from "./demo/index";
await MeshoptSimplifier.ready;
const name = process.argv[2];
const meshes = DEMO_ASSETS[name as keyof typeof DEMO_ASSETS]().parts.map((p) => p.source!);
const names = DEMO_ASSETS[name as keyof typeof DEMO_ASSETS]().parts.map((p) => p.name);
const soup = gatherSoup(meshes);
const source = { positions: new Float32Array(soup.positions), triangles: soup.triangles.slice() };
console.log(name, "parts", meshes.length, "tris", source.triangles.length / 3);
for (const budget of process.argv.slice(3).map(Number)) {
  const [idx] = MeshoptSimplifier.simplify(source.triangles, source.positions, 3, 3 * budget, 1e9, []);
  const ref = measureDeviation(source, { positions: source.positions, triangles: idx });
  const context = plainContext();
  const reduction = recordTogether(meshes, idx.length / 3, {}, context);
  const out = finishDeal(reduction, { budget: idx.length / 3 }, context);
  const surf = surfaceOf(out);
  const own = measureDeviation(source, { ...surf, positions: surf.positions.map((x, i) => x - soup.centre[i % 3]) });
  const raw = seek(reduction.record, dealOut(reduction.record, { budget: idx.length / 3 }).taken);
  const rawDev = measureDeviation(source, { positions: new Float32Array(raw.positions), triangles: raw.triangles });
  const sl = (() => { const j = judgeSurfaces(source, { ...surf, positions: surf.positions.map((x, i) => x - soup.centre[i % 3]) }, "all round"); return j; })();
  console.log("slivers", (100 * sl.slivers).toFixed(2), "normals", sl.normalMean.toFixed(1), "silh", (100 * sl.silhouetteMean).toFixed(2));
  console.log(budget, "ref", idx.length / 3, ref.rms.toFixed(5), ref.max.toFixed(4), "raw", (rawDev.rms / ref.rms).toFixed(2), "own", surf.triangles.length / 3, (own.rms / ref.rms).toFixed(2), (own.max / ref.max).toFixed(2));
  if (process.env.PARTS) {
    const by: Record<string, number[]> = {};
    out.forEach((m, i) => { const k = names[i].replace(/ \d+$/, ""); (by[k] ??= []).push(m ? triangleCount(m) : 0); });
    console.log(Object.entries(by).map(([k, v]) => k + ": " + v.join(",")).join("\n"));
  }
}
