import { recordTogether } from "./core/asset/reduce-meshes";
import { dealOut, seek } from "./core/mesh/collapse-record";
import { plainContext } from "./core/operation";
import { DEMO_ASSETS } from "./demo/index";
import { scatterSoup } from "./core/mesh/soup";
import { faceComponents } from "./core/mesh/components";
import { triangulate } from "./core/mesh/triangulate";
const made = DEMO_ASSETS["fish-crate"]();
const meshes = made.parts.map((p) => p.source!);
const context = plainContext();
const budget = Number(process.argv[2]);
const reduction = recordTogether(meshes, budget, {}, context);
const raw = seek(reduction.record, dealOut(reduction.record, { budget }).taken);
const out = scatterSoup(raw, meshes.map((m) => m.materials));
const src = made.parts[2].source!;
console.log(made.parts[2].name, "source comps", faceComponents(src).count);
const m = out[2]!;
const comps = faceComponents(m);
for (let c = 0; c < Math.min(comps.count, 2); c++) {
  const vs = new Set<number>(); let n = 0;
  const split = triangulate(m);
  split.faces.forEach((f, t) => { if (comps.ofFace[f] === c) { n++; for (let k = 0; k < 3; k++) vs.add(split.vertices[3*t+k]); } });
  console.log("comp", c, "tris", n, "verts", vs.size);
  for (const v of vs) console.log("   ", [0,1,2].map((k) => (1000*m.positions[3*v+k]).toFixed(0).padStart(6)).join(" "));
}
const sc = faceComponents(src);
for (let c = 0; c < Math.min(sc.count, 2); c++) {
  const lo = [9,9,9], hi = [-9,-9,-9];
  for (let f = 0; f < sc.ofFace.length; f++) if (sc.ofFace[f] === c) for (let k = src.faceStarts[f]; k < src.faceStarts[f+1]; k++) for (let a = 0; a < 3; a++) { const x = src.positions[3*src.corners[k]+a]; lo[a] = Math.min(lo[a], x); hi[a] = Math.max(hi[a], x); }
  console.log("src comp", c, lo.map((x) => (1000*x).toFixed(0)), hi.map((x) => (1000*x).toFixed(0)));
}
