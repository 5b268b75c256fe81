import { generateTangents } from "mikktspace";
import { streamsOf } from "../core/asset/document"; import { fromDocument } from "../core/asset/read-document";
import { cornerNormals } from "../core/mesh/normals";
import { tangentsOf } from "../core/mesh/tangents";
import { triangulate } from "../core/mesh/triangulate";
import { findOperation, KERNELS } from "../core/operations";
import { runOperation } from "../core/route";
import { bakeRows } from "../core/bake/methods/rows"; import { prepareScene } from "../core/bake/methods/scene"; import { withoutGrain } from "../core/bake/methods/grain";
import { plainContext } from "../core/base/context";
const base = "http://127.0.0.1:3460/api";
const [what, ...ids] = process.argv.slice(2);
async function load(id: string) {
  const a = await (await fetch(`${base}/assets/${id}`)).json();
  const blobs = new Map<string, Uint8Array>();
  for (const ref of streamsOf(a.document)) blobs.set(ref.hash, new Uint8Array(await (await fetch(`${base}/streams/${ref.hash}`)).arrayBuffer()));
  return { name: a.name, asset: fromDocument(a.document, (hash: string) => blobs.get(hash)!) };
}
const all = []; for (const id of ids) all.push(await load(id));
for (const { asset } of all) {

  if (what === "tangents") {
    let worst = 0, signs = 0, n = 0, over = 0;
    for (const part of asset.parts) {
      const m = part.game; if (!m?.uvs) continue;
      const split = triangulate(m);
      const normals = m.normals ?? cornerNormals(m);
      const ours = tangentsOf(m, normals, split);
      const spread = (from: Float32Array, index: Uint32Array, w: number) => { const o = new Float32Array(w * index.length); index.forEach((i, j) => { for (let k = 0; k < w; k++) o[w * j + k] = from[w * i + k]; }); return o; };
      const theirs = generateTangents(spread(m.positions, split.vertices, 3), spread(normals, split.corners, 3), spread(m.uvs, split.corners, 2));
      for (let i = 0; i < ours.length; i += 4) { n++; if (Math.sign(ours[i + 3]) !== Math.sign(theirs[i + 3])) signs++; const d = Math.max(...[0, 1, 2].map((k) => Math.abs(ours[i + k] - theirs[i + k]))); worst = Math.max(worst, d); if (d > 1e-4) over++; }
    }
    console.log(asset.name, "worst", worst, "signs", signs, "over 1e-4:", over, "of", n);
  }
  if (what === "ao") {
    const size = 2048;
    const opts = { width: size, height: size, grid: 1, distance: 0, channels: ["normal", "sky"] as any };
    const few = prepareScene(asset, { ...opts, rays: 64 }), many = prepareScene(asset, { ...opts, rays: 4096 });
    const sums: Record<string, number> = {}; let c = 0;
    for (const from of [400, 1300]) {
      const row = { right: 0, up: 0, from, to: from + 10, wanted: null };
      const a = bakeRows(few, row), b = bakeRows(many, row);
      const ways: Record<string, Float32Array> = { raw: a.values.sky!, old: withoutGrain(a.values.sky!, a.values.normal!, a.covered, size, 10) };
      for (const k of [1.5, 2.5, 4]) ways["range" + k] = (withoutGrain as any)(a.values.sky!, a.values.normal!, a.covered, size, 10, (k * 0.128) / 8);
      for (let i = 2 * size; i < 8 * size; i++) if (b.covered[i]) { c++; for (const w in ways) sums[w] = (sums[w] ?? 0) + (ways[w][i] - b.values.sky![i]) ** 2; }
    }
    console.log(asset.name, c, JSON.stringify(Object.fromEntries(Object.entries(sums).map(([k, v]) => [k, +Math.sqrt(v / c).toFixed(4)]))));
  }
  if (what === "mirror") {
    const baked = (await runOperation(findOperation("bake/maps"), { ...asset, maps: [], results: {} }, { ao: false, samples: 4, size: 1024 }, plainContext(KERNELS))).asset;
    console.log(asset.name);
    for (const p of baked.results.bake!.report.counts as any[]) console.log("  ", p.part, p.angle.toFixed(3), p.angle95.toFixed(2));
  }
}
