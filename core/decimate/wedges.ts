import type { Mesh } from "../mesh/mesh";

/** Inner product of two vectors of any length. */
export const inner = (a: readonly number[], b: readonly number[]) =>
  a.reduce((sum, x, k) => sum + x * b[k], 0);

/** A vector of any length made as long as one. */
export function unit(a: readonly number[]): number[] {
  const size = Math.sqrt(inner(a, a));
  return a.map((x) => (size > 0 ? x / size : 0));
}

/** Area of a triangle in space, of its first three coordinates. */
export function uvTriangleArea([a, b, c]: readonly number[][]): number {
  const u = [0, 1, 2].map((k) => b[k] - a[k]);
  const v = [0, 1, 2].map((k) => c[k] - a[k]);
  return (
    Math.hypot(
      u[1] * v[2] - u[2] * v[1],
      u[2] * v[0] - u[0] * v[2],
      u[0] * v[1] - u[1] * v[0],
    ) / 2
  );
}

/** Metres that one step across the sheet stands for, so that drift counts like distance. */
export function scaleOf(
  mesh: Mesh,
  vertices: Uint32Array,
  corners: Uint32Array,
): number {
  if (!mesh.uvs) return 0;
  let space = 0;
  let sheet = 0;
  for (let i = 0; i < vertices.length; i += 3) {
    space += uvTriangleArea(
      [0, 1, 2].map((k) =>
        [0, 1, 2].map((j) => mesh.positions[3 * vertices[i + k] + j]),
      ),
    );
    sheet += uvTriangleArea(
      [0, 1, 2].map((k) => [
        mesh.uvs![2 * corners[i + k]],
        mesh.uvs![2 * corners[i + k] + 1],
        0,
      ]),
    );
  }
  return sheet > 0 ? Math.sqrt(space / sheet) : 0;
}

/**
 * Numbers the corners that share vertex and UV, and gives the UVs of each.
 * @param vertices, corners 3 × triangleCount
 */
export function nameWedges(
  mesh: Mesh,
  vertices: Uint32Array,
  corners: Uint32Array,
) {
  const names = new Map<string, number>();
  const wedges = new Uint32Array(corners.length);
  const uvs: number[] = [];
  for (let i = 0; i < corners.length; i++) {
    const u = mesh.uvs ? mesh.uvs[2 * corners[i]] : 0;
    const v = mesh.uvs ? mesh.uvs[2 * corners[i] + 1] : 0;
    const key = `${vertices[i]} ${u} ${v}`;
    let wedge = names.get(key);
    if (wedge === undefined) {
      wedge = uvs.length / 2;
      names.set(key, wedge);
      uvs.push(u, v);
    }
    wedges[i] = wedge;
  }
  return { wedges, uvs: Float64Array.from(uvs) };
}
