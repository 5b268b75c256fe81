import type { Mesh } from "./mesh";
import { faceCount, vertexCount } from "./mesh";
import { compactVertices, withFaces } from "./change-faces";

/**
 * For every vertex the first vertex within `tolerance` metres of it (itself where there is none).
 * Grid of cells of that size, neighbours searched; tolerance 0 joins only equal coordinates.
 * @param positions 3 × vertexCount, metres
 * @returns vertexCount: the first vertex at each place
 */
export function coincident(
  positions: Float32Array,
  tolerance: number,
): Uint32Array {
  const count = positions.length / 3;
  const target = new Uint32Array(count).map((_, v) => v);
  const cell = tolerance > 0 ? tolerance * 2 : 0;
  const size = 1 << Math.max(4, Math.ceil(Math.log2(count * 1.5 + 1)));
  const heads = new Int32Array(size).fill(-1);
  const links = new Int32Array(count).fill(-1);
  const bits = new Int32Array(
    positions.buffer,
    positions.byteOffset,
    positions.length,
  );
  const hash = (x: number, y: number, z: number) => {
    let h =
      Math.imul(x, 73856093) ^ Math.imul(y, 19349663) ^ Math.imul(z, 83492791);
    h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
    return (h ^ (h >>> 13)) & (size - 1);
  };
  const limit = tolerance * tolerance;
  const search = (slot: number, v: number) => {
    for (let w = heads[slot]; w >= 0; w = links[w]) {
      const dx = positions[3 * v] - positions[3 * w];
      const dy = positions[3 * v + 1] - positions[3 * w + 1];
      const dz = positions[3 * v + 2] - positions[3 * w + 2];
      if (dx * dx + dy * dy + dz * dz <= limit) return w;
    }
    return -1;
  };
  for (let v = 0; v < count; v++) {
    let found = -1;
    let home: number;
    if (cell === 0) {
      // −0 and 0 are the same place.
      home = hash(
        positions[3 * v] === 0 ? 0 : bits[3 * v],
        positions[3 * v + 1] === 0 ? 0 : bits[3 * v + 1],
        positions[3 * v + 2] === 0 ? 0 : bits[3 * v + 2],
      );
      found = search(home, v);
    } else {
      const x = positions[3 * v] / cell;
      const y = positions[3 * v + 1] / cell;
      const z = positions[3 * v + 2] / cell;
      home = hash(Math.floor(x), Math.floor(y), Math.floor(z));
      for (let k = 0; k < 8 && found < 0; k++)
        found = search(
          hash(
            Math.floor(x + (k & 1 ? 0.5 : -0.5)),
            Math.floor(y + (k & 2 ? 0.5 : -0.5)),
            Math.floor(z + (k & 4 ? 0.5 : -0.5)),
          ),
          v,
        );
    }
    if (found >= 0) target[v] = found;
    else {
      links[v] = heads[home];
      heads[home] = v;
    }
  }
  return target;
}

/**
 * Joins vertices within `tolerance` metres. Faces lose the corners that fall together; those with fewer than
 * three left go.
 * @returns the mesh, how many vertices went, how many faces went.
 */
export function weld(mesh: Mesh, tolerance: number) {
  return mergeVertices(mesh, coincident(mesh.positions, tolerance));
}

/**
 * Joins every vertex with its target. See `weld`.
 * @param target vertexCount: which vertex takes the place of each
 */
export function mergeVertices(mesh: Mesh, target: Uint32Array) {
  const faces = faceCount(mesh);
  const starts = [0];
  const oldCorner: number[] = [];
  const oldFace: number[] = [];
  for (let f = 0; f < faces; f++) {
    const begin = oldCorner.length;
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      const v = target[mesh.corners[c]];
      let twice = false;
      for (let k = begin; k < oldCorner.length && !twice; k++)
        twice = target[mesh.corners[oldCorner[k]]] === v;
      if (!twice) oldCorner.push(c);
    }
    if (oldCorner.length - begin < 3) oldCorner.length = begin;
    else {
      starts.push(oldCorner.length);
      oldFace.push(f);
    }
  }
  const from = Uint32Array.from(oldCorner);
  const welded = compactVertices(
    withFaces(
      mesh,
      Uint32Array.from(starts),
      from,
      Uint32Array.from(oldFace),
      from.map((c) => target[mesh.corners[c]]),
    ),
  );
  return {
    mesh: welded,
    verticesGone: vertexCount(mesh) - vertexCount(welded),
    facesGone: faces - oldFace.length,
  };
}
