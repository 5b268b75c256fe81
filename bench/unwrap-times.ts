import { reduceTogether } from "../core/decimate/reduce-together";
import { carrySeams } from "../core/mesh/carry-seams";
import { buildEdges } from "../core/mesh/edges";
import type { Mesh } from "../core/mesh/mesh";
import { faceOfCorners } from "../core/mesh/mesh";
import { VertexGrid } from "../core/mesh/vertex-grid";
import { plainContext } from "../core/base/context";
import { islandsOf } from "../core/unwrap/methods/connected-islands";
import { unfoldSeams } from "../core/unwrap/methods/unfold-seams";
import { layOut, spreadOut } from "../core/unwrap/methods/unwrap-parts";
import { limbedBody, organic } from "./bodies";
import type { Tell } from "./tell";

export function benchTimes(tell: Tell): void {
  const body = limbedBody(20_000);
  const timed = (work: () => unknown) => {
    const start = performance.now();
    work();
    return (performance.now() - start) / 1000;
  };
  let laid: Mesh = body;
  tell(
    "seams, s",
    "limbed body 20 000",
    timed(() => {
      const islands = layOut([body], {}, plainContext());
      const uvs = new Float32Array(2 * body.corners.length);
      for (const { chart, flat } of islands)
        chart.corners.forEach((c, k) => {
          uvs[2 * c] = flat.uv[2 * chart.vertexOfCorner[k]];
          uvs[2 * c + 1] = flat.uv[2 * chart.vertexOfCorner[k] + 1];
        });
      laid = { ...body, uvs };
    }),
    "≤ 5",
  );
  const seams = layOut([limbedBody()], {}, plainContext());
  const light = limbedBody();
  const marks = new Uint8Array(light.corners.length);
  const label = new Int32Array(light.faceStarts.length - 1);
  seams.forEach(({ chart }, i) => chart.faces.forEach((f) => (label[f] = i)));
  const edges = buildEdges(light);
  const face = faceOfCorners(light);
  for (let e = 0; e < edges.count; e++)
    if (
      edges.second[e] >= 0 &&
      label[face[edges.first[e]]] !== label[face[edges.second[e]]]
    )
      marks[edges.first[e]] = marks[edges.second[e]] = 1;
  const carried = carrySeams(light, marks, laid);
  const sheet = { width: 2048, height: 2048 };
  tell(
    "unfold, s",
    "limbed body 20 000",
    timed(() => unfoldSeams({ ...body, seams: carried }, sheet)),
    "≤ 2",
  );
  tell(
    "live unfold of all, s",
    "limbed body 5 000",
    timed(() => unfoldSeams({ ...light, seams: marks }, sheet, { rounds: 6 })),
    "≤ 0.2",
  );
}

/** Seams of 20 000 triangles on 5 000, on ten generated bodies. */
export function benchCarry(tell: Tell): void {
  let same = 0;
  let off = 0;
  for (let seed = 11; seed < 21; seed++) {
    const dense = organic(seed, 20_000);
    const light = reduceTogether([dense], 5000, plainContext())[0]!;
    const coarse = reduceTogether([dense], 3000, plainContext(), {
      exchange: false,
    })[0]!;
    // Seams are found on a third mesh and drawn on the dense one, which takes less time than finding them there.
    const found = markedSeams(coarse);
    const on = carrySeams(coarse, found, dense);
    const carried = carrySeams(dense, on, light);
    off = Math.max(off, meanOff(dense, on, light, carried));
    const islands = (mesh: Mesh, seams: Uint8Array) =>
      islandsOf(
        unfoldSeams({ ...mesh, seams }, { width: 1, height: 1 }, { rounds: 0 })
          .mesh,
      ).count;
    if (islands(dense, on) === islands(light, carried)) same++;
  }
  tell(
    "carried seams, mean distance in edges, worst",
    "10 bodies, 20 000 to 5 000",
    off,
    "≤ 1",
  );
  tell(
    "bodies with the same islands",
    "10 bodies, 20 000 to 5 000",
    same,
    "≥ 9",
  );
}

function markedSeams(mesh: Mesh): Uint8Array {
  const islands = layOut([mesh], { hide: 0, symmetric: false }, plainContext());
  return spreadOut([mesh], islands)[0].seams!;
}

/** How far carried seams lie from those they come from, in mean edge lengths. */
function meanOff(
  from: Mesh,
  seams: Uint8Array,
  to: Mesh,
  carried: Uint8Array,
): number {
  const points: number[] = [];
  from.corners.forEach((v, c) => {
    if (seams[c]) points.push(...from.positions.subarray(3 * v, 3 * v + 3));
  });
  const grid = new VertexGrid(Float32Array.from(points));
  const edges = buildEdges(to);
  const p = to.positions;
  let sum = 0;
  let count = 0;
  let length = 0;
  for (let e = 0; e < edges.count; e++) {
    const [a, b] = [3 * edges.vertices[2 * e], 3 * edges.vertices[2 * e + 1]];
    length +=
      Math.hypot(p[a] - p[b], p[a + 1] - p[b + 1], p[a + 2] - p[b + 2]) /
      edges.count;
    if (!carried[edges.first[e]]) continue;
    const v = 3 * grid.nearest(p[a], p[a + 1], p[a + 2]);
    sum += Math.hypot(...[0, 1, 2].map((k) => points[v + k] - p[a + k]));
    count++;
  }
  return count ? sum / count / length : Infinity;
}
