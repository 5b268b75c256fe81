import { MeshoptEncoder } from "meshoptimizer";
import type { FlatPiece } from "./flatten-mesh";

/**
 * Orders the triangles of pieces so that a graphics card finds vertices it has just worked on, and the vertices in
 * the order they are then read (meshoptimizer). Triangles and what they look like stay the same.
 */
export async function inCacheOrder(
  pieces: readonly FlatPiece[],
): Promise<FlatPiece[]> {
  await MeshoptEncoder.ready;
  return pieces.map((piece) => {
    // Changed in place.
    const indices = Uint32Array.from(piece.indices);
    const [places, count] = MeshoptEncoder.reorderMesh(indices, true, false);
    const given = piece.positions.length / 3;
    const order = new Uint32Array(count);
    for (let v = 0; v < given; v++)
      if (places[v] !== 0xffffffff) order[places[v]] = v;
    const moved = (values: Float32Array) => {
      const width = values.length / given;
      const out = new Float32Array(width * count);
      for (let v = 0; v < count; v++)
        for (let k = 0; k < width; k++)
          out[width * v + k] = values[width * order[v] + k];
      return out;
    };
    const maybe = (values: Float32Array | null) => values && moved(values);
    return {
      ...piece,
      positions: moved(piece.positions),
      normals: moved(piece.normals),
      uvs: maybe(piece.uvs),
      tangents: maybe(piece.tangents),
      colours: maybe(piece.colours),
      marks: piece.marks.map(([name, values]) => [name, moved(values)]),
      indices: count < 65535 ? Uint16Array.from(indices) : indices,
    };
  });
}
