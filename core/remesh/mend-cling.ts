import { linksOf } from "./cling-troubles";
import type { Mesh } from "../mesh/mesh";
import type { ClingOptions } from "./cling-troubles";
import { ClingTarget, cling } from "./cling";

/**
 * Points that landed wrong brought back between their neighbours: there they stay (`hold`), or look for the surface
 * again, no farther than a reach (`limit`), or along their normals (`normals`).
 * @param marks vertexCount: the points to mend
 */
export function mendCling(
  mesh: Mesh,
  target: ClingTarget,
  marks: Uint8Array,
  how: "hold" | "limit" | "normals",
  options: Pick<ClingOptions, "offset" | "reach">,
): Mesh {
  const links = linksOf(mesh);
  const positions = mesh.positions.slice();
  // A membrane over the marked points, the others held.
  for (let sweep = 0; sweep < 200; sweep++)
    for (let v = 0; v < marks.length; v++) {
      const [from, to] = [links.starts[v], links.starts[v + 1]];
      if (!marks[v] || from === to) continue;
      for (let k = 0; k < 3; k++) {
        let sum = 0;
        for (let i = from; i < to; i++) sum += positions[3 * links.ends[i] + k];
        positions[3 * v + k] = sum / (to - from);
      }
    }
  const between = { ...mesh, positions, normals: null };
  if (how === "hold") return between;
  const held = marks.map((mark) => 1 - mark);
  return cling(between, target, {
    way: how === "normals" ? "normals" : "nearest",
    offset: options.offset,
    reach: options.reach,
    relax: 0,
    held,
  }).mesh;
}
