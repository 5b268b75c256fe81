import { buildEdges } from "../mesh/edges";
import { faceOfCorners, faceCount } from "../mesh/mesh";
import type { Mesh } from "../mesh/mesh";
import type { NamedMesh } from "./raw-mesh";
import { colouredVertices } from "./colours";

/** Writes parts as OBJ: one object a part, UVs and normals where they are, materials by name. */
export function writeObj(
  parts: readonly NamedMesh[],
  library?: string,
): Uint8Array {
  const lines: string[] = ["# Arnik"];
  if (library) lines.push(`mtllib ${library}`);
  let v = 1;
  let vt = 1;
  let vn = 1;
  for (const { name, mesh: given } of parts) {
    lines.push(`o ${name.replace(/\s+/g, "_")}`);
    const { mesh, colours } = colouredVertices(given) ?? { mesh: given };
    const { positions: p, uvs, normals: n } = mesh;
    for (let i = 0; i < p.length; i += 3) {
      const shade = colours
        ? [0, 1, 2].map((k) => ` ${short(colours[i + k] / 255)}`).join("")
        : "";
      lines.push(`v ${p[i]} ${p[i + 1]} ${p[i + 2]}${shade}`);
    }
    if (uvs)
      for (let i = 0; i < uvs.length; i += 2)
        lines.push(`vt ${uvs[i]} ${uvs[i + 1]}`);
    if (n)
      for (let i = 0; i < n.length; i += 3)
        lines.push(`vn ${short(n[i])} ${short(n[i + 1])} ${short(n[i + 2])}`);
    writeFaces(lines, mesh, v, vt, vn);
    v += p.length / 3;
    if (uvs) vt += uvs.length / 2;
    if (n) vn += n.length / 3;
  }
  return new TextEncoder().encode(`${lines.join("\n")}\n`);
}

const short = (x: number) => Number(x.toFixed(6));

function writeFaces(
  lines: string[],
  mesh: Mesh,
  v: number,
  vt: number,
  vn: number,
): void {
  let material = -1;
  const smoothing = mesh.hard && !mesh.normals ? smoothingGroups(mesh) : null;
  let group = -1;
  for (let f = 0; f < faceCount(mesh); f++) {
    const own = mesh.faceMaterials ? mesh.faceMaterials[f] : 0;
    if (own !== material) lines.push(`usemtl ${mesh.materials[own]}`);
    material = own;
    if (smoothing && smoothing[f] !== group) {
      group = smoothing[f];
      lines.push(`s ${group || "off"}`);
    }
    let line = "f";
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      line += ` ${mesh.corners[c] + v}`;
      if (mesh.uvs || mesh.normals) line += `/${mesh.uvs ? c + vt : ""}`;
      if (mesh.normals) line += `/${c + vn}`;
    }
    lines.push(line);
  }
}

/**
 * Smoothing groups that say which edges are hard: faces that hard edges part get different numbers. A hard edge
 * that parts nothing (one that runs into a face) can't be said this way.
 * @returns faceCount numbers from 1 on
 */
export function smoothingGroups(mesh: Mesh): Uint32Array {
  const edges = buildEdges(mesh);
  const face = faceOfCorners(mesh);
  const groups = new Uint32Array(faceCount(mesh));
  let count = 0;
  for (let seed = 0; seed < groups.length; seed++) {
    if (groups[seed]) continue;
    groups[seed] = ++count;
    const waiting = [seed];
    while (waiting.length) {
      const f = waiting.pop()!;
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
        const e = edges.ofCorner[c];
        if (edges.uses[e] !== 2 || mesh.hard![c]) continue;
        const d = edges.first[e] === c ? edges.second[e] : edges.first[e];
        if (groups[face[d]]) continue;
        groups[face[d]] = count;
        waiting.push(face[d]);
      }
    }
  }
  return groups;
}
