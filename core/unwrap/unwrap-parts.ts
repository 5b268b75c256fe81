import type { Mesh } from "../mesh/mesh";
import { buildEdges } from "../mesh/edges";
import { nextCorners } from "../mesh/normals";
import type { Context } from "../operation";
import { prepareUnwrap } from "./chart";
import { exposureOf, exposureRanks } from "./seams/exposure";
import type { LaidIsland } from "./islands";
import { findIslands, trianglesOf } from "./islands";
import type { PackOptions } from "./pack";
import { packIslands } from "./pack";

export interface IslandOfMesh extends LaidIsland {
  /** Which of the meshes it belongs to. */
  mesh: number;
}

/** Finds the islands of several meshes that will share a sheet. */
export function layOut(
  meshes: readonly Mesh[],
  allowed: { stretch: number; spread: number },
  context: Context,
): IslandOfMesh[] {
  const bare = meshes.map((mesh) => prepareUnwrap(mesh));
  const ranks = exposureRanks(
    exposureOf(meshes, "standing", () => context.check()),
    bare.map(({ areas }) => areas),
  );
  const prepared = meshes.map((mesh, i) =>
    prepareUnwrap(mesh, null, { ranks: ranks[i], hide: 1 }),
  );
  const area = prepared.reduce(
    (sum, m) => sum + m.areas.reduce((a, b) => a + b, 0),
    0,
  );
  const faces = prepared.reduce((sum, m) => sum + m.areas.length, 0);
  let laid = 0;
  return prepared.flatMap((m, mesh) =>
    findIslands(
      m,
      {
        ...allowed,
        length: 0.75 * Math.sqrt(area),
        bulk: 0.42,
        large: 0.01 * area,
      },
      (count) => {
        laid += count;
        context.check();
        context.progress(laid / faces, "laying islands flat");
      },
    ).map((island) => ({ ...island, mesh })),
  );
}

/** Packs islands on one sheet and writes UVs and seams into copies of the meshes. */
export function packOnSheet(
  meshes: readonly Mesh[],
  islands: readonly IslandOfMesh[],
  options: PackOptions,
  check: () => void,
): { meshes: Mesh[]; texelsPerMetre: number } {
  const items = islands.map(({ chart, flat }) => ({
    triangles: trianglesOf(chart, flat),
  }));
  const { placements, texelsPerMetre } = packIslands(items, options, check);
  const uvs = meshes.map((mesh) => new Float32Array(2 * mesh.corners.length));
  islands.forEach(({ chart, flat, mesh }, i) => {
    const { angle, x, y } = placements[i];
    const cos = texelsPerMetre * Math.cos(angle);
    const sin = texelsPerMetre * Math.sin(angle);
    chart.corners.forEach((corner, k) => {
      const v = chart.vertexOfCorner[k];
      const u = flat.uv[2 * v];
      const w = flat.uv[2 * v + 1];
      uvs[mesh][2 * corner] = (x + cos * u - sin * w) / options.size;
      uvs[mesh][2 * corner + 1] = (y + sin * u + cos * w) / options.size;
    });
  });
  return {
    texelsPerMetre,
    meshes: meshes.map((mesh, m) => ({
      ...mesh,
      uvs: uvs[m],
      seams: seamsFromUvs(mesh, uvs[m]),
    })),
  };
}

/** Marks the edges at which UVs part, from both sides. Open borders are no seams. */
export function seamsFromUvs(mesh: Mesh, uvs: Float32Array): Uint8Array {
  const edges = buildEdges(mesh);
  const next = nextCorners(mesh.faceStarts, mesh.corners.length);
  const seams = new Uint8Array(mesh.corners.length);
  const differ = (a: number, b: number) =>
    uvs[2 * a] !== uvs[2 * b] || uvs[2 * a + 1] !== uvs[2 * b + 1];
  for (let e = 0; e < edges.count; e++) {
    const c = edges.first[e];
    const d = edges.second[e];
    if (d < 0) continue;
    const straight = mesh.corners[c] === mesh.corners[d];
    if (
      differ(c, straight ? d : next[d]) ||
      differ(next[c], straight ? next[d] : d)
    )
      seams[c] = seams[d] = 1;
  }
  return seams;
}
